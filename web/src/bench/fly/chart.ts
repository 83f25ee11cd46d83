import type { GroundItem, Layer, MotionView, OwnerMotion } from '../../api/client'
import { type Line, linesOf, valueAt } from './lines'

/** How far the curves keep from the edges of their chart, in pixels. */
export const PAD = { left: 14, right: 14, top: 22, bottom: 10 }

/** What the line in front is at the playhead, in words. */
export function pointed(line: Line, frame: number, pace: boolean): string {
  const value = valueAt(line, frame, pace) * line.by
  const round = Math.abs(value) >= 100 ? Math.round(value) : Math.round(value * 10) / 10
  return `${line.label} ${String(round).replace('-', '−')} ${line.unit}${pace ? ' a second' : ''}`
}

/** The handles of a key of a line, where its stretches are curves: frame and value of each. */
export function handlesOf(line: Line, id: string) {
  const n = line.keys.findIndex((k) => k.key.id === id)
  const found: { side: 'in' | 'out'; key: string; frame: number; value: number; at: [number, number] }[] = []
  const here = line.keys[n]
  if (!here) return found
  for (const side of ['in', 'out'] as const) {
    const [a, b] = side === 'out' ? [here, line.keys[n + 1]] : [line.keys[n - 1], here]
    if (!a || !b || a.key.easing.kind !== 'bezier') continue
    const [va, vb] = [a.key.value[line.index] ?? 0, b.key.value[line.index] ?? 0]
    const { x1 = 0, y1 = 0, x2 = 1, y2 = 1 } = a.key.easing
    const [u, v] = side === 'out' ? [x1, y1] : [x2, y2]
    found.push({
      side,
      key: id,
      frame: here.frame,
      value: here.key.value[line.index] ?? 0,
      at: [a.frame + u * (b.frame - a.frame), va + v * (vb - va)],
    })
  }
  return found
}

/** Where the times are ruled: every so many frames that there is room between. */
export function ruled(first: number, last: number, wide: number): number[] {
  const per = wide / Math.max(1, last - first)
  const every = [1, 2, 5, 10, 15, 30, 60, 150, 300, 600, 1800].find((n) => n * per >= 26) ?? 3600
  const found = []
  for (let f = Math.ceil(first / every) * every; f <= last; f += every) found.push(f)
  return found
}

/** Where the names of lines stand: beside them, each a little farther on than the last, none on another nor on `kites`
 * if there is room. */
export function labelled(
  lines: Line[],
  y: (l: Line, f: number) => number,
  frameAt: (px: number) => number,
  w: number,
  h: number,
  kites: { x: number; y: number }[],
) {
  const covers = (lx: number, ly: number, wide: number) =>
    kites.some((k) => k.x > lx - 9 && k.x < lx + wide + 9 && Math.abs(k.y - (ly - 4)) < 15)
  const taken: [number, number][] = []
  return lines.map((line, n) => {
    const wide = line.label.length * 6.4
    let best: [number, number] = [PAD.left + 4, PAD.top + 12]
    let least = Infinity
    for (let k = 0; k < 9; k++) {
      const lx = PAD.left + 8 + ((n * 0.23 + k * 0.11 + 0.12) % 0.86) * (w - PAD.left - PAD.right - wide)
      const ly = Math.max(PAD.top + 11, Math.min(h - 6, y(line, frameAt(lx + wide / 2)) - 7))
      const named = taken.some(([tx, ty]) => Math.abs(tx - lx) < wide + 14 && Math.abs(ty - ly) < 13)
      const wrong = 2 * Number(named) + Number(covers(lx, ly, wide))
      if (wrong >= least) continue
      ;[best, least] = [[lx, ly], wrong]
      if (!wrong) break
    }
    taken.push(best)
    return { line, lx: best[0], ly: best[1], n }
  })
}

/** What is drawn of some owners' motion in a chart of a size, and where. */
export function chartOf(
  motion: MotionView | null,
  owners: (Layer | GroundItem)[],
  pace: boolean,
  w: number,
  h: number,
) {
  const lines = linesOf(motion, owners, pace)
  const told = (motion?.owners ?? []).filter((m) => owners.some((o) => o.id === m.id))
  const first = told.length ? Math.min(...lines.map((l) => l.first), ...told.map((m) => m.start)) : 0
  const ends = lines.map((l) => l.first + (l.amount.length - 1) * l.step)
  const last = Math.max(first, ...ends, ...told.map((m) => Math.max(m.start, m.end - 1)))
  const wide = w - PAD.left - PAD.right
  const high = h - PAD.top - PAD.bottom
  const frames = Math.max(1, last - first)
  const x = (f: number) => PAD.left + ((f - first) / frames) * wide
  const y = (l: Line, v: number) => PAD.top + (1 - (v - l.range[0]) / (l.range[1] - l.range[0])) * high
  const places = lines.flatMap((line) =>
    line.keys.map(({ key, frame }) => {
      const value = pace ? valueAt(line, frame, true) : (key.value[line.index] ?? 0)
      return { line, key, frame, x: x(frame), y: y(line, value) }
    }),
  )
  return {
    ...{ w, h, wide, high, pace, lines, told, first, last, frames, x, y, places },
    frameAt: (px: number) => first + ((px - PAD.left) / wide) * frames,
    /** How much of a line's measure a pixel is. */
    perPixel: (l: Line) => (l.range[1] - l.range[0]) / high,
    /** What a line is worth at a height of the chart. */
    valueOf: (l: Line, py: number) => l.range[0] + (1 - (py - PAD.top) / high) * (l.range[1] - l.range[0]),
  }
}

export type Chart = ReturnType<typeof chartOf>

/** Where owners begin and land; only of one alone it is said in words. */
export function endsOf(told: OwnerMotion[], last: number): [number, string][] {
  const alone = told.length === 1
  const ends = told.flatMap((m): [number, string][] => [
    [m.start, !alone ? '' : m.start === m.landing ? 'start, landing' : 'start'],
    ...(m.landing !== m.start && m.landing <= last
      ? ([[m.landing, alone ? 'landing' : '']] as [number, string][])
      : []),
  ])
  return [...new Map(ends)]
}
