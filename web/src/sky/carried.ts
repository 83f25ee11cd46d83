import type { DragEvent, MouseEvent } from 'react'
import { newId, type Edit } from '../api/client'
import { offerBehind } from './behind'
import { snapFrames, snapped } from '../ground/snap'
import { rateOf, useStudio } from '../store'
import type { Carried, Target } from '../store'

/** What lasts so many seconds is music or air, and goes along with the piece rather than with what happens in it. */
export const LONG = 4

/** A shot, picture or sound of the shelf by its id; null if it is something else. */
export function carriedOf(id: string): Carried | null {
  const { view } = useStudio.getState()
  const rate = rateOf(view!.project.rate)
  const shot = view!.shots[id]
  if (shot) return { kind: 'shot', id, name: shot.name, frames: Math.max(1, Math.round(shot.seconds * rate)) }
  const asset = view!.assets[id]
  if (asset?.kind === 'picture') return { kind: 'picture', id, name: asset.name, frames: view!.length }
  if (asset?.kind === 'sound')
    return { kind: 'sound', id, name: asset.name, frames: Math.max(1, Math.round(asset.seconds * rate)) }
  return null
}

/** Where something goes that is put at a frame: sounds among the sounds, all else into the ground or the sky. */
export function targetAt(
  what: Carried,
  frame: number,
  ground: boolean,
  per: number,
  row = 0,
  above: string | null = null,
): Target {
  const view = useStudio.getState().view!
  if (what.kind !== 'sound' && (ground || !view.length)) {
    const item = view.items.filter((i) => i.start + i.length / 2 < frame).length
    return { zone: 'ground', frame: view.items[item]?.start ?? view.length, item }
  }
  const within = Math.max(0, Math.min(Math.max(0, view.length - 1), frame))
  const at = snapped(Math.round(within), snapFrames([]), per)
  return { zone: what.kind === 'sound' ? 'sounds' : 'sky', frame: at, row, above }
}

/** Puts something of the shelf there, and chooses it. */
export async function putDown(what: Carried, target: Target): Promise<void> {
  const { edit, view, chooseLayer, chooseCue, go } = useStudio.getState()
  if (target.zone === 'ground') {
    const add =
      what.kind === 'shot'
        ? { kind: 'add ground' as const, shot: what.id }
        : { kind: 'add picture' as const, asset: what.id }
    await edit({ ...add, at: target.item })
    return
  }
  const asset = view!.assets[what.id]
  if (target.zone === 'sounds') {
    const cue = newId()
    const lies = view!.items.find((i) => i.start <= target.frame && target.frame < i.start + i.length)
    // Music stays where it is, whatever is done to the footage; a noise goes along with what happens there.
    const item = (asset!.seconds ?? 0) > LONG ? undefined : lies
    const tie = { to: 'start' as const, layer: null, item: item?.id ?? null, offset: target.frame - (item?.start ?? 0) }
    const sound = { kind: 'shelved', asset: what.id, stored: asset!.file } as never
    if (await edit({ kind: 'add cue', sound, tie, gain: -3, cue })) {
      go('sound')
      chooseCue(cue)
    }
    return
  }
  const layer = newId()
  const source = (
    what.kind === 'shot'
      ? { kind: 'take', shot: what.id, first: 0, past: view!.shots[what.id]!.frames }
      : { kind: 'image', asset: what.id, file: asset!.file, width: asset!.width, height: asset!.height }
  ) as Extract<Edit, { kind: 'add layer' }>['source']
  if (!(await edit({ kind: 'add layer', source, at: target.frame, above: target.above, layer }))) return
  chooseLayer(layer)
  if (what.kind === 'picture') offerBehind(layer, target.frame)
  go('fly')
}

/** What makes a part of the shelf one that can be dragged into the piece, or put at the playhead by a double click. */
export function carrying(id: string) {
  return {
    draggable: true,
    title: 'Drag it into the ground, the sky or the sounds, or double-click to put it at the playhead',
    onDragStart: (e: DragEvent) => {
      const carried = carriedOf(id)
      if (!carried) return e.preventDefault()
      e.dataTransfer.setData('text/plain', carried.name)
      e.dataTransfer.effectAllowed = 'copy'
      useStudio.getState().carry(carried)
    },
    onDragEnd: () => useStudio.getState().carry(null),
    onDoubleClick: (e: MouseEvent) => {
      if ((e.target as HTMLElement).closest('button, input')) return
      const [what, { playhead }] = [carriedOf(id), useStudio.getState()]
      if (!what) return
      const target = targetAt(what, playhead, what.kind === 'shot', 0)
      useStudio.getState().snapTo(null)
      void putDown(what, target)
    },
  }
}
