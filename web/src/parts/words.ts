const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
const MOMENT = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

/** The day of a moment, like 28 Nov 2026. */
export function day(iso: string): string {
  return DAY.format(new Date(iso))
}

/** A moment to the minute, like 28 Nov, 19:04. */
export function moment(iso: string): string {
  return MOMENT.format(new Date(iso))
}

/** How much of the disk something takes: to two figures, in units of a thousand. */
export function bytes(count: number): string {
  const units = ['bytes', 'kB', 'MB', 'GB', 'TB']
  let n = count
  let unit = 0
  while (n >= 999.5 && unit < units.length - 1) {
    n /= 1000
    unit++
  }
  return `${n < 9.95 && unit > 1 ? n.toFixed(1) : Math.round(n)} ${units[unit]}`
}

/** Frames a second, in words, of a rate written as a fraction. */
export function rateWords(rate: string): string {
  const [n, d] = rate.split('/').map(Number)
  return `${Number(((n ?? 0) / (d ?? 1)).toFixed(2))} fps`
}

/** Seconds left, in words. */
export function remainingWords(seconds: number | null | undefined): string {
  if (seconds == null) return 'working out how long'
  if (seconds < 1.5) return 'about a second left'
  return seconds < 90 ? `about ${Math.round(seconds)} s left` : `about ${Math.round(seconds / 60)} min left`
}
