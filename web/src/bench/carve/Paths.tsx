import type { Node, Shape } from '../../api/client'
import { roleColour } from '../../theme/system'
import { corner, type Point, svgPath } from './path'
import { usePointer } from './pointer'
import type { Pan } from './Stage'

/** The pieces' outlines over the stage, with points and tangents where they can be taken hold of. */
export function Paths(p: {
  pieces: Shape[]
  piece: string | null
  chosen: Set<number>
  drawing: Node[] | null
  open: boolean
  line: Point[] | null
  ahead: Point[]
  anchors: Point[]
  cross: Point | null
  pan: Pan
  editing: boolean
  /** Left of here, in stage pixels, the frame is as filmed: no outlines, unless points are chosen. */
  until: number | null
}) {
  const { pan } = p
  const px = 1 / pan.scale
  const teal = roleColour('selected')
  // A path that is open goes on to the pointer, or to the cross that the keys move.
  const open = p.drawing !== null && p.open
  const pointer = usePointer((s) => (open ? (p.cross ?? s.at) : null))
  const next = p.drawing && pointer ? [...p.drawing, corner(pointer)] : p.drawing
  return (
    <svg
      style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }}
      data-testid="paths"
    >
      <clipPath id="after">
        <rect x={p.until ?? 0} width="100%" height="100%" />
      </clipPath>
      <g clipPath={p.until === null || (p.editing && p.chosen.size > 0) ? undefined : 'url(#after)'}>
        <g transform={`translate(${pan.x} ${pan.y}) scale(${pan.scale})`} fill="none" strokeLinejoin="round">
          {p.pieces.map((piece) => {
            const mine = piece.id === p.piece
            const d = svgPath(piece.nodes, true)
            return (
              <g key={piece.id} opacity={piece.visible ? 1 : 0.4}>
                <path d={d} stroke="#ffffff" strokeOpacity={0.75} strokeWidth={(mine ? 3.4 : 2.4) * px} />
                <path
                  d={d}
                  stroke={mine ? teal : '#1E2530'}
                  strokeWidth={(mine ? 1.7 : 1.1) * px}
                  strokeDasharray={piece.combine === 'add' ? undefined : `${5 * px} ${3 * px}`}
                />
                {mine && p.editing && <Points nodes={piece.nodes} chosen={p.chosen} px={px} />}
              </g>
            )
          })}
        </g>
      </g>
      <g transform={`translate(${pan.x} ${pan.y}) scale(${pan.scale})`} fill="none" strokeLinejoin="round">
        {next && (
          <g>
            <path d={svgPath(next, !p.open)} stroke="#ffffff" strokeOpacity={0.75} strokeWidth={3.4 * px} />
            <path d={svgPath(next, !p.open)} stroke={teal} strokeWidth={1.7 * px} />
            {p.open && (
              <>
                <Points nodes={p.drawing!} chosen={new Set([p.drawing!.length - 1])} px={px} />
                <circle cx={p.drawing![0]!.x} cy={p.drawing![0]!.y} r={8 * px} stroke={teal} strokeWidth={1.2 * px} />
              </>
            )}
          </g>
        )}
        {p.line && (
          <g>
            <polyline points={listed(p.line)} stroke="#ffffff" strokeOpacity={0.75} strokeWidth={3.4 * px} />
            <polyline points={listed(p.line)} stroke={teal} strokeWidth={1.7 * px} />
            <polyline points={listed(p.ahead)} stroke="#ffffff" strokeOpacity={0.75} strokeWidth={3 * px} />
            <polyline
              points={listed(p.ahead)}
              stroke={teal}
              strokeWidth={1.5 * px}
              strokeDasharray={`${4 * px} ${3 * px}`}
              data-testid="ahead"
            />
            {p.anchors.map((a, i) => (
              <circle
                key={i}
                cx={a.x}
                cy={a.y}
                r={(i ? 3.4 : 6) * px}
                fill="#FBF8F2"
                stroke={teal}
                strokeWidth={1.4 * px}
              />
            ))}
          </g>
        )}
        {p.cross && (
          <path
            d={`M${p.cross.x - 9 * px} ${p.cross.y}h${18 * px}M${p.cross.x} ${p.cross.y - 9 * px}v${18 * px}`}
            stroke={roleColour('now')}
            strokeWidth={1.8 * px}
          />
        )}
      </g>
    </svg>
  )
}

const listed = (line: Point[]) => line.map((q) => `${q.x},${q.y}`).join(' ')

function Points({ nodes, chosen, px }: { nodes: Node[]; chosen: Set<number>; px: number }) {
  const teal = roleColour('selected')
  // Many points close together would hide the edge that they describe.
  const around = nodes.reduce((sum, n, i) => {
    const m = nodes[(i + 1) % nodes.length]!
    return sum + Math.hypot(m.x - n.x, m.y - n.y)
  }, 0)
  const small = Math.max(1.3, Math.min(3.4, around / nodes.length / px / 4.5))
  return (
    <>
      {nodes.map(
        (n, i) =>
          chosen.has(i) &&
          (['arrive', 'leave'] as const).map((side) => {
            const [x, y] = n[side]
            if (!x && !y) return null
            return (
              <g key={`${i}${side}`}>
                <line x1={n.x} y1={n.y} x2={n.x + x} y2={n.y + y} stroke={teal} strokeWidth={1.2 * px} />
                <circle cx={n.x + x} cy={n.y + y} r={4 * px} fill="#FBF8F2" stroke={teal} strokeWidth={1.5 * px} />
              </g>
            )
          }),
      )}
      {nodes.map((n, i) => {
        const on = chosen.has(i)
        const paint = { fill: on ? teal : '#FBF8F2', stroke: teal, strokeWidth: Math.min(1.4, small / 1.6) * px }
        const r = (on ? 4.4 : small) * px
        return n.smooth ? (
          <circle key={i} cx={n.x} cy={n.y} r={r} {...paint} />
        ) : (
          <rect key={i} x={n.x - r} y={n.y - r} width={2 * r} height={2 * r} {...paint} />
        )
      })}
    </>
  )
}
