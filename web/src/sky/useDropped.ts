import type { DragEvent } from 'react'
import { useStudio } from '../store'
import { putDown, targetAt } from './carried'
import type { Row } from './rows'

const nowhere = () => {
  const { aim, snapTo } = useStudio.getState()
  aim(null)
  snapTo(null)
}

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
      useStudio.getState().aim(found.target)
    },
    onDragLeave: (e: DragEvent) => {
      const to = e.relatedTarget as Node | null
      if (!to || !e.currentTarget.contains(to)) nowhere()
    },
    onDrop: (e: DragEvent) => {
      const found = target(e)
      if (!found) return
      e.preventDefault()
      e.stopPropagation()
      useStudio.getState().carry(null)
      void putDown(found.carried, found.target)
    },
  }
}
