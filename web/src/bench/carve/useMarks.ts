import { useEffect, useRef, useState } from 'react'
import { type Found, newId, type Piece } from '../../api/client'
import { lookAhead, pick, rub, stroke } from './find'
import type { Hand, Table } from './hands'
import { isShape, type Point, round } from './path'
import { type Stroke, usePointer } from './pointer'
import { useOffers } from './useOffers'
import { useTurns } from './useTurns'
import { forgetRough, settleRough, showRough } from './rough'
import type { ToolName } from './tools'

type PickKind = 'mover' | 'person' | 'difference'
const WORDS: Record<PickKind, string> = {
  mover: 'Looking for what moves',
  person: 'Looking for a person',
  difference: 'Comparing with the plate',
}

/** The hands that mark, the picks, and the piece that they make or correct. */
export function useMarks(
  tool: ToolName,
  table: Table,
  at: { project: string; hold: string; frame: number; width: number; height: number },
  piece: Piece | null,
  combine: Piece['combine'],
  chosePiece: (id: string) => void,
) {
  const [brush, setBrush] = useState(() => Math.max(6, Math.round(Math.max(at.width, at.height) / 60)))
  const [waiting, setWaiting] = useState<Stroke[]>([])
  const unanswered = useRef<Stroke[]>([])
  const drawing = useRef<Stroke | null>(null)
  const latest = useRef(table.matte)
  latest.current = table.matte
  useEffect(() => lookAhead(at.project, at.hold, at.frame), [at.project, at.hold, at.frame])

  const founds = table.matte.pieces.filter((p): p is Found => !isShape(p))
  const marked = piece && !isShape(piece) ? piece : piece ? null : (founds.at(-1) ?? null)

  const offers = useOffers(table, latest, at)
  const { busy, job, inTurn } = useTurns()
  const target = useRef<string | null>(null)
  target.current = marked?.id ?? null

  const wait = (strokes: Stroke[]) => {
    unanswered.current = strokes
    setWaiting(strokes)
  }
  const mark = (added: Stroke) => {
    offers.forget()
    wait([...unanswered.current, added])
    const shown = showRough(at.hold, at.frame, target.current, combine, unanswered.current)
    void inTurn('Following your marks', async () => {
      const known = target.current
      const id = known ?? newId()
      await shown
      const last = () => unanswered.current.length === 1 && settleRough()
      if (await stroke(at.hold, { frame: at.frame, piece: id, combine, ...added }, last)) {
        target.current = id
        chosePiece(id)
        if (known) offers.ask(id)
      } else forgetRough()
      wait(unanswered.current.filter((s) => s !== added))
    })
  }
  const rubOut = (p: Point) => {
    if (!marked) return
    const piece = marked.id
    void inTurn('Without that mark', async () => {
      await rub(at.hold, { frame: at.frame, piece, place: [p.x, p.y], reach: 4 / table.scale })
    })
  }
  const choose = (kind: PickKind) =>
    inTurn(
      WORDS[kind],
      async () => {
        const piece = newId()
        if (await pick(at.project, at.hold, { kind, frame: at.frame, piece, combine })) chosePiece(piece)
      },
      true,
    )

  const hand: Hand = {
    down(p) {
      if (tool === 'rubber') return rubOut(p)
      drawing.current = { side: tool as Stroke['side'], mark: { points: [[p.x, p.y]], width: brush } }
      usePointer.setState({ stroke: drawing.current })
    },
    move(p) {
      const d = drawing.current
      if (!d) return
      const [x, y] = d.mark.points.at(-1)!
      if (Math.hypot(p.x - x, p.y - y) < Math.max(1.5, brush / 8)) return
      drawing.current = { ...d, mark: { ...d.mark, points: [...d.mark.points, [round(p.x), round(p.y)]] } }
      usePointer.setState({ stroke: drawing.current })
    },
    up() {
      const d = drawing.current
      drawing.current = null
      usePointer.setState({ stroke: null })
      if (d) mark({ ...d, mark: { ...d.mark, points: d.mark.points.slice(0, 4000) } })
    },
    key(key) {
      if (key === '[' || key === ']') {
        setBrush((b) => Math.round(Math.max(2, Math.min(400, key === '[' ? b / 1.25 : b * 1.25))))
        return true
      }
      if (key === 'Escape' && drawing.current) {
        drawing.current = null
        usePointer.setState({ stroke: null })
        return true
      }
      return false
    },
  }
  return { hand, brush, setBrush, waiting, busy, job, marked, choose, offers }
}
