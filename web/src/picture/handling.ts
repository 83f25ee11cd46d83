import type { Edit, Layer } from '../api/client'
import type { PlacedLayer } from '../api/live'
import { chosenTops, together, useStudio } from '../store'
import type { Point } from './Overlay'

export type Grip = 'move' | 'scale' | 'turn' | 'anchor'

/** What is being dragged, from where, and the edit that it has come to. */
export interface Held {
  grip: Grip
  start: Point
  outline: PlacedLayer
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
export function covers(corners: Point[], width: number, height: number): boolean {
  const canvas: Point[] = [
    [1, 1],
    [width - 1, 1],
    [width - 1, height - 1],
    [1, height - 1],
  ]
  return canvas.every((c) => inside(c, corners))
}

/** Source pixels of a canvas point, from where the box's corners are. */
export function toSource(p: Point, o: PlacedLayer): Point {
  const [c0, c1, , c3] = o.corners as [Point, Point, Point, Point]
  const [l, t, r, b] = o.box
  const u = minus(c1, c0)
  const v = minus(c3, c0)
  const q = minus(p, c0)
  const det = u[0] * v[1] - u[1] * v[0] || 1
  return [l + ((q[0] * v[1] - q[1] * v[0]) / det) * (r - l), t + ((u[0] * q[1] - u[1] * q[0]) / det) * (b - t)]
}

/** A movement on the canvas as one within a layer's groups, which turn and scale it. */
export function within(d: Point, [a, b, c, e]: PlacedLayer['within']): Point {
  const det = a * e - b * c || 1
  return [(e * d[0] - b * d[1]) / det, (a * d[1] - c * d[0]) / det]
}

/**
 * The edit that a grip dragged to a point of the canvas comes to.
 *
 * @param others what is chosen besides and can be moved along
 * @param px canvas pixels for each pixel of the screen
 */
export function dragged(
  d: Held,
  now: Point,
  shift: boolean,
  others: PlacedLayer[],
  layers: Layer[],
  px: number,
): Edit | null {
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
    if (shift && Math.abs(dx) > Math.abs(dy)) dy = 0
    else if (shift) dx = 0
    const all = [o, ...others.filter((x) => x.id !== o.id)]
    const tops = chosenTops(useStudio.getState())
    const moved = all.filter((x) => tops.includes(x.id) || x.id === o.id)
    return together(
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
  }
  if (d.grip === 'scale') {
    const by = far(minus(now, o.anchor)) / Math.max(1, far(minus(start, o.anchor)))
    return value('scale', [Math.max(0.01, Math.min(50, Math.round((o.values.scale?.[0] ?? 1) * by * 1000) / 1000))])
  }
  if (d.grip === 'turn') {
    const angle = (q: Point) => (Math.atan2(q[1] - o.anchor[1], q[0] - o.anchor[0]) * 180) / Math.PI
    let turn = (o.values.rotation?.[0] ?? 0) + ((angle(now) - angle(start) + 540) % 360) - 180
    if (shift) turn = Math.round(turn / 15) * 15
    return value('rotation', [Math.round(turn * 10) / 10])
  }
  const keyed = layers.find((l) => l.id === o.id)?.keys.some((k) => k.channel === 'anchor')
  return keyed
    ? { kind: 'set value', layer: o.id, channel: 'anchor', value: toSource(now, o), ...how }
    : { kind: 'change layer', layer: o.id, anchor: toSource(now, o) }
}
