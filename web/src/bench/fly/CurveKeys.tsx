import { useOf } from '../../store'
import { roleColour } from '../../theme/system'
import { type Chart, handlesOf, PAD } from './chart'
import type { Line } from './lines'
import type { Rectangle } from './useCurveHand'

/** The keys of all lines; those of the line in front lie over the others. */
export function CurveKeys({ places, chosen }: { places: Chart['places']; chosen: string[] }) {
  const { seek, chooseKey } = useOf('seek', 'chooseKey')
  return places.map((p) => (
    <g
      key={`${p.line.id}${p.key.id}`}
      transform={`translate(${p.x} ${p.y})`}
      role="button"
      tabIndex={0}
      aria-label={`${p.line.label} key at frame ${p.frame}`}
      aria-pressed={chosen.includes(p.key.id)}
      data-grip="keys"
      data-key={p.key.id}
      data-line={p.line.id}
      style={{ cursor: 'pointer', outlineOffset: 2 }}
      onKeyDown={(e) => {
        if (e.key !== 'Enter' && e.key !== ' ') return
        e.preventDefault()
        chooseKey(p.key.id)
        seek(p.frame)
      }}
    >
      <rect x="-8" y="-9" width="16" height="20" fill="transparent" />
      <path
        d="M0 -8 5.4 -1.6 0 8.6 -5.4 -1.6Z"
        fill={roleColour('key')}
        stroke={chosen.includes(p.key.id) ? roleColour('selected') : '#5B4410'}
        strokeWidth={chosen.includes(p.key.id) ? 2.4 : 1}
        strokeLinejoin="round"
      />
    </g>
  ))
}

/** Both ends of the chosen keys, to draw them out in time. */
export function ChosenEnds({ chart, chosen }: { chart: Chart; chosen: string[] }) {
  const frames = chart.places.filter((p) => chosen.includes(p.key.id)).map((p) => p.frame)
  const [from, to] = [Math.min(...frames), Math.max(...frames)]
  if (frames.length < 2 || to <= from) return null
  const { x } = chart
  return (
    <g>
      <line x1={x(from)} x2={x(to)} y1={PAD.top + 4} y2={PAD.top + 4} stroke={roleColour('selected')} />
      {(['left', 'right'] as const).map((side) => (
        <rect
          key={side}
          data-grip={side}
          aria-label={side === 'left' ? 'Draw out at the beginning' : 'Draw out at the end'}
          x={x(side === 'left' ? from : to) - 4}
          y={PAD.top - 3}
          width="8"
          height="14"
          rx="2"
          fill={roleColour('card')}
          stroke={roleColour('selected')}
          strokeWidth="1.6"
          style={{ cursor: 'ew-resize' }}
        />
      ))}
    </g>
  )
}

/** The handles that bend the curve on both sides of a key. */
export function CurveHandles({ chart, front, id }: { chart: Chart; front: Line; id: string }) {
  const { x, y } = chart
  return handlesOf(front, id).map((handle) => (
    <g key={handle.side}>
      <line
        x1={x(handle.frame)}
        y1={y(front, handle.value)}
        x2={x(handle.at[0])}
        y2={y(front, handle.at[1])}
        stroke={roleColour('selected')}
      />
      <circle
        cx={x(handle.at[0])}
        cy={y(front, handle.at[1])}
        r="5"
        fill={roleColour('card')}
        stroke={roleColour('selected')}
        strokeWidth="1.8"
        style={{ cursor: 'grab' }}
        data-grip={handle.side}
        data-key={handle.key}
      />
    </g>
  ))
}

/** The rectangle that chooses keys, while it is drawn. */
export const Lassoed = ({ rectangle: [x, y, width, height] }: { rectangle: Rectangle }) => (
  <rect
    x={x}
    y={y}
    width={width}
    height={height}
    fill={roleColour('selectedWash')}
    fillOpacity="0.5"
    stroke={roleColour('selected')}
  />
)
