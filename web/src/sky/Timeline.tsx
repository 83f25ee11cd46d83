import { Box, Flex } from '@chakra-ui/react'
import { useVirtualizer } from '@tanstack/react-virtual'
import { Magnet, Maximize2, ZoomIn, ZoomOut } from 'lucide-react'
import { memo, type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { GroundLane } from '../ground/GroundLane'
import { GROUND } from '../ground/place'
import { Empty, Tool } from '../parts/buttons'
import { useDrag } from '../parts/useDrag'
import { useOf, useStudio, useWritten } from '../store'
import { roleColour } from '../theme/system'
import { AddMenu } from './AddMenu'
import { Lane } from './Lane'
import { LABEL, LANE, RULER } from '../ground/measures'
import { Ruler } from './Ruler'
import { rowsOf } from './rows'
import { useDropped } from './useDropped'

const ABOVE = RULER + 4

/** Sky and ground on one measure of time: the layers' lanes above, the footage below, and the lines between. */
export function Timeline() {
  const {
    view: shown,
    folded,
    chooseLayers,
    snap,
    toggleSnap,
    layer: chosen,
  } = useOf('view', 'folded', 'chooseLayers', 'snap', 'toggleSnap', 'layer')
  const view = shown!
  const scroller = useRef<HTMLDivElement>(null)
  const [room, setRoom] = useState(600)
  const [zoom, setZoom] = useState<number | null>(null)
  const [box, setBox] = useState<[number, number, number, number] | null>(null)
  const length = Math.max(1, view.length)
  const fit = Math.max(0.2, (room - LABEL - 40) / length)
  const per = zoom ?? fit
  const rows = useMemo(() => rowsOf(view, folded, chosen), [view, folded, chosen])
  const lanes = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LANE,
    scrollMargin: ABOVE,
    // Times and ground lie over the lanes.
    scrollPaddingStart: ABOVE,
    scrollPaddingEnd: GROUND + 10,
    overscan: 8,
    getItemKey: (n) => rows[n]!.layer.id,
  })

  // What is chosen elsewhere, or has just been put in, is seen here as well.
  const index = rows.findIndex((r) => r.layer.id === chosen)
  const toChosen = useRef(lanes)
  toChosen.current = lanes
  useEffect(() => {
    if (index >= 0) toChosen.current.scrollToIndex(index, { align: 'auto' })
    // Only as something else is chosen: whoever has scrolled away stays there.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [chosen])

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

  /** Where the pointer is: pixels right of the names, and lanes from the top one on. */
  const place = (e: React.MouseEvent): [number, number] => {
    const area = scroller.current!.getBoundingClientRect()
    const { scrollLeft, scrollTop } = scroller.current!
    return [e.clientX - area.left + scrollLeft - LABEL, (e.clientY - area.top + scrollTop - ABOVE) / LANE]
  }
  const within = ([x0, y0, x1, y1]: [number, number, number, number]) => {
    const [left, right] = [Math.min(x0, x1) / per, Math.max(x0, x1) / per]
    const [top, bottom] = [Math.min(y0, y1), Math.max(y0, y1)]
    return rows
      .filter((_, n) => n + 1 > top && n < bottom)
      .filter(({ layer }) => {
        const info = view.layers[layer.id]
        return info?.start != null && info.end != null && info.start < right && info.end > left
      })
      .map((r) => r.layer.id)
  }
  const boxing = useDrag({
    slack: 4,
    start: (e) => ((e.target as HTMLElement).closest('[data-layer]') ? null : place(e)),
    move: (_dx, _dy, from, e) => setBox([...from, ...place(e)]),
    end: (moved, from, e) => {
      setBox(null)
      chooseLayers(moved ? within([...from, ...place(e)]) : [])
    },
  })

  const dropped = useDropped(rows, per, place)

  if (view.length === 0) {
    return (
      <Box ref={scroller} h="100%" bg="skyTop" {...dropped}>
        <Empty title="Sky and ground">
          Footage lies on the ground here, in order. Cutouts fly above it, each on a line to its own frame.
        </Empty>
      </Box>
    )
  }
  const wide = LABEL + length * per + 40
  const skyHeight = Math.max(rows.length, 1) * LANE + 10
  return (
    <Box position="relative" h="100%" bg="skyTop">
      <Flex position="absolute" left="6px" top="1px" zIndex="6" bg="skyTop">
        <AddMenu />
        <Tool icon={ZoomOut} label="Zoom time out" size={26} disabled={zoom === null} onClick={() => scale(0.66)} />
        <Tool icon={ZoomIn} label="Zoom time in" size={26} onClick={() => scale(1.5)} />
        <Tool icon={Maximize2} label="Show all" size={26} disabled={zoom === null} onClick={() => setZoom(null)} />
        <Tool
          icon={Magnet}
          label="Snap"
          hint="What is dragged in time snaps to cuts, moments, beats, ends of spans, the playhead and whole seconds"
          size={26}
          on={snap}
          onClick={toggleSnap}
        />
      </Flex>
      <Box ref={scroller} h="100%" overflow="auto" data-testid="timeline" {...dropped}>
        <Flex direction="column" position="relative" w={`${Math.max(wide, room)}px`} minH="100%">
          <Ruler per={per} />
          <Box
            position="relative"
            flex="1"
            minH={`${skyHeight}px`}
            touchAction="none"
            userSelect="none"
            data-testid="sky"
            {...boxing}
          >
            {rows.length === 0 && (
              <Flex pl={`${LABEL}px`} h={`${LANE}px`} pt="4px" align="center" color="soft">
                The sky is empty. Hold a frame (H) and its cutout flies here.
              </Flex>
            )}
            {lanes.getVirtualItems().map(({ index, key, start }) => (
              <Box key={key} position="absolute" left="0" right="0" top="0" style={{ top: start - RULER }}>
                <Lane row={rows[index]!} number={index} rows={rows} per={per} />
              </Box>
            ))}
            <Landing per={per} />
            {box && (
              <Box
                position="absolute"
                pointerEvents="none"
                border="1.5px dashed {colors.selected}"
                bg="selected/15"
                style={{
                  left: LABEL + Math.min(box[0], box[2]),
                  width: Math.abs(box[2] - box[0]),
                  top: 4 + Math.min(box[1], box[3]) * LANE,
                  height: Math.abs(box[3] - box[1]) * LANE,
                }}
              />
            )}
          </Box>
          <GroundLane per={per} />
          <Over zIndex={3}>
            {lanes.getVirtualItems().map(({ index }) => {
              const { layer } = rows[index]!
              const landing = view.layers[layer.id]?.hold && view.layers[layer.id]?.landing
              if (typeof landing !== 'number') return null
              return (
                <Line
                  key={layer.id}
                  layer={layer.id}
                  number={index}
                  x={LABEL + landing * per}
                  to={RULER + skyHeight + 2}
                />
              )
            })}
          </Over>
          <Over zIndex={5}>
            <Snapped per={per} />
            <Playhead per={per} />
          </Over>
        </Flex>
      </Box>
    </Box>
  )
}

/** The line from a cutout down to the frame it was held from. */
const Line = memo(function Line({ layer, number, x, to }: { layer: string; number: number; x: number; to: number }) {
  const chosen = useStudio((s) => s.layer === layer || s.moreLayers.includes(layer))
  const from = ABOVE + number * LANE + LANE - 3
  // Each line sways a little to its own side, so that lines close together stay apart.
  const sway = ((number % 3) - 1) * 5 + 3
  return (
    <g opacity={chosen ? 1 : 0.5}>
      <path
        d={`M${x} ${from}C${x + sway} ${from + (to - from) * 0.4} ${x - sway} ${from + (to - from) * 0.6} ${x} ${to}`}
        fill="none"
        stroke={roleColour('now')}
        strokeWidth={chosen ? 1.8 : 1.1}
      />
      <circle cx={x} cy={to} r={chosen ? 3.6 : 2.6} fill={roleColour('now')} />
    </g>
  )
})

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

/** Where the piece is looked at. */
function Playhead({ per }: { per: number }) {
  const line = useRef<SVGLineElement>(null)
  useWritten(
    (s) => LABEL + (s.playhead + 0.5) * per,
    (x) => (line.current!.style.transform = `translateX(${x}px)`),
  )
  return <line ref={line} y1={RULER - 12} y2="100%" stroke={roleColour('now')} strokeWidth="1.5" />
}

/** Where what is dragged off the shelf would come to lie in the sky. */
function Landing({ per }: { per: number }) {
  const { target, carried, view } = useOf('target', 'carried', 'view')
  if (!carried || target?.zone !== 'sky') return null
  const frames = Math.min(carried.frames, view!.length - target.frame)
  return (
    <Flex
      position="absolute"
      pointerEvents="none"
      align="center"
      px="2"
      border="1.5px dashed {colors.selected}"
      borderRadius="soft"
      bg="selected/15"
      fontSize="12px"
      fontWeight="600"
      whiteSpace="nowrap"
      data-testid="landing"
      style={{
        left: LABEL + target.frame * per,
        width: Math.max(24, frames * per),
        top: 4 + target.row * LANE + 3,
        height: LANE - 6,
      }}
    >
      {carried.name}
    </Flex>
  )
}

/** Where what is dragged has snapped to. */
function Snapped({ per }: { per: number }) {
  const frame = useStudio((s) => s.snappedTo)
  if (frame === null) return null
  const x = LABEL + frame * per
  return (
    <line
      data-testid="snapped"
      x1={x}
      x2={x}
      y1={RULER}
      y2="100%"
      stroke={roleColour('selected')}
      strokeWidth="1.5"
      strokeDasharray="5 3"
    />
  )
}
