import { useEffect } from 'react'
import { newId } from '../api/client'
import { shownAt, STEPS, useStudio } from './store'

export const KEYS: [string, string][] = [
  ['Space', 'Play and stop'],
  ['← →', 'One frame back or on; Shift for ten'],
  ['Home, End', 'First and last frame'],
  ['1 … 5', 'Catch, Carve, Fly, Dress, Send'],
  ['F', 'Flag the frame on screen'],
  ['H', 'Hold the frame on screen'],
  ['S', 'Open and close the shelf'],
  ['Delete', 'Remove what is selected: points, a key, a layer, footage'],
  ['Escape', 'Let go: drop a path being drawn, clear the selection'],
  ['Ctrl+Z, Ctrl+Shift+Z', 'Undo, redo'],
  ['Ctrl+D', 'Duplicate the layer'],
  ['Ctrl+C, Ctrl+V', 'Copy the layer’s keys, put them on another layer'],
  ['Alt+arrows', 'Nudge the cutout by a pixel; Shift for ten'],
  ['V, P, O, B, L, C', 'In Carve: points, pen, oval, box, lasso, cling line'],
  ['K, D, E', 'In Carve: keep and drop marks, rub marks out; [ and ] change the brush'],
  ['M, T', 'In Carve: pan, mend the plate'],
  ['W, A, G, Z', 'In Carve: the scene while held, before and after, ghosts, loupe'],
  [', .', 'In Carve: the hold before and after this one'],
  ['0, 9', 'In Carve: the whole frame, the subject'],
  ['Enter', 'In Carve: close the path; with the pen by keyboard, set a point'],
  ['Wheel', 'In Carve: zoom to the pointer. In sky and ground with Ctrl: zoom time'],
  ['Space+drag', 'In Carve: pan'],
  ['?', 'This sheet'],
]

let copied: string | null = null

const inField = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.isContentEditable || ['TEXTAREA', 'SELECT'].includes(target.tagName) ||
    (target instanceof HTMLInputElement && target.type !== 'range'))

/** The keys that work everywhere. A place that has its own use for a key stops it from coming here. */
export function useShortcuts(toggleSheet: () => void): void {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (inField(e.target) || e.defaultPrevented) return
      if (e.key === '?') return toggleSheet()
      const s = useStudio.getState()
      if (!s.view) return
      const layer = s.view.project.layers.find((l) => l.id === s.layer)
      const ctrl = e.ctrlKey || e.metaKey
      const button = e.target instanceof HTMLElement && e.target.closest('button, [role=button], [role=radio]')
      const key = e.key.length === 1 ? e.key.toLowerCase() : e.key
      const step = e.shiftKey ? 10 : 1
      if (ctrl) {
        if (key === 'z') void (e.shiftKey ? s.redo() : s.undo())
        else if (key === 'd' && layer) void s.edit({ kind: 'duplicate layer', layer: layer.id })
        else if (key === 'c' && layer && !getSelection()?.toString()) {
          copied = JSON.stringify(layer.keys)
          s.say(`Copied ${layer.keys.length} key${layer.keys.length === 1 ? '' : 's'} of ${layer.name}.`)
        } else if (key === 'v' && layer && copied) {
          void s.edit({ kind: 'set keys', layer: layer.id, keys: JSON.parse(copied) })
        } else return
      } else if (e.altKey && e.key.startsWith('Arrow') && layer) {
        nudge(e.key, step)
      } else if (key === ' ' && !button) s.play()
      else if (e.key === 'ArrowLeft') s.seek(s.playhead - step)
      else if (e.key === 'ArrowRight') s.seek(s.playhead + step)
      else if (e.key === 'Home') s.seek(0)
      else if (e.key === 'End') s.seek(s.view.length - 1)
      else if (/^[1-5]$/.test(key)) s.go(STEPS[Number(key) - 1]!)
      else if (key === 's') s.toggleShelf()
      else if (key === 'f') void flagHere()
      else if (key === 'h') void holdHere()
      else if (e.key === 'Delete' && layer) {
        if (s.key) void s.edit({ kind: 'remove key', layer: layer.id, key: s.key })
        else void s.edit({ kind: 'remove layer', layer: layer.id })
      } else if (e.key === 'Delete' && s.item) {
        void s.edit({ kind: 'remove ground', item: s.item })
      } else if (e.key === 'Escape') {
        if (s.key) s.chooseKey(null)
        else if (s.layer) s.chooseLayer(null)
        else s.chooseItem(null)
      } else return
      e.preventDefault()
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
