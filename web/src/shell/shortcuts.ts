import { useEffect } from 'react'
import { newId } from '../api/client'
import { type Does, doesAt, pressOf } from './keys'
import { rateOf, shownAt, STEPS, useStudio } from './store'

let copied: string | null = null

const inField = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    ['TEXTAREA', 'SELECT'].includes(target.tagName) ||
    (target instanceof HTMLInputElement && target.type !== 'range'))

type Studio = ReturnType<typeof useStudio.getState>

/** What each key does that works everywhere; false if it has nothing to do now. */
const DO: Partial<Record<Does, (s: Studio, press: string) => unknown>> = {
  play: (s) => s.play(),
  back: (s, press) => s.seek(s.playhead - far(press)),
  on: (s, press) => s.seek(s.playhead + far(press)),
  first: (s) => s.seek(0),
  last: (s) => s.seek(s.view!.length - 1),
  step: (s, press) => s.go(STEPS[Number(press) - 1]!),
  flag: () => void flagHere(),
  hold: () => void holdHere(),
  split: (s) => void s.edit({ kind: 'split ground', at: s.playhead }),
  stand: () => void standHere(false),
  shelf: (s) => s.toggleShelf(),
  undo: (s) => void s.undo(),
  redo: (s) => void s.redo(),
  nudge: (s, press) => (s.layer ? nudge(press.split('+').at(-1)!, far(press)) : false),
  duplicate(s) {
    if (s.layer) void s.edit({ kind: 'duplicate layer', layer: s.layer })
    else if (s.item) void s.edit({ kind: 'duplicate ground', item: s.item })
    else return false
  },
  copy(s) {
    const layer = chosenLayer(s)
    if (!layer || getSelection()?.toString()) return false
    copied = JSON.stringify(layer.keys)
    s.say(`Copied ${layer.keys.length} key${layer.keys.length === 1 ? '' : 's'} of ${layer.name}.`)
  },
  paste: (s) =>
    s.layer && copied ? void s.edit({ kind: 'set keys', layer: s.layer, keys: JSON.parse(copied) }) : false,
  remove(s) {
    if (s.layer && s.key) void s.edit({ kind: 'remove key', layer: s.layer, key: s.key })
    else if (s.layer) void s.edit({ kind: 'remove layer', layer: s.layer })
    else if (s.item) void s.edit({ kind: 'remove ground', items: [s.item, ...s.more] })
    else return false
  },
  letGo(s) {
    if (s.key) s.chooseKey(null)
    else if (s.layer) s.chooseLayer(null)
    else s.chooseItem(null)
  },
}

const far = (press: string) => (press.includes('Shift+') ? 10 : 1)
const chosenLayer = (s: Studio) => s.view?.project.layers.find((l) => l.id === s.layer)

/** The keys that work everywhere. A place that has its own use for a key stops it from coming here. */
export function useShortcuts(toggleSheet: () => void): void {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (inField(e.target) || e.defaultPrevented) return
      const press = pressOf(e)
      const does = doesAt(press, 'everywhere')
      if (does === 'sheet') return toggleSheet()
      const s = useStudio.getState()
      if (!does || !s.view) return
      // A button that has the focus is pressed by the space bar.
      const button = e.target instanceof HTMLElement && e.target.closest('button, [role=button], [role=radio]')
      if (does === 'play' && button) return
      if (DO[does]?.(s, press) !== false) e.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [toggleSheet])
}

function nudge(key: string, by: number): void {
  const { layer: id, playhead: frame, edit } = useStudio.getState()
  void edit(() => {
    const { view, frames } = useStudio.getState()
    const layer = view?.project.layers.find((l) => l.id === id)
    const info = id ? view?.layers[id] : undefined
    if (!layer || !info) return null
    const keys = layer.keys.filter((k) => k.channel === 'position')
    const here = keys.find((k) => info.keys[k.id] === frame)
    const shown = frames?.peek(frame)?.header.layers.find((o) => o.id === id)?.values.position
    const [x = 0, y = 0] = here?.value ?? (keys.length ? shown : layer.pose.position) ?? []
    const dx = key === 'ArrowLeft' ? -by : key === 'ArrowRight' ? by : 0
    const dy = key === 'ArrowUp' ? -by : key === 'ArrowDown' ? by : 0
    return { kind: 'set value', layer: layer.id, channel: 'position', frame, value: [x + dx, y + dy] }
  })
}

/** What the footage shows at the playhead. */
function here() {
  const { view, playhead } = useStudio.getState()
  return view && shownAt(view, playhead)
}

export async function flagHere(): Promise<void> {
  const at = here()
  if (at) await useStudio.getState().edit({ kind: 'add moment', shot: at.shot, frame: at.frame })
}

/** Holds the frame on screen, selects its layer, and goes on to carve it. */
export async function holdHere(): Promise<void> {
  const s = useStudio.getState()
  const at = here()
  if (!at) return
  const layer = newId()
  if (await s.edit({ kind: 'hold', item: at.item.id, frame: at.frame, layer })) {
    s.chooseLayer(layer)
    s.go('carve')
  }
}

/** Has everything stand still for a second at the playhead; with `hold`, under a cutout of that very frame. */
export async function standHere(hold: boolean): Promise<void> {
  const s = useStudio.getState()
  const [item, layer] = [newId(), newId()]
  const frames = Math.round(rateOf(s.view!.project.rate))
  if (!(await s.edit({ kind: 'stand still', at: s.playhead, frames, hold, item, layer }))) return
  if (!hold) return s.chooseItem(item)
  s.chooseLayer(layer)
  s.go('carve')
}
