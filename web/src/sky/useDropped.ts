import type { DragEvent } from 'react'
import { useStudio } from '../shell/store'
import { putDown, targetAt } from '../shelf/carried'
import type { Row } from './rows'

/** The handlers of sky and ground for what is dragged there off the shelf: it is shown where it would go to. */
export function useDropped(rows: Row[], per: number, place: (e: DragEvent) => [number, number]) {
  const target = (e: DragEvent) => {
    const { carried } = useStudio.getState()
    if (!carried) return null
    const [x, lane] = place(e)
    const ground = !!(e.target as HTMLElement).closest('[data-ground]')
    const row = Math.max(0, Math.min(rows.length, Math.floor(lane)))
    return { carried, target: targetAt(carried, x / per, ground, per, row, rows[row]?.layer.id ?? null) }
  }
  return {
    onDragOver: (e: DragEvent) => {
      const found = target(e)
      if (!found) return
      e.preventDefault()
      e.stopPropagation()
      e.dataTransfer.dropEffect = 'copy'
      useStudio.setState({ target: found.target })
    },
    onDragLeave: (e: DragEvent) => {
      const to = e.relatedTarget as Node | null
      if (!to || !e.currentTarget.contains(to)) useStudio.setState({ target: null, snappedTo: null })
    },
    onDrop: (e: DragEvent) => {
      const found = target(e)
      if (!found) return
      e.preventDefault()
      e.stopPropagation()
      useStudio.setState({ carried: null, target: null, snappedTo: null })
      void putDown(found.carried, found.target)
    },
  }
}
