import type { GroundItem, ItemView } from '../api/client'

/** How high the strip of the ground is, and where it begins below the flags, in pixels. */
export const STRIP = 44
/** How high the sound below it is drawn, and how high all of the ground is. */
export const WAVE = 26
export const GROUND = STRIP + WAVE + 28
/** How high each lane of sounds below it is. */
export const CUES = 24
/** How high all of them are where they lie in one line. */
export const SLIM = 14
export const TOP = 12

/** The project frame at which a ground item shows a source frame, or the first one after it. */
export function frameOf(place: ItemView, source: number): number {
  return (
    place.start +
    Math.max(
      0,
      place.frames.findIndex((f) => f >= source),
    )
  )
}

/** How many source frames of a take go by in a project frame, about. */
export function pace(place: ItemView): number {
  return place.range ? (place.range[1] - place.range[0]) / place.length : 1
}

/** The item's source with another length, if it lasts for so many project frames. */
export function lasting(item: GroundItem, frames: number) {
  return 'lasting' in item.source ? { ...item.source, lasting: Math.max(1, frames) } : null
}
