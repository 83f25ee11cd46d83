import type { Slice } from '.'

export const STEPS = ['catch', 'carve', 'fly', 'dress', 'send'] as const
export type Step = (typeof STEPS)[number]

/** What is selected, and at which bench. */
export interface Selection {
  step: Step
  layer: string | null
  item: string | null
  key: string | null
  shelf: boolean
  go: (step: Step) => void
  chooseLayer: (layer: string | null) => void
  chooseItem: (item: string | null) => void
  chooseKey: (key: string | null) => void
  toggleShelf: () => void
}

export const selection: Slice<Selection> = (set) => ({
  step: 'catch',
  layer: null,
  item: null,
  key: null,
  shelf: false,
  go: (step) => set({ step }),
  chooseLayer: (layer) => set((s) => ({ layer, item: layer ? null : s.item, key: null })),
  chooseItem: (item) => set((s) => ({ item, layer: item ? null : s.layer, key: null })),
  chooseKey: (key) => set({ key }),
  toggleShelf: () => set((s) => ({ shelf: !s.shelf })),
})
