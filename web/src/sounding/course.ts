/** Samples a second, and in a block of the sound. */
export const RATE = 48000

/** The way that playing takes through the piece, in samples: from somewhere to `high`, and then, if it loops, from `low`
 * to `high` again and again. */
export interface Course {
  from: number
  low: number
  high: number
  loops: boolean
}

/** The sample that is heard when so many have been played; null when all of them have. */
export function placeAt(course: Course, played: number): number | null {
  const { from, low, high, loops } = course
  if (from + played < high) return from + played
  return loops && high > low ? low + ((from + played - high) % (high - low)) : null
}

/** What is to be heard after so many samples: a part of one block, up to its end or to where the course turns. */
export function sliceAt(course: Course, played: number): { block: number; first: number; length: number } | null {
  const at = placeAt(course, played)
  if (at === null) return null
  const block = Math.floor(at / RATE)
  return { block, first: at - block * RATE, length: Math.min((block + 1) * RATE, course.high) - at }
}
