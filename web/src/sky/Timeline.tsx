import { Box, Flex } from '@chakra-ui/react'
import { Maximize2, ZoomIn, ZoomOut } from 'lucide-react'
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { GroundLane } from '../ground/GroundLane'
import { Empty, Tool } from '../parts/buttons'
import { useStudio } from '../shell/store'
import { roleColour } from '../theme/system'
import { Lane } from './Lane'
import { LABEL, LANE, RULER } from './measures'
import { Ruler } from './Ruler'

/** Sky and ground on one measure of time: the layers' lanes above, the footage below, and the lines between. */
export function Timeline() {
  const view = useStudio((s) => s.view)!
  const selected = useStudio((s) => s.layer)
  const scroller = useRef<HTMLDivElement>(null)
  const [room, setRoom] = useState(600)
  const [zoom, setZoom] = useState<number | null>(null)
  const length = Math.max(1, view.length)
  const fit = Math.max(0.2, (room - LABEL - 40) / length)
  const per = zoom ?? fit
  const layers = useMemo(() => [...view.project.layers].reverse(), [view.project.layers])

  useEffect(() => {
    const box = scroller.current
    if (!box) return
    const watch = new ResizeObserver(([e]) => setRoom(e!.contentRect.width))
    watch.observe(box)
    const onWheel = (e: WheelEvent) => {
      if (!e.ctrlKey) return
      e.preventDefault()
      scale(e.deltaY < 0 ? 1.25 : 0.8, e.clientX - box.getBoundingClientRect().left + box.scrollLeft - LABEL)
    }
    box.addEventListener('wheel', onWheel, { passive: false })
    return () => {
      watch.disconnect()
      box.removeEventListener('wheel', onWheel)
    }
  })

  const scale = (by: number, around = useStudio.getState().playhead * per) => {
    const next = Math.max(fit, Math.min(40, per * by))
    const box = scroller.current
    setZoom(next <= fit ? null : next)
    if (box) requestAnimationFrame(() => (box.scrollLeft += around * (next / per - 1)))
  }

  if (view.length === 0) {
    return (
      <Box h="100%" bg="skyTop">
        <Empty title="Sky and ground">
          Footage lies on the ground here, in order. Cutouts fly above it, each on a line to its own frame.
        </Empty>
      </Box>
    )
  }
  const wide = LABEL + length * per + 40
  const lines = layers.map((layer, n) => ({ layer, n, info: view.layers[layer.id] }))
  const skyHeight = Math.max(layers.length, 1) * LANE + 10
  return (
    <Box position="relative" h="100%" bg="skyTop">
      <Flex position="absolute" left="6px" top="1px" zIndex="6" bg="skyTop">
        <Tool icon={ZoomOut} label="Zoom time out" size={26} disabled={zoom === null} onClick={() => scale(0.66)} />
        <Tool icon={ZoomIn} label="Zoom time in" size={26} onClick={() => scale(1.5)} />
        <Tool icon={Maximize2} label="Show all" size={26} disabled={zoom === null} onClick={() => setZoom(null)} />
      </Flex>
      <Box ref={scroller} h="100%" overflow="auto" data-testid="timeline">
        <Box position="relative" w={`${Math.max(wide, room)}px`} minH="100%">
          <Ruler per={per} />
          <Box position="relative" minH={`${skyHeight}px`} pt="4px">
            {layers.length === 0 && (
              <Flex pl={`${LABEL}px`} h={`${LANE}px`} align="center" color="soft">
                The sky is empty. Hold a frame (H) and its cutout flies here.
              </Flex>
            )}
            {lines.map(
              ({ layer, info }, n) => info && <Lane key={layer.id} layer={layer} info={info} row={n} per={per} />,
            )}
          </Box>
          <GroundLane per={per} />
          <Over zIndex={3}>
            {lines.map(({ layer, n, info }) => {
              if (info?.landing == null) return null
              const x = LABEL + info.landing * per
              const from = RULER + 4 + n * LANE + LANE - 3
              const to = RULER + skyHeight + 6
              const chosen = layer.id === selected
              // Each line sways a little to its own side, so that lines close together stay apart.
              const sway = ((n % 3) - 1) * 5 + 3
              return (
                <g key={layer.id} opacity={chosen ? 1 : 0.5}>
                  <path
                    d={`M${x} ${from}C${x + sway} ${from + (to - from) * 0.4} ${x - sway} ${from + (to - from) * 0.6} ${x} ${to}`}
                    fill="none"
                    stroke={roleColour('now')}
                    strokeWidth={chosen ? 1.8 : 1.1}
                  />
                  <circle cx={x} cy={to} r={chosen ? 3.6 : 2.6} fill={roleColour('now')} />
                </g>
              )
            })}
          </Over>
          <Over zIndex={5}>
            <Playhead per={per} />
          </Over>
        </Box>
      </Box>
    </Box>
  )
}

/** What is drawn over lanes and ground, and lets the pointer through: the lines below ruler and ground, the playhead over both. */
function Over(p: { zIndex: number; children: ReactNode }) {
  return (
    <svg
      style={{
        position: 'absolute',
        left: 0,
        top: 0,
        width: '100%',
        height: '100%',
        pointerEvents: 'none',
        zIndex: p.zIndex,
      }}
      aria-hidden="true"
    >
      {p.children}
    </svg>
  )
}

/** Where the piece is looked at: this line and its mark in the ruler alone are drawn again while the piece plays. */
function Playhead({ per }: { per: number }) {
  const x = useStudio((s) => LABEL + (s.playhead + 0.5) * per)
  return <line x1={x} x2={x} y1={RULER - 12} y2="100%" stroke={roleColour('now')} strokeWidth="1.5" />
}
