import { useRef, useState } from 'react'
import type { Matte, Node, Piece } from '../../api/client'
import type { Hand, Table } from './hands'
import { bent, inPieces, isShape, movedBy, nearest, type Point, toggled, withPoint, withTangent } from './path'
import { within } from './shapes'

type Drag =
  | { kind: 'nodes'; start: Point; nodes: Node[]; which: Set<number> }
  | { kind: 'tangent'; i: number; side: 'arrive' | 'leave'; nodes: Node[] }
  | { kind: 'segment'; i: number; t: number; start: Point; nodes: Node[]; moved: boolean }

/** The hand that takes hold of points, tangents, edges and whole shapes. */
export function usePoints(table: Table, piece: Piece | null, choosePiece: (id: string | null) => void) {
  const [chosen, setChosen] = useState<Set<number>>(new Set())
  const drag = useRef<Drag | null>(null)
  const last = useRef<Matte | null>(null)
  const { matte, near, scale } = table
  const shape = isShape(piece) ? piece : null
  const withNodes = (nodes: Node[]): Matte => ({ ...matte, pieces: inPieces(matte.pieces, shape!.id, nodes) })
  const show = (nodes: Node[]) => {
    last.current = withNodes(nodes)
    table.show(last.current)
  }
  const remove = (id: string) => table.commit({ ...matte, pieces: matte.pieces.filter((p) => p.id !== id) })

  const hand: Hand = {
    down(p, { shift }) {
      last.current = null
      if (shape) {
        for (const i of chosen) {
          const n = shape.nodes[i]
          if (!n) continue
          for (const side of ['arrive', 'leave'] as const) {
            const [tx, ty] = n[side]
            if ((tx || ty) && near(p, { x: n.x + tx, y: n.y + ty }, 8)) {
              drag.current = { kind: 'tangent', i, side, nodes: shape.nodes }
              return
            }
          }
        }
        const i = shape.nodes.findIndex((n) => near(p, n, 8))
        if (i >= 0) {
          const which = shift
            ? new Set(chosen.has(i) ? [...chosen].filter((c) => c !== i) : [...chosen, i])
            : chosen.has(i)
              ? chosen
              : new Set([i])
          setChosen(which)
          drag.current = { kind: 'nodes', start: p, nodes: shape.nodes, which }
          return
        }
      }
      // On an outline, the selected shape's first; then inside of one; anywhere else lets go.
      const shapes = matte.pieces.filter(isShape)
      const order = shape ? [shape, ...shapes.filter((x) => x !== shape)] : shapes
      for (const other of order) {
        const hit = nearest(other.nodes, p)
        if (hit.far * scale > 7) continue
        if (other === shape) {
          drag.current = { kind: 'segment', i: hit.segment, t: hit.t, start: p, nodes: other.nodes, moved: false }
        }
        choosePiece(other.id)
        setChosen(new Set())
        return
      }
      if (shape && chosen.size === shape.nodes.length && within(shape.nodes, p)) {
        drag.current = { kind: 'nodes', start: p, nodes: shape.nodes, which: chosen }
        return
      }
      setChosen(new Set())
    },
    move(p, { alt }) {
      const d = drag.current
      if (!d) return
      if (d.kind === 'nodes') show(movedBy(d.nodes, d.which, p.x - d.start.x, p.y - d.start.y))
      else if (d.kind === 'tangent') {
        const n = d.nodes[d.i]!
        show(withTangent(d.nodes, d.i, d.side, p.x - n.x, p.y - n.y, alt))
      } else {
        if (!d.moved && near(p, d.start, 3)) return
        d.moved = true
        show(bent(d.nodes, d.i, d.t, p.x - d.start.x, p.y - d.start.y))
      }
    },
    up() {
      drag.current = null
      if (last.current) void table.commit(last.current)
      last.current = null
    },
    double(p) {
      if (!shape) return
      const i = shape.nodes.findIndex((n) => near(p, n, 8))
      if (i >= 0) return void table.commit(withNodes(toggled(shape.nodes, i)))
      const hit = nearest(shape.nodes, p)
      if (hit.far * scale > 7) {
        // Inside, a double click takes hold of the whole shape.
        if (within(shape.nodes, p)) setChosen(new Set(shape.nodes.map((_, k) => k)))
        return
      }
      setChosen(new Set([hit.segment + 1]))
      void table.commit(withNodes(withPoint(shape.nodes, hit.segment, Math.max(0.02, Math.min(0.98, hit.t)))))
    },
    key(key, dx, dy) {
      if (!piece) return false
      const erase = key === 'Delete' || key === 'Backspace'
      if (shape && chosen.size) {
        if (dx || dy) void table.commit(withNodes(movedBy(shape.nodes, chosen, dx, dy)))
        else if (erase) {
          const rest = shape.nodes.filter((_, i) => !chosen.has(i))
          setChosen(new Set())
          if (rest.length >= 2) void table.commit(withNodes(rest))
          else void remove(shape.id)
        } else if (key === 'Escape') setChosen(new Set())
        else return false
      } else if (erase) void remove(piece.id)
      else if (key === 'Enter' && shape) setChosen(new Set(shape.nodes.map((_, i) => i)))
      else return false
      return true
    },
  }
  return { hand, chosen, letGo: () => setChosen(new Set()) }
}
