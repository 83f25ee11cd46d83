import { type PointerEvent, type RefObject, useState } from 'react'
import type { Edit, GroundItem, Layer } from '../../api/client'
import { letGo, snapFrames, snapped } from '../../ground/snap'
import { useDrag } from '../../parts/useDrag'
import { useOf } from '../../store'
import { type Chart, PAD } from './chart'
import { type Line, only, owned, valueAt } from './lines'

interface Held {
  what: 'keys' | 'in' | 'out' | 'left' | 'right' | 'box' | 'seek'
  line?: Line
  key?: string
  keys: string[]
  x: number
  y: number
  /** The frames of the chosen keys, where the drag began. */
  frames: number[]
  last: Edit | null
  /** For a key that is moved: the frame it was on, and those that it may snap to. */
  from?: number
  snaps?: number[]
}

/** Left, top, width, height. */
export type Rectangle = [number, number, number, number]

/**
 * What the pointer does on the curves: it drags keys in time and value, draws their handles and the ends of what is
 * chosen, seeks along the top, chooses with a rectangle, and brings a line to the front.
 */
export function useCurveHand(
  svg: RefObject<SVGSVGElement | null>,
  owners: (Layer | GroundItem)[],
  chart: Chart,
  front: Line | undefined,
  bring: (line: string | null) => void,
) {
  const { seek, edit, setDraft, key, moreKeys, chooseKey, chooseKeys, alsoKey } = useOf(
    'seek',
    'edit',
    'setDraft',
    'key',
    'moreKeys',
    'chooseKey',
    'chooseKeys',
    'alsoKey',
  )
  const [rectangle, setRectangle] = useState<Rectangle | null>(null)
  const { lines, places, pace, wide, frames } = chart
  const chosen = key ? [key, ...moreKeys] : []
  const at = (e: PointerEvent): [number, number] => {
    const r = svg.current!.getBoundingClientRect()
    return [e.clientX - r.left, e.clientY - r.top]
  }
  const start = (e: PointerEvent): Held | null => {
    const target = e.target as Element
    const grip = target.closest('[data-grip]')
    const [px, py] = at(e)
    const base = {
      x: px,
      y: py,
      frames: places.filter((p) => chosen.includes(p.key.id)).map((p) => p.frame),
      last: null,
    }
    const what = grip?.getAttribute('data-grip') as Held['what'] | undefined
    if (what === 'keys') {
      const id = grip!.getAttribute('data-key')!
      const line = lines.find((l) => l.id === grip!.getAttribute('data-line'))
      bring(line?.id ?? null)
      if (e.shiftKey || e.ctrlKey || e.metaKey) {
        alsoKey(id)
        return null
      }
      const keys = chosen.includes(id) ? chosen : [id]
      if (!chosen.includes(id)) chooseKey(id)
      const from = places.find((p) => p.key.id === id)?.frame ?? 0
      return { ...base, what, line, key: id, keys, from, snaps: snapFrames([]).filter((f) => f !== from) }
    }
    if (what === 'in' || what === 'out')
      return { ...base, what, line: front, key: grip!.getAttribute('data-key')!, keys: chosen }
    if (what) return { ...base, what, keys: chosen }
    if (py < PAD.top) {
      seek(Math.round(chart.frameAt(px)))
      return { ...base, what: 'seek', keys: chosen }
    }
    const near = lines.find((l) => Math.abs(chart.y(l, valueAt(l, chart.frameAt(px), pace)) - py) < 6)
    if (near) bring(near.id)
    return { ...base, what: 'box', keys: e.shiftKey ? chosen : [] }
  }
  const draft = (held: Held, made: Edit | null) => {
    held.last = made
    if (made) setDraft(made)
  }
  const drag = useDrag<Held>({
    slack: 3,
    atOnce: true,
    start,
    move: (dx, dy, held, e) => {
      const of = owned(owners, held.keys)
      const by = Math.round((dx / wide) * frames)
      if (held.what === 'seek') return seek(Math.round(chart.frameAt(at(e)[0])))
      if (held.what === 'box') {
        const [px, py] = at(e)
        return setRectangle([Math.min(held.x, px), Math.min(held.y, py), Math.abs(dx), Math.abs(dy)])
      }
      if (held.what === 'keys' && held.line) {
        const line = held.line
        const upright = e.shiftKey ? Math.abs(dy) > Math.abs(dx) : true
        const level = e.shiftKey ? !upright || Math.abs(dx) >= Math.abs(dy) : true
        const value = !pace && upright && !line.still ? -dy * chart.perPixel(line) : 0
        const add = value ? { [line.channel]: only(line.index, value) } : {}
        // What is dragged up or down alone keeps its frame.
        const near = !by ? 0 : snapped(held.from! + by, held.snaps!, wide / frames) - held.from!
        return draft(held, { kind: 'move keys', of, frames: level ? near : 0, stretch: 1, around: 0, add })
      }
      if (held.what === 'left' || held.what === 'right') {
        const [low, up] = [Math.min(...held.frames), Math.max(...held.frames)]
        const around = held.what === 'left' ? up : low
        const length = Math.max(1, up - low)
        const now = Math.max(1, length + (held.what === 'left' ? -by : by))
        return draft(held, { kind: 'move keys', of, frames: 0, stretch: now / length, around, add: {} })
      }
      if (held.line && held.key) draft(held, bent(chart, owners, held, at(e)))
    },
    end: (moved, held) => {
      letGo()
      if (held.last) void edit(held.last)
      else if (held.what === 'box') {
        const r = rectangle
        setRectangle(null)
        if (moved && r) {
          const inside = places.filter((p) => p.x >= r[0] && p.x <= r[0] + r[2] && p.y >= r[1] && p.y <= r[1] + r[3])
          chooseKeys([...new Set([...held.keys, ...inside.map((p) => p.key.id)])])
        } else if (!moved) chooseKeys([])
      } else if (held.what === 'keys' && !moved && held.key) {
        const place = places.find((p) => p.key.id === held.key)
        if (place && chosen.length < 2) seek(place.frame)
      }
    },
  })
  return { drag, rectangle, chosen }
}

/** The curve of a key once one of its handles lies there. */
function bent(chart: Chart, owners: (Layer | GroundItem)[], held: Held, [px, py]: [number, number]): Edit | null {
  const line = held.line!
  const n = line.keys.findIndex((k) => k.key.id === held.key)
  const [a, b] = held.what === 'out' ? [line.keys[n], line.keys[n + 1]] : [line.keys[n - 1], line.keys[n]]
  if (!a || !b) return null
  const [va, vb] = [a.key.value[line.index] ?? 0, b.key.value[line.index] ?? 0]
  const two = (v: number) => Math.round(v * 100) / 100
  const u = two(Math.max(0, Math.min(1, (chart.frameAt(px) - a.frame) / Math.max(1e-6, b.frame - a.frame))))
  const value = chart.valueOf(line, py)
  const v = two(Math.max(-5, Math.min(5, Math.abs(vb - va) > 1e-6 ? (value - va) / (vb - va) : 0)))
  const was = a.key.easing.kind === 'bezier' ? a.key.easing : { kind: 'bezier' as const, x1: 0, y1: 0, x2: 1, y2: 1 }
  const easing = held.what === 'out' ? { ...was, x1: u, y1: v } : { ...was, x2: u, y2: v }
  return { kind: 'change keys', of: owned(owners, [a.key.id]), easing, straight: false }
}
