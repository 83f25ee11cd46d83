import type { ItemView, View } from '../api/view'

/** Minutes, seconds, frames, as the server writes them. */
export function timecode(frame: number, rate: string): string {
  const whole = Math.round(rateOf(rate))
  const two = (x: number) => String(x).padStart(2, '0')
  const seconds = Math.floor(frame / whole)
  return `${two(Math.floor(seconds / 60))}:${two(seconds % 60)}:${two(frame % whole)}`
}

/** Frames a second, of a rate written as a fraction. */
export function rateOf(rate: string): number {
  const [n, d] = rate.split('/').map(Number)
  return (n ?? 30) / (d ?? 1)
}

/** How finely the picture is drawn: half as fine, fine enough for the page, or as the piece is sent. */
export type Quality = 'half' | 'full' | 'sent'
const LONG: Record<Quality, number> = { half: 480, full: 960, sent: Infinity }

/** The size of preview frames: the canvas's shape, at most as long as the quality asks for, even. */
export function previewSize(width: number, height: number, quality: Quality): { w: number; h: number; exact: boolean } {
  const fit = Math.min(1, LONG[quality] / Math.max(width, height))
  const even = (side: number) => Math.round((side * fit) / 2) * 2
  return { w: even(width), h: even(height), exact: quality === 'sent' }
}

/** What the ground shows at a project frame: the item, and the frame of a shot. */
export function shownAt(view: View, frame: number): { item: ItemView; shot: string; frame: number } | null {
  for (const item of view.items) {
    const source = item.frames[frame - item.start]
    if (frame >= item.start && source !== undefined && item.shot) return { item, shot: item.shot, frame: source }
  }
  return null
}
