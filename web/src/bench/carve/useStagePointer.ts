import { type PointerEvent, type RefObject, useRef, useState } from 'react'
import type { Press } from './hands'
import { type Point, round } from './path'
import { usePointer } from './pointer'
import type { Pan } from './Stage'
import type { Carving } from './useCarving'

/** Whether the pointer is over a button or a field that lies on the stage, not over the frame. */
const overControl = (e: PointerEvent) => (e.target as Element).closest('button, input, [role=radiogroup]') !== null

const press = (e: PointerEvent): Press => ({ shift: e.shiftKey, alt: e.altKey })

/** What the pointer does on the stage: it pans, or it is the hand's. */
export function useStagePointer(box: RefObject<HTMLDivElement | null>, { hand, pan, place }: Carving) {
  const [spaced, setSpaced] = useState(false)
  const panning = useRef<{ x: number; y: number; pan: Pan } | null>(null)
  const toSource = (e: { clientX: number; clientY: number }): Point => {
    const r = box.current!.getBoundingClientRect()
    const p = pan ?? { scale: 1, x: 0, y: 0 }
    return { x: round((e.clientX - r.left - p.x) / p.scale), y: round((e.clientY - r.top - p.y) / p.scale) }
  }
  const does = {
    onPointerDown: (e: PointerEvent) => {
      box.current!.focus({ preventScroll: true })
      e.currentTarget.setPointerCapture(e.pointerId)
      if (!hand || e.button === 1 || e.button === 2 || spaced)
        panning.current = { x: e.clientX, y: e.clientY, pan: pan! }
      else hand.down(toSource(e), press(e))
    },
    onPointerMove: (e: PointerEvent) => {
      const p = toSource(e)
      usePointer.setState({ at: overControl(e) ? null : p })
      const d = panning.current
      if (d) place.setPan({ ...d.pan, x: d.pan.x + e.clientX - d.x, y: d.pan.y + e.clientY - d.y })
      else hand?.move(p, press(e))
    },
    onPointerUp: (e: PointerEvent) => {
      if (panning.current) panning.current = null
      else hand?.up(toSource(e), press(e))
    },
    onPointerLeave: () => usePointer.setState({ at: null }),
    onDoubleClick: (e: React.MouseEvent) => hand?.double?.(toSource(e)),
  }
  return { spaced, setSpaced, does }
}
