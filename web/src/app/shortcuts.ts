import { useEffect } from 'react'
import { type Edit, newId } from '../api/client'
import { owned } from '../bench/fly/lines'
import { type Does, doesAt, pressOf } from '../parts/keys'
import { chosenLayers, chosenTops, STEPS, together, useStudio } from '../store'
import { copyKeys, flagHere, forgetKeys, holdHere, holdsKeys, jump, pasteKeys, standHere } from '../store/doing'

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
  momentBefore: () => jump(-1),
  momentAfter: () => jump(1),
  hold: () => void holdHere(),
  split: (s) => void s.edit({ kind: 'split ground', at: s.playhead }),
  stand: () => void standHere(false),
  shelf: (s) => s.toggleShelf(),
  undo: (s) => void s.undo(),
  redo: (s) => void s.redo(),
  nudge: (s, press) => (s.layer ? nudge(press.split('+').at(-1)!, far(press)) : false),
  duplicate(s) {
    const all = together(chosenTops(s).map((layer): Edit => ({ kind: 'duplicate layer', layer })))
    if (all) void s.edit(all)
    else if (s.item) void s.edit({ kind: 'duplicate ground', item: s.item })
    else return false
  },
  copy(s) {
    const layer = chosenLayer(s)
    if (!layer || getSelection()?.toString()) return false
    if (!s.key) {
      forgetKeys()
      return void s.copy(chosenLayers(s))
    }
    copyKeys([layer], s.moreKeys.length ? [s.key, ...s.moreKeys] : [])
  },
  paste(s) {
    if (!holdsKeys()) return void s.paste()
    return pasteKeys()
  },
  group(s) {
    const layers = chosenLayers(s)
    if (!layers.length) return false
    const group = newId()
    void s.edit({ kind: 'make group', layers, group }).then((done) => done && s.chooseLayer(group))
  },
  guides: (s) => s.toggleGuides(),
  remove(s) {
    const owners = [...s.view!.project.layers, ...s.view!.project.ground]
    if (s.key) void s.edit({ kind: 'remove keys', of: owned(owners, [s.key, ...s.moreKeys]) })
    else if (s.layer) void s.edit(together(chosenTops(s).map((layer): Edit => ({ kind: 'remove layer', layer })))!)
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
    const shift = !useStudio.getState().auto
    const value = [x + dx, y + dy]
    return { kind: 'set value', layer: layer.id, channel: 'position', frame, value, key: false, shift }
  })
}
