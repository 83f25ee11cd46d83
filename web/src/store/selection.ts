import type { Selection, Slice } from './types'

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
  carry: (carried) => set(carried ? { carried } : { carried, target: null, snappedTo: null }),
  aim: (target) => set({ target }),
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
