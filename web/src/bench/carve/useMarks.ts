import { useEffect, useRef, useState } from 'react'
import { type FindRequest, type Finding, type Found, type Mark, newId, type Piece, Refused } from '../../api/client'
import { useStudio } from '../../store'
import { find, lookAhead, pick } from './find'
import type { Hand, Table } from './hands'
import { isShape, type Point, round } from './path'
import { type Stroke, usePointer } from './pointer'
import { useOffers } from './useOffers'
import { forgetRough, settleRough, showRough } from './rough'
import type { ToolName } from './tools'

export type PickKind = 'mover' | 'person' | 'difference'
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
  const [busy, setBusy] = useState<string | null>(null)
  const [job, setJob] = useState(false)
  const drawing = useRef<Stroke | null>(null)
  const queue = useRef<Promise<void>>(Promise.resolve())
  const latest = useRef(table.matte)
  latest.current = table.matte
  const say = useStudio((s) => s.say)
  useEffect(() => lookAhead(at.project, at.hold, at.frame), [at.project, at.hold, at.frame])

  const founds = table.matte.pieces.filter((p): p is Found => !isShape(p))
  const marked = piece && !isShape(piece) ? piece : piece ? null : (founds.at(-1) ?? null)

  const put = async (finding: Finding, id: string | null) => {
    const before = latest.current
    const known = before.pieces.find((p) => p.id === id)
    const names = new Set(before.pieces.map((p) => p.name))
    let name = finding.piece.name
    for (let n = 2; names.has(name); n++) name = `${finding.piece.name} ${n}`
    const next: Piece = known
      ? { ...known, ...pickedParts(finding.piece) }
      : { ...(finding.piece as Found), id: newId(), name, combine }
    const pieces = known ? before.pieces.map((p) => (p.id === id ? next : p)) : [...before.pieces, next]
    chosePiece(next.id)
    latest.current = { ...before, pieces }
    if (await table.commit(latest.current)) finding.warnings.forEach((w) => say(w))
  }
  const failed = (error: unknown) =>
    say(error instanceof Refused ? error.message : 'That did not work. Try it again.', 'trouble')

  const offers = useOffers(table, latest, at)
  /** One finding after the other: a stroke drawn meanwhile corrects what the one before made. */
  const inTurn = (words: string, work: () => Promise<void>) => {
    const { awaits } = useStudio.getState()
    queue.current = queue.current.then(async () => {
      setBusy(words)
      awaits(1)
      try {
        await work()
      } catch (error) {
        failed(error)
      } finally {
        awaits(-1)
        setBusy(null)
        setJob(false)
      }
    })
    return queue.current
  }
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
    const first = !target.current
    void inTurn('Following your marks', async () => {
      const id = target.current
      const known = latest.current.pieces.find((p): p is Found => p.id === id && !isShape(p))
      try {
        if (!known && added.side === 'drop') {
          say('Draw a keep mark over the subject first; drop marks then take away what is too much.')
          return
        }
        const kind = known?.kind === 'carried' || known?.kind === 'picture' || !known ? 'marks' : known.kind
        const [keep, drop] = (['keep', 'drop'] as const).map((side) => [
          ...(known?.[side] ?? []),
          ...(added.side === side ? [added.mark] : []),
        ])
        const fixed = known && (known.kind === 'carried' || known.kind === 'picture')
        const body: FindRequest = {
          kind: fixed ? 'mover' : kind,
          frame: at.frame,
          keep: keep!,
          drop: drop!,
          fine: 10,
          base: known?.base ?? (fixed ? known.raster : null),
          before: known?.raster ?? null,
          newest: known ? added.side : null,
        }
        await shown
        const finding = await find(at.project, at.hold, body)
        if (unanswered.current.length === 1) settleRough()
        await put(fixed ? { ...finding, piece: { ...finding.piece, kind: known.kind } } : finding, known?.id ?? null)
        if (known && body.kind === 'marks') offers.ask(known.id, body)
        if (first) target.current = latest.current.pieces.at(-1)?.id ?? null
      } catch (error) {
        forgetRough()
        throw error
      } finally {
        wait(unanswered.current.filter((s) => s !== added))
      }
    })
  }
  const rub = (p: Point) => {
    if (!marked) return
    const far = (m: Mark) => Math.min(...m.points.map(([x, y]) => Math.hypot(x - p.x, y - p.y))) - m.width / 2
    const keep = marked.keep.filter((m) => far(m) > 4 / table.scale)
    const drop = marked.drop.filter((m) => far(m) > 4 / table.scale)
    if (keep.length === marked.keep.length && drop.length === marked.drop.length) return
    void inTurn('Without that mark', async () => {
      const known = latest.current.pieces.find((x): x is Found => x.id === marked.id && !isShape(x))
      if (!known) return
      if (!keep.length && !drop.length && known.base) {
        const pieces = latest.current.pieces.map((x): Piece =>
          x.id === known.id ? { ...known, raster: known.base!, keep, drop } : x,
        )
        await table.commit({ ...latest.current, pieces })
      } else if (!keep.length && !known.base) {
        await table.commit({ ...latest.current, pieces: latest.current.pieces.filter((x) => x.id !== known.id) })
      } else {
        const kind = known.base ? 'mover' : 'marks'
        const body: FindRequest = {
          kind,
          frame: at.frame,
          keep,
          drop,
          base: known.base ?? null,
          before: null,
          newest: null,
          fine: 10,
        }
        const finding = await find(at.project, at.hold, body)
        await put({ ...finding, piece: { ...finding.piece, kind: known.kind } }, known.id)
      }
    })
  }
  const choose = (kind: PickKind) =>
    inTurn(WORDS[kind], async () => {
      setJob(true)
      const finding = await pick(at.project, at.hold, {
        kind,
        frame: at.frame,
        keep: [],
        drop: [],
        base: null,
        before: null,
        newest: null,
        fine: 10,
      })
      if (finding) await put(finding, null)
    })

  const hand: Hand = {
    down(p) {
      if (tool === 'rubber') return rub(p)
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

const pickedParts = (f: Finding['piece']): Pick<Found, 'raster' | 'base' | 'doubt' | 'keep' | 'drop'> => ({
  raster: f.raster as Found['raster'],
  base: (f.base ?? null) as Found['base'],
  doubt: (f.doubt ?? null) as Found['doubt'],
  keep: f.keep as Found['keep'],
  drop: f.drop as Found['drop'],
})
