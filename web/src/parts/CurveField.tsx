import { Flex } from '@chakra-ui/react'
import { type ReactNode, useRef, useState } from 'react'
import { roleColour } from '../theme/system'
import { useDrag } from './useDrag'

type Point = [number, number]
const SIDE = 140

/** A curve of tones: drag its handles; a press beside it makes another one, two presses on one take it away. */
export function CurveField(p: {
  label: ReactNode
  name: string
  points: Point[]
  disabled?: boolean
  onDraft: (points: Point[]) => void
  onCommit: (points: Point[]) => void
}) {
  const svg = useRef<SVGSVGElement>(null)
  const [live, setLive] = useState<Point[] | null>(null)
  const points = [...(live ?? p.points)].sort((a, b) => a[0] - b[0])
  const at = (e: { clientX: number; clientY: number }): Point => {
    const box = svg.current!.getBoundingClientRect()
    const share = (v: number) => Math.round(Math.max(0, Math.min(1, v)) * 1000) / 1000
    return [share((e.clientX - box.left) / box.width), share(1 - (e.clientY - box.top) / box.height)]
  }
  const drag = useDrag({
    atOnce: true,
    start: (e) => {
      if (p.disabled) return null
      const [x, y] = at(e)
      const near = points.findIndex((q) => Math.hypot(q[0] - x, q[1] - y) < 0.06)
      if (e.detail === 2 && near >= 0 && points.length > 2) {
        p.onCommit(points.filter((_, n) => n !== near))
        return null
      }
      if (near < 0 && points.length >= 16) return null
      const rest = near >= 0 ? points.filter((_, n) => n !== near) : points
      return { rest, last: near >= 0 ? null : ([...rest, [x, y]] as Point[]) }
    },
    move: (_dx, _dy, h, e) => {
      h.last = [...h.rest, at(e)]
      setLive(h.last)
      p.onDraft(h.last)
    },
    end: (_moved, h) => {
      setLive(null)
      if (h.last) p.onCommit([...h.last].sort((a, b) => a[0] - b[0]))
    },
  })
  return (
    <>
      <Flex align="center" minH="26px">
        {p.label}
      </Flex>
      <svg
        ref={svg}
        role="group"
        aria-label={`${p.name}, handles`}
        viewBox={`0 0 ${SIDE} ${SIDE}`}
        width={SIDE}
        height={SIDE}
        style={{ touchAction: 'none', overflow: 'visible', display: 'block', margin: '2px 0 6px', cursor: 'crosshair' }}
        {...drag}
      >
        <rect width={SIDE} height={SIDE} rx="4" fill="var(--chakra-colors-card)" stroke={roleColour('rule')} />
        {[0.25, 0.5, 0.75].map((s) => (
          <path
            key={s}
            d={`M${s * SIDE} 0V${SIDE}M0 ${s * SIDE}H${SIDE}`}
            stroke={roleColour('rule')}
            strokeWidth="0.6"
          />
        ))}
        <path d={`M0 ${SIDE}L${SIDE} 0`} stroke={roleColour('rule')} strokeDasharray="3 3" />
        <path d={smooth(points)} fill="none" stroke={roleColour('selected')} strokeWidth="2" />
        {points.map((q) => (
          <circle
            key={q.join()}
            cx={q[0] * SIDE}
            cy={(1 - q[1]) * SIDE}
            r="4.5"
            fill="var(--chakra-colors-card)"
            stroke={roleColour('selected')}
            strokeWidth="1.8"
          />
        ))}
      </svg>
    </>
  )
}

/** The curve as it is drawn here: flat beyond its ends, never beyond its points between two. */
function smooth(points: Point[]): string {
  const n = points.length
  const slopes = points.slice(1).map((q, k) => (q[1] - points[k]![1]) / Math.max(1e-6, q[0] - points[k]![0]))
  const ends = points.map((_, k) => {
    if (k === 0) return slopes[0] ?? 0
    if (k === n - 1) return slopes[n - 2] ?? 0
    const [a, b] = [slopes[k - 1]!, slopes[k]!]
    return a * b <= 0 ? 0 : (2 * a * b) / (a + b)
  })
  const x = (v: number) => (v * SIDE).toFixed(1)
  const y = (v: number) => ((1 - v) * SIDE).toFixed(1)
  const [first, last] = [points[0]!, points[n - 1]!]
  const stretches = points.slice(1).map((q, k) => {
    const from = points[k]!
    const third = (q[0] - from[0]) / 3
    const [c, d] = [from[1] + ends[k]! * third, q[1] - ends[k + 1]! * third]
    return `C${x(from[0] + third)} ${y(c)} ${x(q[0] - third)} ${y(d)} ${x(q[0])} ${y(q[1])}`
  })
  return `M0 ${y(first[1])}L${x(first[0])} ${y(first[1])}${stretches.join('')}L${SIDE} ${y(last[1])}`
}
