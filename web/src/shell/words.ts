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
