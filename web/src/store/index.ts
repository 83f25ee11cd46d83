import { useLayoutEffect } from 'react'
import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import type { Edit } from '../api/client'
import type { FrameHeader } from '../api/live'
import { document_ } from './document'
import { messages } from './messages'
import { selection } from './selection'
import { socket } from './socket'
import { transport } from './transport'
import type { Studio } from './types'
import { work } from './work'

export * from './time'
export * from './types'

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
