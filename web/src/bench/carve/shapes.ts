import { answer, api, type Node, type Shape } from '../../api/client'
import { corner, type Point, round } from './path'

/** The circle's share of tangent: a cubic that is off by less than 0.03 % of the radius. */
const KAPPA = 0.5523

/** The rectangle that a drag spans: from corner to corner, or from the middle; with `even`, as wide as high. */
export function spanned(from: Point, to: Point, even: boolean, middle: boolean): [number, number, number, number] {
  let [dx, dy] = [to.x - from.x, to.y - from.y]
  if (even) {
    const side = Math.max(Math.abs(dx), Math.abs(dy))
    dx = Math.sign(dx || 1) * side
    dy = Math.sign(dy || 1) * side
  }
  const [x0, y0] = middle ? [from.x - dx, from.y - dy] : [from.x, from.y]
  const [x1, y1] = [from.x + dx, from.y + dy]
  return [Math.min(x0, x1), Math.min(y0, y1), Math.max(x0, x1), Math.max(y0, y1)]
}

export function boxNodes([l, t, r, b]: [number, number, number, number]): Node[] {
  return [corner({ x: l, y: t }), corner({ x: r, y: t }), corner({ x: r, y: b }), corner({ x: l, y: b })]
}

export function ovalNodes([l, t, r, b]: [number, number, number, number]): Node[] {
  const [cx, cy, rx, ry] = [(l + r) / 2, (t + b) / 2, (r - l) / 2, (b - t) / 2]
  const node = (x: number, y: number, tx: number, ty: number): Node => ({
    x: round(x),
    y: round(y),
    arrive: [round(-tx), round(-ty)],
    leave: [round(tx), round(ty)],
    smooth: true,
  })
  return [
    node(cx, t, rx * KAPPA, 0),
    node(r, cy, 0, ry * KAPPA),
    node(cx, b, -rx * KAPPA, 0),
    node(l, cy, 0, -ry * KAPPA),
  ]
}

/** A line drawn by hand as a closed path with few points; the server fits it. */
export function fittedNodes(line: Point[], tolerance: number): Promise<Node[]> {
  const points = line.map((p) => [p.x, p.y] as [number, number])
  return answer(
    api.POST('/api/path', { body: { points, tolerance: Math.max(0.2, Math.min(20, tolerance)) } }),
  ) as Promise<Node[]>
}

/** Whether a point lies within a closed path, going by its corners. */
export function within(nodes: Node[], p: Point): boolean {
  let inside = false
  for (let i = 0, j = nodes.length - 1; i < nodes.length; j = i++) {
    const [a, b] = [nodes[i]!, nodes[j]!]
    if (a.y > p.y !== b.y > p.y && p.x < ((b.x - a.x) * (p.y - a.y)) / (b.y - a.y) + a.x) inside = !inside
  }
  return inside
}

export const KIND_NAMES: Record<Shape['kind'], string> = {
  pen: 'Pen',
  oval: 'Oval',
  box: 'Box',
  lasso: 'Lasso',
  cling: 'Cling line',
}
