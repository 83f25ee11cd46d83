import { create } from 'zustand'
import type { Mark } from '../../api/client'
import type { Point } from './path'

export interface Stroke {
  side: 'keep' | 'drop'
  mark: Mark
}

/**
 * Where the pointer is over the stage, in source pixels, and the stroke that it is drawing. Only what follows the
 * pointer looks here, so that nothing else is drawn again while it moves.
 */
export const usePointer = create<{ at: Point | null; stroke: Stroke | null }>(() => ({ at: null, stroke: null }))
