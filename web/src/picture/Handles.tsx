import { useRef } from 'react'
import type { Edit } from '../api/client'
import type { FrameHeader, Outline } from '../api/live'
import { useDrag } from '../parts/useDrag'
import { chosenTops, together, useOf, useStudio } from '../store'
import { roleColour } from '../theme/system'
import { Corner } from './Corner'
import { onCanvas, Overlay, type Point } from './Overlay'
import { can } from '../parts/finishes'

type Grip = 'move' | 'scale' | 'turn' | 'anchor'

/** What is being dragged, from where, and the edit that it has come to. */
interface Held {
  grip: Grip
  start: Point
  outline: Outline
  last: Edit | null
}

const minus = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1]]
const far = (a: Point) => Math.hypot(a[0], a[1])

export function inside(p: Point, corners: Point[]): boolean {
  let sign = 0
  for (let i = 0; i < 4; i++) {
    const a = corners[i]!
    const b = corners[(i + 1) % 4]!
    const cross = (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])
    if (sign && Math.sign(cross) !== sign) return false
    sign ||= Math.sign(cross)
  }
  return true
}

/** Whether a box covers all of the canvas. */
function covers(corners: Point[], width: number, height: number): boolean {
  const canvas: Point[] = [
    [1, 1],
    [width - 1, 1],
    [width - 1, height - 1],
    [1, height - 1],
  ]
  return canvas.every((c) => inside(c, corners))
}

/** Source pixels of a canvas point, from where the box's corners are. */
export function toSource(p: Point, o: Outline): Point {
  const [c0, c1, , c3] = o.corners as [Point, Point, Point, Point]
  const [l, t, r, b] = o.box
  const u = minus(c1, c0)
  const v = minus(c3, c0)
  const q = minus(p, c0)
  const det = u[0] * v[1] - u[1] * v[0] || 1
  return [l + ((q[0] * v[1] - q[1] * v[0]) / det) * (r - l), t + ((u[0] * q[1] - u[1] * q[0]) / det) * (b - t)]
}

/** A movement on the canvas as one within a layer's groups, which turn and scale it. */
export function within(d: Point, [a, b, c, e]: Outline['within']): Point {
  const det = a * e - b * c || 1
  return [(e * d[0] - b * d[1]) / det, (a * d[1] - c * d[0]) / det]
}

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
  const move = (e: React.PointerEvent, d: Held) => {
    const now = at(e)
    const { outline: o, start } = d
    const { playhead: frame, auto } = useStudio.getState()
    const how = { frame, key: false, shift: !auto }
    const value = (channel: 'position' | 'scale' | 'rotation', v: number[]): Edit => ({
      kind: 'set value',
      layer: o.id,
      channel,
      value: v,
      ...how,
    })
    if (d.grip === 'move') {
      let [dx, dy] = minus(now, start)
      if (e.shiftKey && Math.abs(dx) > Math.abs(dy)) dy = 0
      else if (e.shiftKey) dx = 0
      const all = [o, ...[...(selected ? [selected] : []), ...besides].filter((x) => x.id !== o.id && !isLocked(x.id))]
      const tops = chosenTops(useStudio.getState())
      const moved = all.filter((x) => tops.includes(x.id) || x.id === o.id)
      d.last = together(
        moved.map((x) => {
          const [ex, ey] = within([dx, dy], x.within)
          const [x0 = 0, y0 = 0] = x.values.position ?? []
          let to: Point = [x0 + ex, y0 + ey]
          // Near its own place it snaps home, where landing is invisible.
          if (moved.length === 1 && far(to) < 6 * px) to = [0, 0]
          const rounded = to.map((v) => Math.round(v * 10) / 10)
          return { kind: 'set value', layer: x.id, channel: 'position', value: rounded, ...how }
        }),
      )
    } else if (d.grip === 'scale') {
      const by = far(minus(now, o.anchor)) / Math.max(1, far(minus(start, o.anchor)))
      d.last = value('scale', [Math.max(0.01, Math.min(50, Math.round((o.values.scale?.[0] ?? 1) * by * 1000) / 1000))])
    } else if (d.grip === 'turn') {
      const angle = (q: Point) => (Math.atan2(q[1] - o.anchor[1], q[0] - o.anchor[0]) * 180) / Math.PI
      let turn = (o.values.rotation?.[0] ?? 0) + ((angle(now) - angle(start) + 540) % 360) - 180
      if (e.shiftKey) turn = Math.round(turn / 15) * 15
      d.last = value('rotation', [Math.round(turn * 10) / 10])
    } else {
      const keyed = view?.project.layers.find((l) => l.id === o.id)?.keys.some((k) => k.channel === 'anchor')
      d.last = keyed
        ? { kind: 'set value', layer: o.id, channel: 'anchor', value: toSource(now, o), ...how }
        : { kind: 'change layer', layer: o.id, anchor: toSource(now, o) }
    }
    setDraft(d.last)
  }
  const drag = useDrag({
    slack: 3,
    start,
    move: (_dx, _dy, held, e) => move(e, held),
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
