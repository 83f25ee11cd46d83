import type { View } from '../api/view'

/** At most so many lanes of sounds are shown below each other. */
const MOST = 4

/** For each sound that has a place, the lane that it lies in: the first one that is free there for `wide` frames, or
 * that which is free the soonest; and how many frames of it are seen there before the next one begins. */
export function lanesOf(view: Pick<View, 'cues'>, wide: number): Record<string, { lane: number; seen: number }> {
  const ends: number[] = []
  const found: Record<string, { lane: number; seen: number }> = {}
  const last: string[] = []
  const placed = Object.entries(view.cues).filter(([, place]) => place.frame !== null)
  placed.sort(([, a], [, b]) => a.start - b.start)
  for (const [id, place] of placed) {
    const free = ends.findIndex((end) => end <= place.start)
    const lane = free >= 0 ? free : ends.length < MOST ? ends.length : ends.indexOf(Math.min(...ends))
    ends[lane] = Math.max(ends[lane] ?? 0, place.end, place.start + wide)
    const before = last[lane]
    if (before) found[before]!.seen = Math.min(found[before]!.seen, place.start - view.cues[before]!.start)
    found[id] = { lane, seen: Infinity }
    last[lane] = id
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

type Cue = View['project']['cues'][number]
const round = (x: number) => Math.round(x * 10000) / 10000

/** What changes of a cue that begins with another second of its sound: what is left of it stays where it is heard. */
export function begun(cue: Cue, place: View['cues'][string], rate: number, to: number) {
  const skip = cue.skip ?? 0
  const by = ((to - skip) * 100) / (cue.speed ?? 100)
  // Its main moment stays on its frame as long as that is heard.
  const strikes = ((place.frame ?? place.start) - place.start) / rate
  const later = by + (strikes > 0 ? Math.max(0, strikes - by) - strikes : 0)
  const tie = { ...cue.tie, offset: (cue.tie?.offset ?? 0) + Math.round(later * rate) }
  const left = cue.lasts == null ? {} : { lasts: round(Math.max(0.02, cue.lasts - by)) }
  return { skip: round(Math.max(0, to)), tie, ...left }
}

/** What changes of a cue that ends with another second of its sound. */
export function ended(cue: Cue, to: number) {
  return { lasts: round(Math.max(0.02, ((to - (cue.skip ?? 0)) * 100) / (cue.speed ?? 100))) }
}
