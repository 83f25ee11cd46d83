import type { Point } from './Overlay'

/** The grips at a corner of what is framed on the picture: the square makes it larger or smaller, the ring outside it turns. */
export function Corner(p: { at: Point; from: Point; px: number; scale: string; turn: string }) {
  const out: Point = [p.at[0] - p.from[0], p.at[1] - p.from[1]]
  const n = Math.hypot(...out) || 1
  return (
    <g>
      <circle
        cx={p.at[0] + (out[0] / n) * 15 * p.px}
        cy={p.at[1] + (out[1] / n) * 15 * p.px}
        r={12 * p.px}
        fill="transparent"
        stroke="none"
        style={{ cursor: 'grab' }}
        data-grip={p.turn}
      />
      <rect
        x={p.at[0] - 5 * p.px}
        y={p.at[1] - 5 * p.px}
        width={10 * p.px}
        height={10 * p.px}
        rx={2 * p.px}
        fill="#FBF8F2"
        style={{ cursor: 'nwse-resize' }}
        data-grip={p.scale}
      />
    </g>
  )
}
