import { useRef } from 'react'
import type { FrameHeader } from '../api/live'
import { useDrag } from '../parts/useDrag'
import { useOf } from '../store'
import { roleColour } from '../theme/system'
import { Corner } from './Corner'
import { covers, dragged, type Grip, type Held, inside } from './handling'
import { onCanvas, Overlay } from './Overlay'
import { can } from '../parts/finishes'

/**
 * The frame around the selected layer: drag inside to move, a corner to scale, outside a corner to turn, the cross to
 * re-anchor; what is chosen besides moves along. A press on another one selects it, two presses go into a group, or into
 * words to type them. What covers all of the picture is taken hold of where nothing else is.
 */
export function Handles(p: { header: FrameHeader | null; width: number; height: number; scale: number }) {
  const { layer, moreLayers, chooseLayer, alsoLayer, setDraft, edit, view, playing, setTyping } = useOf(
    'layer',
    'moreLayers',
    'chooseLayer',
    'alsoLayer',
    'setDraft',
    'edit',
    'view',
    'playing',
    'setTyping',
  )
  const svg = useRef<SVGSVGElement>(null)
  // A wash that works everywhere, or where another layer is, has no place of its own to take hold of.
  const placeless = new Set(view?.project.layers.filter((l) => !can(l, 'located')).map((l) => l.id))
  const outlines = (p.header?.layers ?? []).filter((o) => !placeless.has(o.id))
  const selected = outlines.find((o) => o.id === layer)
  const besides = outlines.filter((o) => moreLayers.includes(o.id))
  const px = 1 / (p.scale || 1)

  const at = (e: { clientX: number; clientY: number }) => onCanvas(e, svg.current!)
  const isLocked = (id: string) => view?.project.layers.find((l) => l.id === id)?.locked
  /** What is taken hold of: a grip of the selected one, or whatever cutout lies there. */
  const start = (e: React.PointerEvent): Held | null => {
    const point = at(e)
    const grip = (e.target as Element).closest('[data-grip]')?.getAttribute('data-grip') as Grip | undefined
    const there = [...outlines].reverse().filter((o) => inside(point, o.corners))
    const nearest = there.find((o) => !covers(o.corners, p.width, p.height)) ?? there[0]
    if ((e.ctrlKey || e.metaKey || e.shiftKey) && !grip && nearest) {
      alsoLayer(nearest.id)
      return null
    }
    const own = selected && (grip || inside(point, selected.corners)) ? selected : undefined
    const outline = own ?? besides.find((o) => inside(point, o.corners)) ?? nearest
    if (outline?.id !== layer && !moreLayers.includes(outline?.id ?? '')) chooseLayer(outline?.id ?? null)
    if (!outline || isLocked(outline.id)) return null
    return { grip: grip ?? 'move', start: point, outline, last: null }
  }
  const drag = useDrag({
    slack: 3,
    start,
    move: (_dx, _dy, held, e) => {
      const others = [...(selected ? [selected] : []), ...besides].filter((o) => !isLocked(o.id))
      held.last = dragged(held, at(e), e.shiftKey, others, view?.project.layers ?? [], px)
      setDraft(held.last)
    },
    end: (_moved, held) => {
      if (held.last) void edit(held.last)
    },
  })
  if (playing) return null
  const teal = roleColour('selected')
  const locked = selected ? isLocked(selected.id) : false
  return (
    <Overlay
      ref={svg}
      width={p.width}
      height={p.height}
      {...drag}
      onDoubleClick={(e) => {
        const point = at(e)
        const member = [...outlines]
          .reverse()
          .find((o) => inside(point, o.corners) && view?.project.layers.find((l) => l.id === o.id)?.group === layer)
        if (member && layer) return chooseLayer(member.id)
        const own = view?.project.layers.find((l) => l.id === layer)
        if (own && can(own, 'worded') && selected && inside(point, selected.corners)) setTyping(own.id)
      }}
      data-testid="handles"
    >
      <rect width={p.width} height={p.height} fill="transparent" />
      {besides.map((o) => (
        <polygon
          key={o.id}
          points={o.corners.map((c) => c.join(',')).join(' ')}
          stroke={teal}
          strokeWidth={1.4 * px}
          strokeDasharray={`${5 * px} ${3 * px}`}
          fill="transparent"
        />
      ))}
      {selected && (
        <g stroke={teal} strokeWidth={1.6 * px} fill="none">
          <polygon
            points={selected.corners.map((c) => c.join(',')).join(' ')}
            stroke="#ffffff"
            strokeOpacity={0.65}
            strokeWidth={3.2 * px}
          />
          <polygon
            points={selected.corners.map((c) => c.join(',')).join(' ')}
            fill="transparent"
            strokeDasharray={locked ? `${4 * px}` : undefined}
            style={{ cursor: locked ? 'default' : 'move' }}
            data-grip="move"
          />
          {!locked &&
            selected.corners.map((c, i) => (
              <Corner key={i} at={c} from={selected.anchor} px={px} scale="scale" turn="turn" />
            ))}
          {!locked && (
            <g
              transform={`translate(${selected.anchor[0]} ${selected.anchor[1]}) scale(${px})`}
              style={{ cursor: 'crosshair' }}
              data-grip="anchor"
            >
              <circle r="6" fill="transparent" stroke="none" />
              <path d="M-8 0H8M0-8V8" stroke="#ffffff" strokeWidth="3.4" />
              <path d="M-8 0H8M0-8V8" strokeWidth="1.6" />
              <circle r="3.4" fill="#FBF8F2" strokeWidth="1.6" />
            </g>
          )}
        </g>
      )}
    </Overlay>
  )
}
