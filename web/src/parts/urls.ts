import type { ShotView, View } from '../api/client'

/** A source frame, at its own size or at a width. */
export function frameUrl(view: View, shot: ShotView, frame: number, width?: number): string {
  return `/api/projects/${view.project.id}/shots/${shot.id}/frames/${frame}.jpg${width ? `?width=${width}` : ''}`
}

/** How wide a thumbnail is, so that it is sharp at 72 pixels' height. */
export function thumbWidth(shot: { width: number; height: number }): number {
  return Math.max(16, Math.round((144 * shot.width) / shot.height / 2) * 2)
}
