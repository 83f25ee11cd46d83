import type { View } from '../api/view'

/** At most so many lanes of sounds are shown below each other. */
const MOST = 4

/** For each sound that has a place, the lane that it lies in: the first one that is free there for `wide` frames. */
export function lanesOf(view: Pick<View, 'cues'>, wide: number): Record<string, number> {
  const ends: number[] = []
  const found: Record<string, number> = {}
  const placed = Object.entries(view.cues).filter(([, place]) => place.frame !== null)
  placed.sort(([, a], [, b]) => a.start - b.start)
  for (const [id, place] of placed) {
    const free = ends.findIndex((end) => end <= place.start)
    const lane = free >= 0 ? free : Math.min(ends.length, MOST - 1)
    ends[lane] = Math.max(ends[lane] ?? 0, place.end, place.start + wide)
    found[id] = lane
  }
  return found
}

/** The beats of the piece: of all beds that are heard, or if none of these has beats, of other sounds. */
export function beatsOf(view: View): View['cues'][string]['beats'] {
  const heard = view.project.cues.filter((c) => !c.muted)
  for (const beds of [true, false]) {
    const found = heard.filter((c) => (c.part === 'bed') === beds).flatMap((c) => view.cues[c.id!]?.beats ?? [])
    if (found.length) return found.sort((a, b) => a.frame - b.frame)
  }
  return []
}
