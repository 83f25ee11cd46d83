import { type RefObject, useEffect, useState } from 'react'
import { newId, type Node, type Piece, type Shape } from '../../api/client'
import { useCutout, useStudio } from '../../store'
import { habits, useHabit } from './habits'
import type { Hand, Table } from './hands'
import { isShape, type Point } from './path'
import { usePointer } from './pointer'
import { forgetRough } from './rough'
import { KIND_NAMES } from './shapes'
import { MARKING, SHAPES, type ToolName } from './tools'
import { useDrawing } from './useDrawing'
import { useMarks } from './useMarks'
import { useMatte } from './useMatte'
import { useMend } from './useMend'
import { usePan } from './usePan'
import { usePoints } from './usePoints'
import { useViews } from './useViews'

export type Carving = ReturnType<typeof useCarving>

/** All that is at hand while a held frame is carved: the matte, the view, the tool, and what each tool does. */
export function useCarving(box: RefObject<HTMLDivElement | null>) {
  const { hold, shot, layer, view } = useCutout()!
  const { at, goTo, known, local, matte, commit, show } = useMatte(hold, view)
  const started = known.pieces.length > 0
  const [tool, setTool] = useHabit('tool', started ? habits.tool : 'keep')
  const views = useViews(started)
  const [combine, setCombine] = useState<Piece['combine']>('add')
  const [pieceId, setPieceId] = useState<string | null>(known.pieces[0]?.id ?? null)
  const { size, pan, ...place } = usePan(box, shot, known)
  useEffect(() => forgetRough, [hold.id, at])
  useEffect(() => () => usePointer.setState({ at: null, stroke: null }), [])

  const piece = matte.pieces.find((p) => p.id === pieceId) ?? null
  const scale = pan?.scale ?? 1
  const near = (a: Point, b: Point, px: number) => Math.hypot(a.x - b.x, a.y - b.y) * scale < px
  const table: Table = { matte, scale, near, show, commit }
  const points = usePoints(table, piece, setPieceId)
  const choosePiece = (id: string | null) => {
    setPieceId(id)
    points.letGo()
  }
  const add = (kind: Shape['kind'], nodes: Node[]) => {
    const names = new Set(matte.pieces.map((p) => p.name))
    let n = 1
    while (names.has(`${KIND_NAMES[kind]} ${n}`)) n++
    const plain = { invert: false, opacity: 1, visible: true, grow: 0, soften_in: 0, soften_out: 0 }
    const added: Shape = { id: newId(), kind, name: `${KIND_NAMES[kind]} ${n}`, combine, nodes, ...plain }
    choosePiece(added.id)
    setTool('points')
    views.veil()
    void commit({ ...matte, pieces: [...matte.pieces, added] })
  }
  const drawing = useDrawing(tool, table, { shot: shot.id, frame: at, width: shot.width, height: shot.height }, add)
  const within = { project: view.project.id, hold: hold.id, frame: at, width: shot.width, height: shot.height }
  const marks = useMarks(tool, table, within, piece, combine, (id) => {
    choosePiece(id)
    views.veil()
  })
  const mend = useMend(tool === 'mend', { project: view.project.id, hold: hold.id, frames: shot.frames }, marks.brush)
  const hand = (): Hand | null => {
    if (tool === 'pan') return null
    if (tool === 'mend') return hold.plate ? mend.hand : null
    if (SHAPES.has(tool)) return drawing.hand
    return MARKING.has(tool) ? marks.hand : points.hand
  }
  const choose = (next: ToolName) => {
    drawing.clear()
    setTool(next)
  }
  /** To another frame of the travelling matte; the picture goes along. */
  const toFrame = (frame: number) => {
    goTo(frame)
    drawing.clear()
    const item = view.items.find((i) => i.id === layer.over)
    const index = item?.frames.indexOf(frame) ?? -1
    if (item && index >= 0) useStudio.getState().seek(item.start + index)
  }
  return {
    ...{ hold, shot, layer, view, at, toFrame },
    ...{ matte, local, show, commit },
    ...{ tool, choose, hand: hand(), drawing, marks, mend, points },
    ...{ piece, choosePiece, combine, setCombine },
    ...{ views, size, pan, place },
    /** Whether the plate is looked at, to be mended. */
    mending: tool === 'mend' && !!hold.plate,
    outlines: outlined(matte.pieces.filter(isShape), views.look, pieceId),
  }
}

/** Over the scene all shapes are outlined, where the cutout is judged only the chosen one. */
const outlined = (shapes: Shape[], look: string, chosen: string | null) =>
  look === 'matte' || look === 'checker' || look === 'colour' ? shapes.filter((p) => p.id === chosen) : shapes
