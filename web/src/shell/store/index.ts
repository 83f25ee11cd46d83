import { useLayoutEffect } from 'react'
import { create, type StateCreator } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import type { Edit } from '../../api/client'
import type { FrameHeader } from '../../api/live'
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

useStudio.subscribe((s, before) => {
  if (s.layer && s.layer !== before.layer) useStudio.setState({ lastLayer: s.layer })
  // Whatever else is done, what is only tried is over.
  const else_ = s.playhead !== before.playhead || s.view !== before.view || s.draft !== before.draft || s.playing
  if (s.rehearsed && else_) useStudio.setState({ rehearsed: null })
})

/** Parts of the store by name; the component draws again only when one of them changes. */
export function useOf<K extends keyof Studio>(...names: K[]): Pick<Studio, K> {
  return useStudio(useShallow((s) => Object.fromEntries(names.map((n) => [n, s[n]])) as Pick<Studio, K>))
}

/** What is known of the frame that panels speak of, once it has come; another object only where it says something else. */
export function useHeader(): FrameHeader | undefined {
  return useStudio((s) => s.frames?.peek(s.settled)?.header)
}

/**
 * Writes what follows time into an element, without the component being drawn again: when it is there, and whenever what
 * is looked at changes. While the piece plays, nothing else may be drawn.
 */
export function useWritten<T>(look: (s: Studio) => T, write: (value: T) => void): void {
  useLayoutEffect(() => {
    let last = look(useStudio.getState())
    write(last)
    return useStudio.subscribe((s) => {
      const now = look(s)
      if (!Object.is(now, last)) write((last = now))
    })
  })
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

/** The ids of all layers that are chosen, the first one first. */
export function chosenLayers(s: Pick<Studio, 'layer' | 'moreLayers'>): string[] {
  return s.layer ? [s.layer, ...s.moreLayers] : []
}

/** The ids of all layers that are chosen, without those whose group is chosen as well. */
export function chosenTops(s: Pick<Studio, 'layer' | 'moreLayers' | 'view'>): string[] {
  const chosen = chosenLayers(s)
  const groups = new Map(s.view?.project.layers.map((l) => [l.id, l.group ?? null]))
  const below = (id: string): boolean => {
    const group = groups.get(id)
    return group != null && (chosen.includes(group) || below(group))
  }
  return chosen.filter((id) => !below(id))
}

/** One edit, or several as one. */
export function together(edits: Edit[]): Edit | null {
  if (edits.length < 2) return edits[0] ?? null
  return { kind: 'several', edits: edits as Extract<Edit, { kind: 'several' }>['edits'] }
}

/**
 * The selected layer, if it is a cutout, with its hold and the shot that was held. With nothing selected it is the one
 * that was last: what is on the bench stays there.
 */
export function useCutout() {
  const view = useStudio((s) => s.view)
  const id = useStudio((s) => s.layer ?? s.lastLayer)
  const layer = view?.project.layers.find((l) => l.id === id)
  const info = layer && view?.layers[layer.id]
  const hold = info?.hold ? view?.holds[info.hold] : undefined
  const shot = hold && view?.shots[hold.shot]
  if (!view || !layer || !info || !hold || !shot) return null
  return { view, layer, info, hold, shot }
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

/** How finely the picture is drawn: half as fine, fine enough for the page, or as the piece is sent. */
export type Quality = 'half' | 'full' | 'sent'
const LONG: Record<Quality, number> = { half: 480, full: 960, sent: Infinity }

/** The size of preview frames: the canvas's shape, at most as long as the quality asks for, even. */
export function previewSize(width: number, height: number, quality: Quality): { w: number; h: number; exact: boolean } {
  const fit = Math.min(1, LONG[quality] / Math.max(width, height))
  const even = (side: number) => Math.round((side * fit) / 2) * 2
  return { w: even(width), h: even(height), exact: quality === 'sent' }
}

/** What the ground shows at a project frame: the item, and the frame of a shot. */
export function shownAt(view: View, frame: number): { item: ItemView; shot: string; frame: number } | null {
  for (const item of view.items) {
    const source = item.frames[frame - item.start]
    if (frame >= item.start && source !== undefined && item.shot) return { item, shot: item.shot, frame: source }
  }
  return null
}
