import type { Slice } from '.'

export const STEPS = ['catch', 'carve', 'fly', 'dress', 'send'] as const
export type Step = (typeof STEPS)[number]

/** What is selected, and at which bench. */
export interface Selection {
  step: Step
  layer: string | null
  item: string | null
  /** Items of the ground that are chosen besides. */
  more: string[]
  key: string | null
  shelf: boolean
  go: (step: Step) => void
  chooseLayer: (layer: string | null) => void
  chooseItem: (item: string | null) => void
  /** Chooses an item of the ground besides those that are chosen, or no longer. */
  alsoItem: (item: string) => void
  chooseKey: (key: string | null) => void
  toggleShelf: () => void
}

export const selection: Slice<Selection> = (set) => ({
  step: 'catch',
  layer: null,
  item: null,
  more: [],
  key: null,
  shelf: false,
  go: (step) => set({ step }),
  chooseLayer: (layer) => set((s) => ({ layer, item: layer ? null : s.item, more: layer ? [] : s.more, key: null })),
  chooseItem: (item) => set((s) => ({ item, more: [], layer: item ? null : s.layer, key: null })),
  alsoItem: (item) =>
    set((s) => {
      const all = [s.item, ...s.more].filter((id): id is string => id !== null)
      const chosen = all.includes(item) ? all.filter((id) => id !== item) : [...all, item]
      return { item: chosen[0] ?? null, more: chosen.slice(1), layer: null, key: null }
    }),
  chooseKey: (key) => set({ key }),
  toggleShelf: () => set((s) => ({ shelf: !s.shelf })),
})
