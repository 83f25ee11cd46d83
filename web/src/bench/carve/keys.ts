import type { KeyboardEvent } from 'react'
import { copyPieces, pasted, withPieces } from '../../parts/clipboard'
import { type Does, doesAt, pressOf } from '../../parts/keys'
import { useStudio } from '../../store'
import { toolOf } from './tools'
import type { Carving } from './useCarving'

/** What a key does on the stage of Carve; `spaced` is told that the space bar is down. */
export function onCarveKey(e: KeyboardEvent, carving: Carving, spaced: (down: boolean) => void): void {
  const { matte, piece, shot, hold, marks, hand, points, tool } = carving
  const used = () => {
    e.preventDefault()
    e.stopPropagation()
  }
  const press = pressOf(e)
  const does = doesAt(press, 'carve') ?? doesAt(press, 'everywhere')
  if (does === 'copy' && matte.pieces.length) {
    used()
    const pieces = piece ? [piece] : matte.pieces
    copyPieces(pieces, shot.width, shot.height)
    return useStudio.getState().say(piece ? `Copied ${piece.name}.` : `Copied ${pieces.length} pieces.`)
  }
  if (does === 'paste') {
    const added = pasted(shot.width, shot.height)
    if (!added) return
    used()
    return void carving.commit(withPieces(matte, added))
  }
  if (e.ctrlKey || e.metaKey || e.altKey) return
  const act = does && actsOf(carving, spaced)[does]
  const taken = does && toolOf(does)
  if (act) {
    used()
    return act()
  }
  if (taken && (taken !== 'mend' || hold.plate)) {
    used()
    return carving.choose(taken)
  }
  const by = e.shiftKey ? 10 : 1
  const key = e.key.length === 1 ? e.key.toLowerCase() : e.key
  const dx = key === 'ArrowLeft' ? -by : key === 'ArrowRight' ? by : 0
  const dy = key === 'ArrowUp' ? -by : key === 'ArrowDown' ? by : 0
  if (marks.offers.key(key) || hand?.key?.(key, dx, dy)) used()
  else if (tool !== 'points' && (key === 'Delete' || key === 'Backspace') && points.hand.key!(key, 0, 0)) used()
}

/** What keys do that takes no tool up. */
function actsOf({ views, place, size, hold, shot }: Carving, spaced: (down: boolean) => void) {
  const acts: Partial<Record<Does, () => void>> = {
    play: () => spaced(true),
    bare: () => views.setBare(true),
    loupe: views.flipLoupe,
    ghosts: views.flipGhosts,
    divide: views.divide,
    zoomIn: () => place.zoom(1.3, size.w / 2, size.h / 2),
    zoomOut: () => place.zoom(1 / 1.3, size.w / 2, size.h / 2),
    whole: place.whole,
    subject: place.subject,
    holdBefore: () => flip(shot.id, hold.id, -1),
    holdAfter: () => flip(shot.id, hold.id, 1),
  }
  return acts
}

/** To the hold before or after one in the same shot. */
export function flip(shot: string, hold: string, by: number): void {
  const state = useStudio.getState()
  const { holds, layers, project } = state.view!
  const held = project.layers.flatMap((l) => {
    const id = layers[l.id]?.hold
    const its = id ? holds[id] : undefined
    return its?.shot === shot ? [{ layer: l.id, id: its.id, frame: its.frame }] : []
  })
  const all = [...new Map(held.map((h) => [h.id, h])).values()].sort((a, b) => a.frame - b.frame)
  const next = all[all.findIndex((h) => h.id === hold) + by]
  if (!next) return
  state.chooseLayer(next.layer)
  requestAnimationFrame(() => document.querySelector<HTMLElement>('[data-testid=carve]')?.focus())
}
