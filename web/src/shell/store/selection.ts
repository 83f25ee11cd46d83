import type { Slice } from '.'

export const STEPS = ['catch', 'carve', 'fly', 'dress', 'sound', 'send'] as const
export type Step = (typeof STEPS)[number]

/** Something of the shelf that can be put into the piece: how long it lasts there, in project frames. */
export interface Carried {
  kind: 'shot' | 'picture' | 'sound'
  id: string
  name: string
  frames: number
}

/** Where it would go to if it was let go now: before which item of the ground, or at which frame, and over which layer. */
export type Target =
  | { zone: 'ground'; frame: number; item: number }
  | { zone: 'sky' | 'sounds'; frame: number; row: number; above: string | null }

/** What is selected, and at which bench. */
export interface Selection {
  step: Step
  layer: string | null
  /** The layer that was selected last. */
  lastLayer: string | null
  /** Layers that are chosen besides. */
  moreLayers: string[]
  item: string | null
  /** Items of the ground that are chosen besides. */
  more: string[]
  key: string | null
  /** Keys that are chosen besides. */
  moreKeys: string[]
  /** The cue that is chosen. */
  cue: string | null
  chooseCue: (cue: string | null) => void
  shelf: boolean
  /** What is being dragged off the shelf, and where it would go to. */
  carried: Carried | null
  target: Target | null
  /** Groups whose members are not shown in the sky. */
  folded: Set<string>
  go: (step: Step) => void
  /** Whether recipes are offered in place of the step's bench. */
  making: boolean
  make: () => void
  chooseLayer: (layer: string | null) => void
  /** Chooses these layers and no others. */
  chooseLayers: (layers: string[]) => void
  /** Chooses a layer besides those that are chosen, or no longer. */
  alsoLayer: (layer: string) => void
  chooseItem: (item: string | null) => void
  /** Chooses an item of the ground besides those that are chosen, or no longer. */
  alsoItem: (item: string) => void
  chooseKey: (key: string | null) => void
  /** Chooses these keys and no others. */
  chooseKeys: (keys: string[]) => void
  /** Chooses a key besides those that are chosen, or no longer. */
  alsoKey: (key: string) => void
  toggleShelf: () => void
  fold: (group: string) => void
}

/** What is chosen once one of several is chosen besides, or no longer: the first, and the others. */
function also(first: string | null, others: string[], one: string): [string | null, string[]] {
  const all = [first, ...others].filter((id): id is string => id !== null)
  const chosen = all.includes(one) ? all.filter((id) => id !== one) : [...all, one]
  return [chosen[0] ?? null, chosen.slice(1)]
}

export const selection: Slice<Selection> = (set) => ({
  step: 'catch',
  layer: null,
  lastLayer: null,
  moreLayers: [],
  item: null,
  more: [],
  key: null,
  moreKeys: [],
  cue: null,
  chooseCue: (cue) => set({ cue }),
  shelf: false,
  carried: null,
  target: null,
  folded: new Set(),
  go: (step) => set({ step, making: false }),
  making: false,
  make: () => set({ making: true }),
  chooseLayer: (layer) =>
    set((s) => ({
      layer,
      moreLayers: [],
      item: layer ? null : s.item,
      more: layer ? [] : s.more,
      key: null,
      moreKeys: [],
    })),
  chooseLayers: (layers) =>
    set({ layer: layers[0] ?? null, moreLayers: layers.slice(1), item: null, more: [], key: null, moreKeys: [] }),
  alsoLayer: (one) =>
    set((s) => {
      const [layer, moreLayers] = also(s.layer, s.moreLayers, one)
      return { layer, moreLayers, item: null, more: [], key: null, moreKeys: [] }
    }),
  chooseItem: (item) =>
    set((s) => ({ item, more: [], layer: item ? null : s.layer, moreLayers: [], key: null, moreKeys: [] })),
  alsoItem: (one) =>
    set((s) => {
      const [item, more] = also(s.item, s.more, one)
      return { item, more, layer: null, moreLayers: [], key: null, moreKeys: [] }
    }),
  chooseKey: (key) => set({ key, moreKeys: [] }),
  chooseKeys: (keys) => set({ key: keys[0] ?? null, moreKeys: keys.slice(1) }),
  alsoKey: (one) =>
    set((s) => {
      const [key, moreKeys] = also(s.key, s.moreKeys, one)
      return { key, moreKeys }
    }),
  toggleShelf: () => set((s) => ({ shelf: !s.shelf })),
  fold: (group) =>
    set((s) => {
      const folded = new Set(s.folded)
      if (!folded.delete(group)) folded.add(group)
      return { folded }
    }),
})
