import { create } from 'zustand'

/** How the frames of a ground item are chosen that are to be held: of those proposed, or evenly spaced. */
export interface Choosing {
  way: 'found' | 'even'
  /** How many of those proposed; null: as many as are good. */
  count: number | null
  first: number | null
  last: number | null
  /** Evenly spaced: so many, or (not null) every so manyth frame. */
  many: number
  every: number | null
  by: 'time' | 'distance'
  /** Of what was proposed or spaced, what is not to be held; and how far some of it was nudged, in source frames. */
  dropped: number[]
  nudged: Record<number, number>
}

export const FRESH: Choosing = {
  way: 'found',
  count: null,
  first: null,
  last: null,
  many: 5,
  every: null,
  by: 'time',
  dropped: [],
  nudged: {},
}

interface Choices {
  of: Record<string, Choosing>
  strength: number
  /** The last cutting out of which somebody has read what came of it. */
  read: string | null
  change: (item: string, changes: Partial<Choosing>) => void
  setStrength: (strength: number) => void
  setRead: (job: string) => void
}

/** What was chosen in each ground item, as long as the page is open. */
export const useChoices = create<Choices>()((set) => ({
  of: {},
  strength: 0.85,
  read: null,
  change: (item, changes) => set((s) => ({ of: { ...s.of, [item]: { ...(s.of[item] ?? FRESH), ...changes } } })),
  setStrength: (strength) => set({ strength }),
  setRead: (read) => set({ read }),
}))
