/** The decibels at the top and the bottom of a wave that is shaped, and those of a line without corners. */
export const [TOP, LOW] = [12, -36]

export interface Corner {
  at: number
  gain: number
}

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
