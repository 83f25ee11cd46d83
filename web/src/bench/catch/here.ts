import type { ItemView } from '../../api/client'
import { shownAt, useStudio } from '../../store'

/** The ground item whose footage is shown at the playhead; the component draws again only when that is another one. */
export function usePlace(): ItemView | null {
  return useStudio((s) => (s.view ? (shownAt(s.view, s.settled)?.item ?? null) : null))
}

/** The source frame that a ground item shows at a frame of the piece, or the nearest it shows. */
export function sourceAt(place: ItemView, frame: number): number {
  return place.frames[Math.max(0, Math.min(place.length - 1, frame - place.start))]!
}

/** The same at the playhead; while it plays it stays where that began. */
export function useHere(place: ItemView): number {
  return useStudio((s) => sourceAt(place, s.settled))
}
