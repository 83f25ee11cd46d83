import { create, type StateCreator } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import type { ItemView, View } from '../../api/view'
import { type Document, document_ } from './document'
import { type Messages, messages } from './messages'
import { type Selection, selection } from './selection'
import { type Socket, socket } from './socket'
import { type Transport, transport } from './transport'
import { type Work, work } from './work'

export { STEPS, type Step } from './selection'

/** Everything that the page knows, a slice a subject. */
export type Studio = Document & Messages & Selection & Socket & Transport & Work
/** Makes one slice; it may read and change the others. */
export type Slice<S> = StateCreator<Studio, [], [], S>

export const useStudio = create<Studio>()((...a) => ({
  ...document_(...a),
  ...messages(...a),
  ...selection(...a),
  ...socket(...a),
  ...transport(...a),
  ...work(...a),
}))

/** Parts of the store by name; the component draws again only when one of them changes. */
export function useOf<K extends keyof Studio>(...names: K[]): Pick<Studio, K> {
  return useStudio(useShallow((s) => Object.fromEntries(names.map((n) => [n, s[n]])) as Pick<Studio, K>))
}

/** The selected layer, and what the server worked out about it. */
export function useLayer() {
  const view = useStudio((s) => s.view)
  const id = useStudio((s) => s.layer)
  const layer = view?.project.layers.find((l) => l.id === id)
  const info = layer && view?.layers[layer.id]
  if (!view || !layer || !info) return null
  return { layer, info, view }
}

/** The selected layer, if it is a cutout, with its hold and the shot that was held. */
export function useCutout() {
  const found = useLayer()
  const hold = found?.info.hold ? found.view.holds[found.info.hold] : undefined
  const shot = hold && found?.view.shots[hold.shot]
  if (!found || !hold || !shot) return null
  return { ...found, hold, shot }
}

/** Minutes, seconds, frames, as the server writes them. */
export function timecode(frame: number, rate: string): string {
  const whole = Math.round(rateOf(rate))
  const two = (x: number) => String(x).padStart(2, '0')
  const seconds = Math.floor(frame / whole)
  return `${two(Math.floor(seconds / 60))}:${two(seconds % 60)}:${two(frame % whole)}`
}

/** Frames a second, of a rate written as a fraction. */
export function rateOf(rate: string): number {
  const [n, d] = rate.split('/').map(Number)
  return (n ?? 30) / (d ?? 1)
}

/** The size of preview frames: the canvas's shape, at most 960 long, even. */
export function previewSize(width: number, height: number): { w: number; h: number } {
  const fit = Math.min(1, 960 / Math.max(width, height))
  return { w: Math.round((width * fit) / 2) * 2, h: Math.round((height * fit) / 2) * 2 }
}

/** What the ground shows at a project frame: the item, and the frame of a shot. */
export function shownAt(view: View, frame: number): { item: ItemView; shot: string; frame: number } | null {
  for (const item of view.items) {
    const source = item.frames[frame - item.start]
    if (frame >= item.start && source !== undefined && item.shot) return { item, shot: item.shot, frame: source }
  }
  return null
}
