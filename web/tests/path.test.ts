import { describe, expect, it } from 'vitest'
import type { Node } from '../src/api/client'
import {
  bent,
  corner,
  cubic,
  inPieces,
  movedBy,
  nearest,
  type Point,
  svgPath,
  toggled,
  withPoint,
  withTangent,
} from '../src/bench/carve/path'

const square: Node[] = [
  [0, 0],
  [100, 0],
  [100, 100],
  [0, 100],
].map(([x, y]) => corner({ x: x!, y: y! }))

const K = 27.6142
const circle: Node[] = [
  { x: 50, y: 0, arrive: [-K, 0], leave: [K, 0], smooth: true },
  { x: 100, y: 50, arrive: [0, -K], leave: [0, K], smooth: true },
  { x: 50, y: 100, arrive: [K, 0], leave: [-K, 0], smooth: true },
  { x: 0, y: 50, arrive: [0, K], leave: [0, -K], smooth: true },
]

function at([a, c, d, b]: [Point, Point, Point, Point], t: number): Point {
  const u = 1 - t
  const mix = (p: 'x' | 'y') => u ** 3 * a[p] + 3 * u * u * t * c[p] + 3 * u * t * t * d[p] + t ** 3 * b[p]
  return { x: mix('x'), y: mix('y') }
}

function outline(nodes: Node[]): Point[] {
  return nodes.flatMap((_, i) => Array.from({ length: 40 }, (_, k) => at(cubic(nodes, i), k / 40)))
}

/** The largest distance of points of one outline from the other. */
function apart(one: Node[], other: Node[]): number {
  return Math.max(...outline(one).map((p) => Math.min(...outline(other).map((q) => Math.hypot(p.x - q.x, p.y - q.y)))))
}

describe('finding a place on an outline', () => {
  it('gives the segment, the place on it and the distance', () => {
    const hit = nearest(square, { x: 50, y: -8 })
    expect(hit.segment).toBe(0)
    expect(hit.t).toBeCloseTo(0.5, 5)
    expect(hit.far).toBeCloseTo(8, 5)
  })

  it('knows the closing segment', () => {
    expect(nearest(square, { x: 3, y: 40 }).segment).toBe(3)
  })
})

describe('putting a point in', () => {
  it.each([0.1, 0.5, 0.83])('keeps the shape of a curve at t = %s', (t) => {
    const more = withPoint(circle, 1, t)
    expect(more).toHaveLength(5)
    expect(more[2]!.smooth).toBe(true)
    expect(apart(more, circle)).toBeLessThan(1.6)
    expect(apart(circle, more)).toBeLessThan(1.6)
  })

  it('makes a corner on a straight edge', () => {
    const more = withPoint(square, 3, 0.25)
    const place = at(cubic(square, 3), 0.25)
    expect(more[4]).toEqual(corner(place))
    expect(apart(more, square)).toBeLessThan(2)
  })

  it('works where a path has only two points', () => {
    const lens: Node[] = [
      { x: 0, y: 0, arrive: [20, 30], leave: [20, -30], smooth: false },
      { x: 100, y: 0, arrive: [-20, -30], leave: [-20, 30], smooth: false },
    ]
    expect(apart(withPoint(lens, 1, 0.4), lens)).toBeLessThan(2.5)
  })
})

describe('bending an edge', () => {
  it.each([0.2, 0.5, 0.75])('takes the place at t = %s along with the pointer', (t) => {
    const before = at(cubic(square, 0), t)
    const after = at(cubic(bent(square, 0, t, 12, -30), 0), t)
    expect(after.x - before.x).toBeCloseTo(12, 1)
    expect(after.y - before.y).toBeCloseTo(-30, 1)
  })

  it('leaves the other edges alone', () => {
    const nodes = bent(circle, 0, 0.5, 5, 5)
    expect(cubic(nodes, 2)).toEqual(cubic(circle, 2))
  })
})

describe('points and tangents', () => {
  it('a corner made round and sharp again is the corner it was', () => {
    const round = toggled(square, 1)
    expect(round[1]!.smooth).toBe(true)
    const [ax, ay] = round[1]!.arrive
    const [lx, ly] = round[1]!.leave
    expect(ax * ly - ay * lx).toBeCloseTo(0, 3) // one line through the point
    expect(toggled(round, 1)).toEqual(square)
  })

  it('of a smooth point the other tangent turns along and keeps its length', () => {
    const [node] = withTangent(circle, 0, 'leave', 0, 40, false)
    expect(node!.leave).toEqual([0, 40])
    expect(node!.arrive[0]).toBeCloseTo(0, 5)
    expect(node!.arrive[1]).toBeCloseTo(-K, 1)
  })

  it('a freed tangent moves alone from then on', () => {
    const freed = withTangent(circle, 0, 'leave', 5, 40, true)
    expect(freed[0]!.arrive).toEqual(circle[0]!.arrive)
    const again = withTangent(freed, 0, 'leave', 9, 9, false)
    expect(again[0]!.arrive).toEqual(circle[0]!.arrive)
  })

  it('only chosen points move', () => {
    const moved = movedBy(square, new Set([1, 2]), 3.004, -2)
    expect(moved.map((n) => [n.x, n.y])).toEqual([
      [0, 0],
      [103, -2],
      [103, 98],
      [0, 100],
    ])
  })
})

it('paths are written as SVG', () => {
  expect(svgPath([], true)).toBe('')
  expect(svgPath(square.slice(0, 2), false)).toBe('M0 0C0 0 100 0 100 0')
  expect(svgPath(square, true).endsWith('Z')).toBe(true)
  expect(svgPath(square, true).match(/C/g)).toHaveLength(4)
})

it('a piece is replaced by its id', () => {
  const piece = {
    id: 'a',
    kind: 'pen' as const,
    name: 'A',
    combine: 'add' as const,
    nodes: square,
    invert: false,
    opacity: 1,
    visible: true,
    grow: 0,
    soften_in: 0,
    soften_out: 0,
  }
  const pieces = [piece, { ...piece, id: 'b' }]
  const changed = inPieces(pieces, 'b', circle)
  expect(changed[0]).toBe(piece)
  expect((changed[1] as typeof piece).nodes).toBe(circle)
})
