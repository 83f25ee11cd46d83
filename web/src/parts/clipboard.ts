import { type Matte, newId, type Node, type Piece } from '../api/client'

/** What was copied, and the size of the frame that it was drawn on. */
interface Copied {
  pieces: Piece[]
  width: number
  height: number
}

let copied: Copied | null = null

export function copyPieces(pieces: Piece[], width: number, height: number): void {
  copied = { pieces, width, height }
}

/** The copied pieces as new ones of a frame of the given size; null if nothing was copied. */
export function pasted(width: number, height: number): Piece[] | null {
  return copied && fresh(copied.pieces, width / copied.width, height / copied.height)
}

/** Pieces with ids of their own, scaled to a frame of another size. */
export function fresh(pieces: Piece[], x: number, y: number): Piece[] {
  const pair = ([a, b]: [number, number]): [number, number] => [a * x, b * y]
  const box = <R extends { box: [number, number, number, number] } | null | undefined>(r: R): R =>
    r &&
    ({
      ...r,
      box: [Math.floor(r.box[0] * x), Math.floor(r.box[1] * y), Math.ceil(r.box[2] * x), Math.ceil(r.box[3] * y)],
    } as R)
  return pieces.map((p): Piece => {
    if (!('nodes' in p)) return { ...p, id: newId(), raster: box(p.raster), base: box(p.base), doubt: null }
    const nodes = p.nodes.map((n): Node => ({
      ...n,
      x: n.x * x,
      y: n.y * y,
      arrive: pair(n.arrive),
      leave: pair(n.leave),
    }))
    return { ...p, id: newId(), nodes }
  })
}

/** A matte with pieces put after its own, under names that are still free. */
export function withPieces(matte: Matte, added: Piece[]): Matte {
  const names = new Set(matte.pieces.map((p) => p.name))
  const named = added.map((p) => {
    let name = p.name
    for (let n = 2; names.has(name); n++) name = `${p.name.replace(/ \d+$/, '')} ${n}`
    names.add(name)
    return { ...p, name }
  })
  return { ...matte, pieces: [...matte.pieces, ...named] }
}
