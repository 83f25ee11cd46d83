import { useRef } from 'react'
import { useWritten } from '../../store'
import { roleColour } from '../../theme/system'
import { type Chart, endsOf, labelled, PAD, ruled } from './chart'
import { type Line, valueAt } from './lines'

/** Lines are told apart by colour and by dashes. */
const STROKES: [Parameters<typeof roleColour>[0], string?][] = [
  ['selected'],
  ['sound'],
  ['ink', '5 3'],
  ['keyInk', '2 3'],
  ['soft', '8 3 2 3'],
]
const strokeOf = (n: number) => STROKES[n % STROKES.length]!

/** What lies behind the curves: the times, where moments and cuts are, where things begin and land, the playhead. */
export function Ruled({ chart }: { chart: Chart }) {
  const { x, w, h, first, last, told } = chart
  return (
    <>
      {ruled(first, last, chart.wide).map((f) => (
        <line key={f} x1={x(f)} x2={x(f)} y1={PAD.top} y2={h} stroke={roleColour('rule')} strokeOpacity="0.7" />
      ))}
      {told
        .flatMap((m) => m.marks)
        .map((m) => (
          <g key={m.to}>
            <title>{`${m.tie === 'cut' ? 'Cut to' : 'Moment'} ${m.name}`}</title>
            <path d={`M${x(m.frame)} ${PAD.top - 8}v8`} stroke={roleColour('now')} strokeWidth="1.5" />
          </g>
        ))}
      {endsOf(told, last).map(([f, name]) => (
        <g key={name + f}>
          <line x1={x(f)} x2={x(f)} y1={PAD.top} y2={h} stroke={roleColour('soft')} strokeDasharray="2 3" />
          <text x={Math.min(x(f) + 3, w - 70)} y={13} style={{ fontSize: 11 }} fill={roleColour('soft')}>
            {name}
          </text>
        </g>
      ))}
      <Cursor x={x} first={first} last={last} h={h} />
    </>
  )
}

/** The playhead, where it lies among the frames that are shown. */
function Cursor(p: { x: (frame: number) => number; first: number; last: number; h: number }) {
  const line = useRef<SVGLineElement>(null)
  useWritten(
    (s) => (s.playhead < p.first || s.playhead > p.last ? null : p.x(s.playhead)),
    (x) => {
      line.current!.style.visibility = x === null ? 'hidden' : 'visible'
      line.current!.style.transform = `translateX(${x ?? 0}px)`
    },
  )
  return <line ref={line} y1="0" y2={p.h} stroke={roleColour('now')} strokeWidth="1.5" />
}

/** The curves themselves, and their names; the line in front is the thickest. */
export function CurveLines(p: { chart: Chart; front: Line | undefined; onFront: (line: string) => void }) {
  const { lines, pace, x, y } = p.chart
  const height = (l: Line, f: number) => y(l, valueAt(l, f, pace))
  return (
    <>
      {lines.map((l, n) => (
        <polyline
          key={l.id}
          points={(pace ? l.pace : l.amount)
            .map((v, i) => `${x(l.first + i * l.step).toFixed(1)},${y(l, v).toFixed(1)}`)
            .join(' ')}
          fill="none"
          stroke={roleColour(strokeOf(n)[0])}
          strokeWidth={l.id === p.front?.id ? 2.2 : 1.4}
          strokeOpacity={l.still ? 0.45 : 1}
          strokeDasharray={l.still ? '2 4' : strokeOf(n)[1]}
        />
      ))}
      {labelled(lines, height, p.chart.frameAt, p.chart.w, p.chart.h, p.chart.places).map(({ line: l, lx, ly, n }) => (
        <text
          key={l.id}
          x={lx}
          y={ly}
          fill={roleColour(strokeOf(n)[0])}
          stroke={roleColour('paper')}
          strokeWidth="3"
          paintOrder="stroke"
          style={{ cursor: 'pointer', fontSize: 11.5, fontWeight: l.id === p.front?.id ? 700 : 500 }}
          onPointerDown={(e) => {
            e.stopPropagation()
            p.onFront(l.id)
          }}
        >
          {l.label}
        </text>
      ))}
    </>
  )
}
