import { beatsOf } from './cues'
import { rateOf, useStudio } from '../store'

/** How near in screen pixels something has to come to snap. */
const REACH = 7

/** The frames that things snap to: cuts, landings, ends of spans, flagged frames, beats, the playhead, whole seconds. */
export function snapFrames(besides: string[]): number[] {
  const { view, playhead } = useStudio.getState()
  if (!view) return []
  const found = new Set<number>([0, view.length, playhead])
  for (const item of view.items) {
    found.add(item.start)
    const shot = item.shot ? view.shots[item.shot] : undefined
    for (const moment of shot?.moments ?? []) {
      const at = item.frames.indexOf(moment.frame)
      if (at >= 0) found.add(item.start + at)
    }
  }
  for (const [id, info] of Object.entries(view.layers)) {
    if (besides.includes(id)) continue
    for (const frame of [info.start, info.landing, info.end]) if (frame != null) found.add(frame)
  }
  for (const beat of beatsOf(view)) found.add(Math.round(beat.frame))
  const second = Math.round(rateOf(view.project.rate))
  for (let f = second; f < view.length; f += second) found.add(f)
  return [...found]
}

/** A frame, or the one that it snaps to if that is near; where it snaps is shown. */
export function snapped(frame: number, frames: number[], per: number): number {
  const { snap } = useStudio.getState()
  let best: number | null = null
  for (const f of snap ? frames : []) {
    const away = Math.abs(f - frame)
    if (away * per <= REACH && (best === null || away < Math.abs(best - frame))) best = f
  }
  useStudio.getState().snapTo(best)
  return best ?? frame
}

/** No longer shows where something snaps. */
export const letGo = () => useStudio.getState().snapTo(null)
