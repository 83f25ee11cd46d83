import { answer, api, type GroundItem, type Layer, newId } from '../api/client'
import { chosenLayers, rateOf, shownAt, useStudio } from '.'

/** What buttons and keys do alike. */

/** Keys that were copied, until layers are. */
let copied: string | null = null

/** From now on layers are pasted again. */
export function forgetKeys(): void {
  copied = null
}

/** Whether keys were copied last. */
export const holdsKeys = (): boolean => copied !== null

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

/** What the footage shows at the playhead. */
function here() {
  const { view, playhead } = useStudio.getState()
  return view && shownAt(view, playhead)
}

/** Goes to the next flagged frame of the piece, or the one before. */
export function jump(by: 1 | -1): void {
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
