import { type PointerEvent, useRef } from 'react'

interface Drag<T> {
  /** What is needed while it lasts, as it was where the pointer came down; null if nothing is to be dragged there. */
  start: (e: PointerEvent<HTMLElement | SVGElement>) => T | null
  /** How far the pointer has come since, in screen pixels. */
  move: (dx: number, dy: number, from: T, e: PointerEvent<HTMLElement | SVGElement>) => void
  /** The pointer was let go; `moved` tells a drag from a mere press. */
  end?: (moved: boolean, from: T, e: PointerEvent<HTMLElement | SVGElement>) => void
  /** How many pixels make a drag of a press. The pointer is held on to from then on only, so that clicks get through. */
  slack?: number
  /** Holds on to the pointer from the first, where what lies below may change as it comes down. */
  atOnce?: boolean
}

/** The handlers of something that is dragged with the pointer: for the element itself. */
export function useDrag<T>({ start, move, end, slack = 0, atOnce = !slack }: Drag<T>) {
  const held = useRef<{ x: number; y: number; from: T; moved: boolean } | null>(null)
  const finish = (e: PointerEvent<HTMLElement | SVGElement>) => {
    const was = held.current
    held.current = null
    if (was) end?.(was.moved, was.from, e)
  }
  return {
    onPointerDown(e: PointerEvent<HTMLElement | SVGElement>) {
      const from = e.button === 0 ? start(e) : null
      if (from === null) return
      held.current = { x: e.clientX, y: e.clientY, from, moved: false }
      if (atOnce) e.currentTarget.setPointerCapture(e.pointerId)
    },
    onPointerMove(e: PointerEvent<HTMLElement | SVGElement>) {
      const h = held.current
      if (!h) return
      // Let go outside, before there was a reason to hold on to the pointer.
      if (!(e.buttons & 1)) {
        held.current = null
        return
      }
      const [dx, dy] = [e.clientX - h.x, e.clientY - h.y]
      if (!h.moved && Math.hypot(dx, dy) < slack) return
      if (!h.moved && !atOnce) e.currentTarget.setPointerCapture(e.pointerId)
      h.moved = true
      move(dx, dy, h.from, e)
    },
    onPointerUp: finish,
    onPointerCancel: finish,
  }
}
