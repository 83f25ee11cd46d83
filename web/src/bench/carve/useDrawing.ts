import { useRef, useState } from 'react'
import type { Node, Shape } from '../../api/client'
import { Refused } from '../../api/client'
import { useStudio } from '../../store'
import type { Hand, Press, Table } from './hands'
import { corner, type Point, round } from './path'
import { boxNodes, fittedNodes, ovalNodes, spanned } from './shapes'
import type { ToolName } from './tools'

type Place = [number, number]

interface Frame {
  shot: string
  frame: number
  width: number
  height: number
}

/** What is being drawn: a path point by point, or a line by hand, or a cling line with the piece that follows the pointer. */
interface Drawn {
  nodes: Node[] | null
  line: Point[] | null
  anchors: Point[]
  ahead: Point[]
}

const NOTHING: Drawn = { nodes: null, line: null, anchors: [], ahead: [] }

/** The hands that draw new shapes. `add` is given a finished one. */
export function useDrawing(
  tool: ToolName,
  table: Table,
  frame: Frame,
  add: (kind: Shape['kind'], nodes: Node[]) => void,
) {
  const [drawn, setDrawn] = useState<Drawn>(NOTHING)
  const [cross, setCross] = useState<Point | null>(null)
  const now = useRef(drawn)
  const pulling = useRef<Point | null>(null)
  const freehand = useRef(false)
  const asking = useRef(false)
  const wanted = useRef<Point | null>(null)
  const say = useStudio((s) => s.say)
  const live = useStudio((s) => s.live)
  const set = (next: Drawn) => {
    now.current = next
    setDrawn(next)
  }
  const clear = () => {
    set(NOTHING)
    setCross(null)
    pulling.current = null
  }
  const close = () => {
    const { nodes, line, anchors } = now.current
    if (tool === 'cling' && line) return void closeLine('cling', line, anchors.length)
    if (!nodes) return
    if (nodes.length < 2 || (nodes.length === 2 && !nodes.some((n) => n.smooth))) {
      say('A shape needs three points, or two with tangents. Set another one.')
      return
    }
    clear()
    add('pen', nodes)
  }
  const closeLine = async (kind: 'lasso' | 'cling', line: Point[], count: number) => {
    if (line.length < 3 || count < 3) {
      if (kind === 'cling') say('A shape needs three points. Set another one.')
      else clear()
      return
    }
    try {
      const nodes = await fittedNodes(line, (kind === 'lasso' ? 1.6 : 0.9) / Math.min(1, table.scale))
      clear()
      add(kind, nodes)
    } catch (error) {
      clear()
      say(error instanceof Refused ? error.message : 'The shape could not be made. Draw it again.', 'trouble')
    }
  }
  /** The line along the edge from the last point to the pointer, as fast as the server answers. */
  const follow = async (to: Point) => {
    wanted.current = to
    if (asking.current || !live) return
    asking.current = true
    try {
      while (wanted.current) {
        const place: Point = wanted.current
        wanted.current = null
        const from = now.current.anchors.at(-1)
        if (!from) break
        const answered = await live.cling(frame.shot, frame.frame, [from.x, from.y], [place.x, place.y])
        if (from === now.current.anchors.at(-1)) set({ ...now.current, ahead: asPoints(answered.header.points) })
      }
    } catch {
      // The stream was closed; the next movement asks again.
    } finally {
      asking.current = false
    }
  }
  const clingTo = async (p: Point, press: Press) => {
    const { anchors, line } = now.current
    const from = anchors.at(-1)
    if (!from) return set({ ...NOTHING, anchors: [p], line: [p] })
    if (anchors.length > 2 && table.near(p, anchors[0]!, 9)) {
      const back = press.shift ? [] : await along(from, anchors[0]!)
      return void closeLine('cling', [...line!, ...back.slice(1)], anchors.length)
    }
    const piece = press.shift ? [from, p] : await along(from, p)
    set({ ...now.current, anchors: [...anchors, p], line: [...line!, ...piece.slice(1, -1), p], ahead: [] })
  }
  const along = async (from: Point, to: Point): Promise<Point[]> => {
    try {
      const answered = await live!.cling(frame.shot, frame.frame, [from.x, from.y], [to.x, to.y])
      return answered.header.points.length ? asPoints(answered.header.points) : [from, to]
    } catch {
      return [from, to]
    }
  }

  const hand: Hand = {
    down(p, press) {
      pulling.current = p
      freehand.current = false
      if (tool === 'pen') {
        const { nodes } = now.current
        if (nodes && nodes.length > 1 && table.near(p, nodes[0]!, 9)) {
          pulling.current = null
          return close()
        }
        set({ ...NOTHING, nodes: [...(nodes ?? []), corner(p)] })
      } else if (tool === 'lasso') set({ ...NOTHING, line: [p] })
      else if (tool === 'cling' && !now.current.anchors.length) void clingTo(p, press)
    },
    move(p, press) {
      const from = pulling.current
      if (tool === 'cling') {
        if (from && now.current.line && (freehand.current || !table.near(p, from, 6))) {
          // Dragging draws by hand, where the edge cannot be followed.
          freehand.current = true
          set({ ...now.current, line: [...now.current.line, p], ahead: [] })
        } else if (!from && now.current.anchors.length) {
          if (press.shift) set({ ...now.current, ahead: [now.current.anchors.at(-1)!, p] })
          else void follow(p)
        }
        return
      }
      if (!from) return
      if (tool === 'pen') {
        const { nodes } = now.current
        if (!nodes || table.near(p, from, 4)) return
        const [dx, dy] = [round(p.x - from.x), round(p.y - from.y)]
        set({
          ...NOTHING,
          nodes: [...nodes.slice(0, -1), { ...nodes.at(-1)!, smooth: true, leave: [dx, dy], arrive: [-dx, -dy] }],
        })
      } else if (tool === 'lasso') {
        const line = now.current.line
        if (line && !table.near(p, line.at(-1)!, 2)) set({ ...NOTHING, line: [...line, p] })
      } else {
        const span = spanned(from, p, press.shift, press.alt)
        set({ ...NOTHING, nodes: tool === 'oval' ? ovalNodes(span) : boxNodes(span) })
      }
    },
    up(p, press) {
      const from = pulling.current
      pulling.current = null
      if (!from) return
      if (tool === 'lasso') void closeLine('lasso', now.current.line ?? [], 3)
      else if (tool === 'cling') {
        if (freehand.current)
          set({ ...now.current, anchors: [...now.current.anchors, p], line: [...now.current.line!, p] })
        else if (now.current.anchors[0] !== from) void clingTo(from, press)
      } else if (tool === 'oval' || tool === 'box') {
        const { nodes } = now.current
        clear()
        if (!nodes || table.near(p, from, 4)) say(`Press and drag to span ${tool === 'oval' ? 'an oval' : 'a box'}.`)
        else add(tool, nodes)
      }
    },
    double() {
      if (tool === 'pen' || tool === 'cling') close()
    },
    key(key, dx, dy) {
      const { nodes, anchors, line } = now.current
      const from = cross ?? nodes?.at(-1) ?? anchors.at(-1) ?? { x: frame.width / 2, y: frame.height / 2 }
      if (dx || dy) {
        const to = { x: round(from.x + dx), y: round(from.y + dy) }
        setCross(to)
        if (tool === 'cling') void follow(to)
        else if ((tool === 'oval' || tool === 'box') && pulling.current) {
          const span = spanned(pulling.current, to, false, false)
          set({ ...NOTHING, nodes: tool === 'oval' ? ovalNodes(span) : boxNodes(span) })
        }
      } else if (key === 'x') {
        if (tool === 'pen') set({ ...NOTHING, nodes: [...(nodes ?? []), corner(from)] })
        else if (tool === 'cling') void clingTo(from, { shift: false, alt: false })
        else if (tool === 'lasso') set({ ...NOTHING, line: [...(line ?? []), from] })
        else if (!pulling.current) pulling.current = from
        else {
          pulling.current = null
          const made = now.current.nodes
          clear()
          if (made) add(tool as 'oval' | 'box', made)
        }
      } else if (key === 'Enter') {
        if (tool === 'lasso') void closeLine('lasso', line ?? [], line?.length ?? 0)
        else close()
      } else if (key === 'Backspace' || key === 'Delete') {
        if (tool === 'cling' && anchors.length) {
          const left = anchors.slice(0, -1)
          const upTo = left.length ? line!.lastIndexOf(left.at(-1)!) : -1
          set({ ...NOTHING, anchors: left, line: left.length ? line!.slice(0, (upTo < 0 ? 0 : upTo) + 1) : null })
        } else if (nodes) set({ ...NOTHING, nodes: nodes.length > 1 ? nodes.slice(0, -1) : null })
        else return false
      } else if (key === 'Escape' && (nodes || line || cross)) clear()
      else return false
      return true
    },
  }
  return { hand, drawn, cross, clear }
}

const asPoints = (points: Place[]): Point[] => points.map(([x, y]) => ({ x, y }))
