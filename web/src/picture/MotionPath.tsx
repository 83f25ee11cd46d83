import { useRef } from 'react'
import type { Edit } from '../api/client'
import { useDrag } from '../parts/useDrag'
import { useOf } from '../store'
import { roleColour } from '../theme/system'
import { within } from './handling'
import { onCanvas, Overlay, type Point } from './Overlay'

/**
 * The motion path of the selected layer: a dot a frame, its keys as kites to drag, their handles to bend it. Alt bends one
 * side alone; a double click makes it straight at a key.
 */
export function MotionPath(p: { width: number; height: number; scale: number }) {
  const {
    step,
    layer: id,
    moreLayers,
    view,
    motion,
    playing,
    key,
    chooseKey,
    settled,
    edit,
    setDraft,
    pushing,
  } = useOf(
    'step',
    'layer',
    'moreLayers',
    'view',
    'motion',
    'playing',
    'key',
    'chooseKey',
    'settled',
    'edit',
    'setDraft',
    'pushing',
  )
  const svg = useRef<SVGSVGElement>(null)
  const layer = view?.project.layers.find((l) => l.id === id)
  const told = motion?.owners.find((o) => o.id === id)
  const path = told?.motion.path ?? []
  const keys = told?.motion.path_keys ?? []
  const px = 1 / (p.scale || 1)
  const at = (e: React.PointerEvent) => onCanvas(e, svg.current!)
  const drag = useDrag({
    // Held on to at once: what lies below a handle must not take the pointer over.
    start: (e) => {
      const grip = (e.target as Element).closest('[data-path]')
      const found = keys.find((k) => k.id === grip?.getAttribute('data-path'))
      const own = layer?.keys.find((k) => k.id === found?.id)
      if (!found || !own || layer?.locked) return null
      chooseKey(own.id)
      if (e.detail === 2 && found.bent)
        void edit({ kind: 'change keys', of: [{ layer: id!, keys: [own.id] }], straight: true })
      return { side: grip!.getAttribute('data-side'), found, own, from: at(e), last: null as Edit | null }
    },
    move: (_dx, _dy, h, e) => {
      const now = at(e)
      const turned = h.found.turned as [number, number, number, number]
      const by = within([now[0] - h.from[0], now[1] - h.from[1]], turned)
      const of = [{ layer: id!, keys: [h.own.id] }]
      if (!h.side) {
        h.last = { kind: 'move keys', of, frames: 0, stretch: 1, around: 0, add: { position: by } }
      } else {
        const rest = (to: number[] | null | undefined): Point =>
          to ? within([to[0]! - h.found.at[0]!, to[1]! - h.found.at[1]!], turned) : [0, 0]
        const arrive = rest(h.found.arrive)
        const leave = rest(h.found.leave)
        const moved: Point =
          h.side === 'leave' ? [leave[0] + by[0], leave[1] + by[1]] : [arrive[0] + by[0], arrive[1] + by[1]]
        // The other handle stays in line with it, as long as it is.
        const other = h.side === 'leave' ? arrive : leave
        const length = Math.hypot(...other)
        const far = Math.hypot(...moved) || 1
        const line: Point = e.altKey || !length ? other : [(-moved[0] / far) * length, (-moved[1] / far) * length]
        const [a, l] = h.side === 'leave' ? [line, moved] : [moved, line]
        const bend = [...a, ...l].map((v) => Math.round(v * 10) / 10) as [number, number, number, number]
        h.last = { kind: 'change keys', of, bend, straight: false }
      }
      setDraft(h.last)
    },
    end: (_moved, h) => {
      if (h.last) void edit(h.last)
    },
  })
  if (step !== 'fly' || playing || pushing || moreLayers.length || !layer || path.length < 2) return null
  const teal = roleColour('selected')
  const first = told!.motion.path_first ?? 0
  return (
    <Overlay ref={svg} through width={p.width} height={p.height} data-testid="path" {...drag}>
      <polyline
        points={path.map((q) => q.join(',')).join(' ')}
        fill="none"
        stroke="#ffffff"
        strokeOpacity="0.7"
        strokeWidth={3 * px}
      />
      <polyline points={path.map((q) => q.join(',')).join(' ')} fill="none" stroke={teal} strokeWidth={1.6 * px} />
      {path.map((q, n) => (
        <circle
          key={n}
          cx={q[0]}
          cy={q[1]}
          r={(first + n === settled ? 4.5 : 2.2) * px}
          fill={first + n === settled ? roleColour('now') : '#FBF8F2'}
          stroke={teal}
          strokeWidth={1 * px}
        />
      ))}
      {keys.map((k) =>
        (['arrive', 'leave'] as const).map((side) => {
          const to = k[side] as Point | null
          if (!to || (k.id !== key && !k.bent)) return null
          return (
            <g key={k.id + side} opacity={k.bent ? 1 : 0.75}>
              <line
                x1={k.at[0]}
                y1={k.at[1]}
                x2={to[0]}
                y2={to[1]}
                stroke={teal}
                strokeWidth={1.2 * px}
                strokeDasharray={k.bent ? undefined : `${3 * px}`}
              />
              <circle
                cx={to[0]}
                cy={to[1]}
                r={4.6 * px}
                fill="#FBF8F2"
                stroke={teal}
                strokeWidth={1.6 * px}
                style={{ pointerEvents: 'auto', cursor: 'grab' }}
                data-path={k.id}
                data-side={side}
              />
            </g>
          )
        }),
      )}
      {keys.map((k) => (
        <g
          key={k.id}
          transform={`translate(${k.at[0]} ${k.at[1]}) scale(${px})`}
          style={{ pointerEvents: 'auto', cursor: 'move' }}
          data-path={k.id}
        >
          <title>{`Key at frame ${k.frame}. Double-click makes the path straight here`}</title>
          <path
            d="M0 -9 6 -2 0 10 -6 -2Z"
            fill={roleColour('key')}
            stroke={k.id === key ? teal : '#5B4410'}
            strokeWidth={k.id === key ? 2.4 : 1.2}
            strokeLinejoin="round"
          />
        </g>
      ))}
    </Overlay>
  )
}
