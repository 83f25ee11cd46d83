import type { Node, Piece, Shape } from '../../api/client'

export type Point = { x: number; y: number }

export const corner = (p: Point): Node => ({
  x: round(p.x),
  y: round(p.y),
  arrive: [0, 0],
  leave: [0, 0],
  smooth: false,
})
export const round = (v: number) => Math.round(v * 100) / 100

/** The cubic from node i to the next, as its four points. */
export function cubic(nodes: Node[], i: number): [Point, Point, Point, Point] {
  const a = nodes[i]!
  const b = nodes[(i + 1) % nodes.length]!
  return [a, { x: a.x + a.leave[0], y: a.y + a.leave[1] }, { x: b.x + b.arrive[0], y: b.y + b.arrive[1] }, b]
}

export function svgPath(nodes: Node[], closed: boolean): string {
  if (!nodes.length) return ''
  const parts = [`M${nodes[0]!.x} ${nodes[0]!.y}`]
  for (let i = 0; i < nodes.length - (closed ? 0 : 1); i++) {
    const [, c, d, b] = cubic(nodes, i)
    parts.push(`C${c.x} ${c.y} ${d.x} ${d.y} ${b.x} ${b.y}`)
  }
  return parts.join('') + (closed ? 'Z' : '')
}

const mix = (a: Point, b: Point, t: number): Point => ({ x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t })

function at([a, c, d, b]: [Point, Point, Point, Point], t: number): Point {
  return mix(mix(mix(a, c, t), mix(c, d, t), t), mix(mix(c, d, t), mix(d, b, t), t), t)
}

/** The place on a piece's outline nearest to a point: which segment, where on it, how far away. */
export function nearest(nodes: Node[], p: Point): { segment: number; t: number; far: number } {
  let best = { segment: 0, t: 0, far: Infinity }
  nodes.forEach((_, segment) => {
    const curve = cubic(nodes, segment)
    for (let k = 0; k <= 24; k++) {
      const q = at(curve, k / 24)
      const far = Math.hypot(q.x - p.x, q.y - p.y)
      if (far < best.far) best = { segment, t: k / 24, far }
    }
  })
  return best
}

/** The path with a point put in at t of a segment; its shape stays (de Casteljau). */
export function withPoint(nodes: Node[], segment: number, t: number): Node[] {
  const [a, c, d, b] = cubic(nodes, segment)
  const [ac, cd, db] = [mix(a, c, t), mix(c, d, t), mix(d, b, t)]
  const [l, r] = [mix(ac, cd, t), mix(cd, db, t)]
  const m = mix(l, r, t)
  const straight = Math.hypot(c.x - a.x, c.y - a.y) + Math.hypot(d.x - b.x, d.y - b.y) < 0.01
  if (straight) return [...nodes.slice(0, segment + 1), corner(m), ...nodes.slice(segment + 1)]
  const off = (p: Point, from: Point): [number, number] => [round(p.x - from.x), round(p.y - from.y)]
  const next = (segment + 1) % nodes.length
  const result = nodes.map((n, i) => {
    if (i === segment && i === next) return { ...n, leave: off(ac, a), arrive: off(db, b) }
    if (i === segment) return { ...n, leave: off(ac, a) }
    return i === next ? { ...n, arrive: off(db, b) } : n
  })
  const put: Node = { x: round(m.x), y: round(m.y), arrive: off(l, m), leave: off(r, m), smooth: true }
  return [...result.slice(0, segment + 1), put, ...result.slice(segment + 1)]
}

/** The path with a segment bent so that its place at t moves along with the pointer. */
export function bent(nodes: Node[], segment: number, t: number, dx: number, dy: number): Node[] {
  const u = Math.max(0.12, Math.min(0.88, t))
  const k = 1 / (3 * (1 - u) * u * ((1 - u) ** 2 + u ** 2))
  const next = (segment + 1) % nodes.length
  return nodes.map((n, i) => {
    if (i === segment) {
      return {
        ...n,
        smooth: false,
        leave: [round(n.leave[0] + dx * k * (1 - u)), round(n.leave[1] + dy * k * (1 - u))],
      }
    }
    if (i === next) {
      return { ...n, smooth: false, arrive: [round(n.arrive[0] + dx * k * u), round(n.arrive[1] + dy * k * u)] }
    }
    return n
  })
}

/** A corner made smooth, or a smooth point made a corner. */
export function toggled(nodes: Node[], i: number): Node[] {
  const n = nodes[i]!
  const isCorner = !n.leave[0] && !n.leave[1] && !n.arrive[0] && !n.arrive[1]
  if (!isCorner) return nodes.map((m, j) => (j === i ? corner(m) : m))
  const before = nodes[(i + nodes.length - 1) % nodes.length]!
  const after = nodes[(i + 1) % nodes.length]!
  const [dx, dy] = [after.x - before.x, after.y - before.y]
  const along = Math.hypot(dx, dy) || 1
  const reach = (m: Node) => Math.hypot(m.x - n.x, m.y - n.y) / 3 / along
  const [back, on] = [reach(before), reach(after)]
  const smooth: Node = {
    ...n,
    smooth: true,
    arrive: [round(-dx * back), round(-dy * back)],
    leave: [round(dx * on), round(dy * on)],
  }
  return nodes.map((m, j) => (j === i ? smooth : m))
}

/** A tangent moved; of a smooth point the other one turns along, unless it is to be independent. */
export function withTangent(
  nodes: Node[],
  i: number,
  side: 'arrive' | 'leave',
  x: number,
  y: number,
  alone: boolean,
): Node[] {
  return nodes.map((n, j) => {
    if (j !== i) return n
    const other = side === 'leave' ? 'arrive' : 'leave'
    const moved: Node = { ...n, [side]: [round(x), round(y)] }
    if (alone) return { ...moved, smooth: false }
    if (!n.smooth) return moved
    const length = Math.hypot(...n[other]) || Math.hypot(x, y)
    const reach = Math.hypot(x, y) || 1
    return { ...moved, [other]: [round((-x / reach) * length), round((-y / reach) * length)] }
  })
}

export function movedBy(nodes: Node[], which: Set<number>, dx: number, dy: number): Node[] {
  return nodes.map((n, i) => (which.has(i) ? { ...n, x: round(n.x + dx), y: round(n.y + dy) } : n))
}

export function inPieces(pieces: Piece[], id: string, nodes: Node[]): Piece[] {
  return pieces.map((p) => (p.id === id && 'nodes' in p ? { ...p, nodes } : p))
}

export const isShape = (p: Piece | null | undefined): p is Shape => !!p && 'nodes' in p
