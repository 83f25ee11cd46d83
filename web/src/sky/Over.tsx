import { Flex } from '@chakra-ui/react'
import { memo, type ReactNode, useRef } from 'react'
import { ABOVE, LABEL, LANE, RULER } from '../ground/measures'
import { useOf, useStudio, useWritten } from '../store'
import { roleColour } from '../theme/system'

/** The line from a cutout down to the frame it was held from. */
export const Line = memo(function Line({
  layer,
  number,
  x,
  to,
}: {
  layer: string
  number: number
  x: number
  to: number
}) {
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
export function Over(p: { zIndex: number; children: ReactNode }) {
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
export function Playhead({ per }: { per: number }) {
  const line = useRef<SVGLineElement>(null)
  useWritten(
    (s) => LABEL + (s.playhead + 0.5) * per,
    (x) => (line.current!.style.transform = `translateX(${x}px)`),
  )
  return <line ref={line} y1={RULER - 12} y2="100%" stroke={roleColour('now')} strokeWidth="1.5" />
}

/** Where what is dragged off the shelf would come to lie in the sky. */
export function Landing({ per }: { per: number }) {
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
export function Snapped({ per }: { per: number }) {
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
