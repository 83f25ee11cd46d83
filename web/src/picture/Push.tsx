import { useDrag } from '../parts/useDrag'
import { useOf, useStudio } from '../store'
import type { Window } from '../store'
import { roleColour } from '../theme/system'
import { Overlay } from './Overlay'

type Side = 'start' | 'end'

/** The two parts of the canvas that a slow push goes between: drag one to move it, its corner to make it larger or smaller. */
export function Push(p: { width: number; height: number; scale: number }) {
  const { pushing, setPushing } = useOf('pushing', 'setPushing')
  const px = 1 / (p.scale || 1)
  const drag = useDrag({
    start: (e) => {
      const grip = (e.target as Element).closest('[data-push]')
      if (!grip || !pushing) return null
      const side = grip.getAttribute('data-push') as Side
      return { side, corner: grip.getAttribute('data-corner'), from: pushing[side] }
    },
    move: (dx, dy, h) => {
      const now = useStudio.getState().pushing
      if (!now) return
      const [x, y] = [(dx * px) / p.width, (dy * px) / p.height]
      const grown = h.from.size * (1 + (h.corner?.includes('l') ? -2 : 2) * (x / Math.max(0.05, h.from.size)))
      const next: Window = h.corner
        ? { ...h.from, size: Math.max(0.05, Math.min(3, grown)) }
        : { ...h.from, across: h.from.across + x, down: h.from.down + y }
      setPushing({ ...now, [h.side]: next })
    },
  })
  if (!pushing) return null
  const rectangle = (side: Side) => {
    const { across, down, size } = pushing[side]
    const [w, h] = [p.width * size, p.height * size]
    const [l, t] = [p.width * (0.5 + across) - w / 2, p.height * (0.5 + down) - h / 2]
    const colour = roleColour(side === 'start' ? 'key' : 'selected')
    return (
      <g key={side}>
        <rect
          x={l}
          y={t}
          width={w}
          height={h}
          fill="transparent"
          stroke="#ffffff"
          strokeOpacity="0.6"
          strokeWidth={4 * px}
        />
        <rect
          x={l}
          y={t}
          width={w}
          height={h}
          fill="transparent"
          stroke={colour}
          strokeWidth={2 * px}
          strokeDasharray={side === 'start' ? `${7 * px} ${5 * px}` : undefined}
          style={{ cursor: 'move' }}
          data-push={side}
        />
        <g
          transform={`translate(${side === 'start' ? l + 8 * px : l + w - 46 * px} ${t + 8 * px}) scale(${px})`}
          style={{ pointerEvents: 'none' }}
        >
          <rect width={side === 'start' ? 48 : 38} height="17" rx="4" fill="#FBF8F2" fillOpacity="0.9" />
          <text x="6" y="12.5" fill="#1E2530" style={{ fontSize: 11.5, fontWeight: 600 }}>
            {side === 'start' ? 'begins' : 'ends'}
          </text>
        </g>
        {(['l', 'r'] as const).flatMap((x) =>
          ([0, 1] as const).map((y) => (
            <rect
              key={x + y}
              x={(x === 'l' ? l : l + w) - 5 * px}
              y={t + y * h - 5 * px}
              width={10 * px}
              height={10 * px}
              rx={2 * px}
              fill="#FBF8F2"
              stroke={colour}
              strokeWidth={1.6 * px}
              style={{ cursor: 'nwse-resize' }}
              data-push={side}
              data-corner={x}
            />
          )),
        )}
      </g>
    )
  }
  return (
    <Overlay width={p.width} height={p.height} data-testid="push" {...drag}>
      {/* The smaller one lies on top, where it can be taken hold of. */}
      {pushing.start.size >= pushing.end.size
        ? [rectangle('start'), rectangle('end')]
        : [rectangle('end'), rectangle('start')]}
    </Overlay>
  )
}
