/** How high the wave is drawn, and the row of beats above it, in pixels. */
export const [HIGH, BEATS] = [148, 16]

/** The decibels at the top and the bottom of a wave that is shaped, and those of a line without corners. */
export const [TOP, LOW] = [12, -36]

export interface Corner {
  at: number
  gain: number
}

export interface Beat {
  second: number
  number: number
  bar: boolean
}

export interface Sounding {
  name: string
  /** What is drawn: a cue's sound or a shot's. */
  of: { cue?: string; shot?: string }
  /** What changes when that sounds otherwise. */
  version: string
  seconds: number
  /** What is heard of it, and how long it comes up and goes down, in its own seconds. */
  heard: [number, number]
  fades: [number, number]
  gain: number
  line: Corner[]
  /** The second that is heard at a frame of the piece; none where it is not. */
  now: (frame: number) => number | null
  beats?: Beat[]
  /** Where something stands out. */
  accents?: number[]
  /** A second as the project says it. */
  clock: (second: number) => string
  onGain: (gain: number) => void
  onLine: (line: Corner[]) => void
  onFade: (end: 'in' | 'out', seconds: number) => void
  onTrim?: (end: 'start' | 'end', second: number) => void
  onSlip?: (by: number) => void
  onBeat?: (number: number, second: number, alone: boolean) => void
  onSeek: (second: number) => void
}

/** What is being dragged, as it would be. */
export type Trial = Partial<Pick<Sounding, 'gain' | 'line' | 'heard' | 'fades'>> & { by?: number }

/** How far down a loudness lies in a picture that is so high, and which loudness lies there. */
export const downOf = (gain: number, high: number) => ((TOP - Math.max(LOW, Math.min(TOP, gain))) / (TOP - LOW)) * high
export const gainAt = (down: number, high: number) =>
  Math.round((TOP - (Math.max(0, Math.min(high, down)) / high) * (TOP - LOW)) * 2) / 2

/** The seconds that are shown of a sound: what is heard of it, and a bit of what is not at either side. */
export function shownOf([first, past]: [number, number], seconds: number): [number, number] {
  const more = Math.max(0.1, (past - first) * 0.1)
  return [Math.max(0, first - more), Math.max(0.05, Math.min(seconds, past + more))]
}

/** A line with a corner more, or with the one of a number elsewhere: corners stay in order, and within the sound. */
export function lineWith(line: Corner[], n: number | null, corner: Corner, seconds: number): Corner[] {
  const rest = line.filter((_, i) => i !== n)
  const low = n === null || n === 0 ? 0 : line[n - 1]!.at + 0.001
  const high = n === null || n === line.length - 1 ? seconds : line[n + 1]!.at - 0.001
  const at = Math.round(Math.max(low, Math.min(high, corner.at)) * 1000) / 1000
  const gain = Math.max(-60, Math.min(24, corner.gain))
  return [...rest.filter((p) => Math.abs(p.at - at) > 1e-6), { at, gain }].sort((a, b) => a.at - b.at)
}

/** How loud the line is at a second. */
export function lineAt(line: Corner[], at: number): number {
  const after = line.findIndex((p) => p.at >= at)
  if (!line.length) return 0
  if (after === 0) return line[0]!.gain
  if (after < 0) return line[line.length - 1]!.gain
  const [a, b] = [line[after - 1]!, line[after]!]
  return a.gain + ((at - a.at) / (b.at - a.at)) * (b.gain - a.gain)
}

/** A wave as the outline of its peaks, over a width and around the middle of a height. */
export function outline(peaks: number[], wide: number, high: number): string {
  const x = (i: number) => ((i / Math.max(1, peaks.length - 1)) * wide).toFixed(1)
  const y = (v: number) => Math.min(1, v ** 0.7) * (high / 2 - 2) + 0.4
  const top = peaks.map((v, i) => `${x(i)},${(high / 2 - y(v)).toFixed(1)}`)
  const low = peaks.map((v, i) => `${x(i)},${(high / 2 + y(v)).toFixed(1)}`).reverse()
  return peaks.length ? `M${top.join('L')}L${low.join('L')}Z` : ''
}
