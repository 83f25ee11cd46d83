import { create } from 'zustand'
import type { Piece } from '../../api/client'
import { useStudio } from '../../store'
import { type Mask, maskOf } from './mask'
import type { Stroke } from './pointer'

interface Rough {
  mask: Mask | null
  /** Whether what it foretells is in the document: the next matte takes its place. */
  settled: boolean
}

/** About what strokes will do to the matte, shown until the server has worked that out. */
export const useRough = create<Rough>(() => ({ mask: null, settled: false }))

const NOTHING: Rough = { mask: null, settled: false }
/** Counts what was asked and answered: a rough answer that comes after something newer is of no use. */
let turn = 0
/** For how long an answer is waited for, ms: the exact one must not be late for it. */
const SOON = 200

/** Shows about what strokes that wait will do to a piece, or to a new one. Resolves once that is shown, or is late. */
export function showRough(
  hold: string,
  frame: number,
  piece: string | null,
  combine: Piece['combine'],
  added: Stroke[],
): Promise<void> {
  const live = useStudio.getState().live
  if (!live) return Promise.resolve()
  const own = ++turn
  const shown = live.rough(hold, frame, piece, combine, added).then(
    async (answer) => {
      if (answer.header.trouble) return
      const mask = await maskOf(answer, false)
      if (own !== turn) return
      useRough.setState({ mask, settled: false })
      await painted()
    },
    () => undefined, // the stream was closed; the exact answer comes another way
  )
  return Promise.race([shown, new Promise<void>((resolve) => setTimeout(resolve, SOON))])
}

const painted = () => new Promise<void>((resolve) => requestAnimationFrame(() => setTimeout(resolve)))

/** The exact answer goes into the document: the next matte that is drawn takes the rough one's place. */
export function settleRough() {
  turn++
  useRough.setState({ settled: true })
}

/** The exact matte is drawn, or none will be. */
export function forgetRough() {
  turn++
  useRough.setState(NOTHING)
}
