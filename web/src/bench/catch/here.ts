import { useRef } from 'react'
import type { ItemView } from '../../api/client'
import { shownAt, useStudio } from '../../shell/store'

/** The ground item whose footage is shown at the playhead; the component draws again only when that is another one. */
export function usePlace(): ItemView | null {
  return useStudio((s) => (s.view ? (shownAt(s.view, s.playhead)?.item ?? null) : null))
}

/** The source frame that a ground item shows at the playhead, or the nearest it shows. */
export function useHere(place: ItemView): number {
  return useStudio((s) => place.frames[Math.max(0, Math.min(place.length - 1, s.playhead - place.start))]!)
}

/** The same, but for while it plays: then it stays where that began. */
export function useStillHere(place: ItemView): number {
  const here = useHere(place)
  const playing = useStudio((s) => s.playing)
  const still = useRef(here)
  // What is drawn from it costs the server as much as the piece itself, which then could not be played.
  if (!playing) still.current = here
  return place.frames.includes(still.current) ? still.current : here
}
