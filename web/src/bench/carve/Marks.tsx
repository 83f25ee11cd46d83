import type { Mark } from '../../api/client'
import { roleColour } from '../../theme/system'
import { usePointer } from './pointer'
import type { Pan } from './Stage'

/** Keep marks as solid teal strokes, drop marks as dotted marigold ones, and the brush around the pointer. */
export function Marks(p: {
  keep: Mark[]
  drop: Mark[]
  brush: number
  side: 'keep' | 'drop' | 'rubber' | null
  pan: Pan
}) {
  const { pan } = p
  const pointer = usePointer((s) => (p.side ? s.at : null))
  const stroke = usePointer((s) => s.stroke)
  const [keep, drop] = (['keep', 'drop'] as const).map((side) =>
    stroke?.side === side ? [...p[side], stroke.mark] : p[side],
  )
  const px = 1 / pan.scale
  const teal = roleColour('selected')
  const marigold = roleColour('key')
  return (
    <svg
      style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }}
      data-testid="marks"
    >
      <g
        transform={`translate(${pan.x} ${pan.y}) scale(${pan.scale})`}
        fill="none"
        strokeLinecap="round"
        strokeLinejoin="round"
      >
        {keep!.map((m, i) => (
          <path key={i} d={line(m)} stroke={teal} strokeOpacity={0.72} strokeWidth={m.width} data-mark="keep" />
        ))}
        {drop!.map((m, i) => (
          <path
            key={i}
            d={line(m)}
            stroke={marigold}
            strokeOpacity={0.9}
            strokeWidth={m.width * 0.7}
            strokeDasharray={`0.01 ${m.width * 1.15}`}
            data-mark="drop"
          />
        ))}
        {pointer && p.side && (
          <>
            <circle
              cx={pointer.x}
              cy={pointer.y}
              r={p.brush / 2}
              stroke="#ffffff"
              strokeWidth={2.6 * px}
              strokeOpacity={0.8}
            />
            <circle
              cx={pointer.x}
              cy={pointer.y}
              r={p.brush / 2}
              stroke={p.side === 'keep' ? teal : p.side === 'drop' ? marigold : '#1E2530'}
              strokeWidth={1.4 * px}
            />
          </>
        )}
      </g>
    </svg>
  )
}

function line(m: Mark): string {
  const [first, ...rest] = m.points
  if (!first) return ''
  return `M${first[0]} ${first[1]}` + (rest.length ? rest.map(([x, y]) => `L${x} ${y}`).join('') : `l0.01 0`)
}
