import { useEffect } from 'react'
import { answer, api, type Edit, type GroundItem, type Layer, newId } from '../api/client'
import { owned } from '../bench/fly/lines'
import { type Does, doesAt, pressOf } from './keys'
import { chosenLayers, chosenTops, rateOf, shownAt, STEPS, together, useStudio } from './store'

/** Keys that were copied, until layers are. */
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
      copied = null
      return void s.copy(chosenLayers(s))
    }
    copyKeys([layer], s.moreKeys.length ? [s.key, ...s.moreKeys] : [])
  },
  paste(s) {
    if (!copied) return void s.paste()
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

/** Copies the chosen keys of layers or ground items, or all of them, to be put on others. */
export function copyKeys(owners: (Layer | GroundItem)[], chosen: string[]): void {
  const keys = owners.flatMap((o) => o.keys).filter((k) => !chosen.length || chosen.includes(k.id))
  copied = JSON.stringify(keys)
  const whose = owners.length === 1 && 'name' in owners[0]! ? ` of ${owners[0].name}` : ''
  const count = `${keys.length} key${keys.length === 1 ? '' : 's'}`
  useStudio.getState().say(`Copied ${count}${whose}. Choose layers and paste them there.`)
}

/** Puts copied keys on the chosen layers; false if there is nothing to do. */
export function pasteKeys(): false | void {
  const s = useStudio.getState()
  const layers = chosenLayers(s)
  if (!copied) return s.say('No keys were copied yet. Choose some and copy them first.')
  if (!layers.length) return false
  void s.edit({ kind: 'paste keys', layers, keys: JSON.parse(copied) })
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

/** What the footage shows at the playhead. */
function here() {
  const { view, playhead } = useStudio.getState()
  return view && shownAt(view, playhead)
}

/** Goes to the next flagged frame of the piece, or the one before. */
function jump(by: 1 | -1): void {
  const { view, playhead, seek } = useStudio.getState()
  const flagged = (view?.items ?? []).flatMap((item) =>
    (item.shot ? view!.shots[item.shot]!.moments : [])
      .map((m) => item.frames.indexOf(m.frame))
      .filter((index) => index >= 0)
      .map((index) => item.start + index),
  )
  const ahead = flagged.filter((f) => (by > 0 ? f > playhead : f < playhead))
  if (ahead.length) seek(by > 0 ? Math.min(...ahead) : Math.max(...ahead))
}

/** Moves a moment to a frame, and the holds taken there with it: where they are carved, their mattes are carried. */
export async function moveMoment(shot: string, moment: string, frame: number): Promise<void> {
  const { view, edit, takeJob, trouble } = useStudio.getState()
  const from = view?.shots[shot]?.moments.find((m) => m.id === moment)?.frame
  const carved = Object.values(view?.holds ?? {}).some(
    (h) => h.shot === shot && h.frame === from && h.matte.pieces.length > 0,
  )
  if (!carved) return void (await edit({ kind: 'change moment', shot, moment, frame }))
  try {
    const path = { project: view!.project.id, shot, moment }
    const url = '/api/projects/{project}/shots/{shot}/moments/{moment}/nudge' as const
    takeJob(await answer(api.POST(url, { params: { path }, body: { frame } })))
  } catch (error) {
    trouble(error)
  }
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
