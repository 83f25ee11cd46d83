import { type RefObject, useCallback, useEffect, useRef, useState } from 'react'
import type { Matte, ShotView } from '../../api/client'
import type { Pan } from './Stage'

const NEAREST = 16 // 1600 %
const places = new Map<string, { pan: Pan; w: number; h: number }>()

/** Left, top, right, bottom of what is in a matte, in source pixels; null if nothing is. */
function extent(matte: Matte): [number, number, number, number] | null {
  const boxes = matte.pieces.map((p): [number, number, number, number] => {
    if (!('nodes' in p)) return p.raster.box
    const [xs, ys] = [p.nodes.map((n) => n.x), p.nodes.map((n) => n.y)]
    return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
  })
  if (!boxes.length) return null
  const side = (i: number) => boxes.map((b) => b[i]!)
  return [Math.min(...side(0)), Math.min(...side(1)), Math.max(...side(2)), Math.max(...side(3))]
}

/** Where the held frame lies on the stage; holds of one shot share the place, so that flipping between them compares. */
export function usePan(box: RefObject<HTMLDivElement | null>, shot: ShotView, matte: Matte) {
  const [size, setSize] = useState({ w: 0, h: 0 })
  const [pan, setPanState] = useState<Pan | null>(places.get(shot.id)?.pan ?? null)
  const within = useRef(places.get(shot.id) ?? { w: 0, h: 0 })
  const setPan = useCallback(
    (next: Pan | ((p: Pan | null) => Pan | null)) =>
      setPanState((before) => {
        const pan = typeof next === 'function' ? next(before) : next
        if (pan) places.set(shot.id, { pan, w: within.current.w, h: within.current.h })
        return pan
      }),
    [shot.id],
  )
  const fit = useCallback(
    (w: number, h: number): Pan => {
      const scale = Math.min((w - 24) / shot.width, (h - 24) / shot.height)
      return { scale, x: (w - shot.width * scale) / 2, y: (h - shot.height * scale) / 2 }
    },
    [shot],
  )
  const near = useCallback(
    (w: number, h: number, matte: Matte): Pan => {
      const around = extent(matte)
      if (!around) return fit(w, h)
      const [left, top, right, bottom] = around
      const scale = Math.min(4, (w - 90) / (right - left + 1), (h - 110) / (bottom - top + 1))
      return { scale, x: w / 2 - ((left + right) / 2) * scale, y: h / 2 - ((top + bottom) / 2) * scale }
    },
    [fit],
  )
  /** As near as the subject allows once there is one, else the whole frame. */
  const first = useRef((w: number, h: number) => near(w, h, matte))
  useEffect(() => {
    const watch = new ResizeObserver(([e]) => {
      const [w, h] = [Math.floor(e!.contentRect.width), Math.floor(e!.contentRect.height)]
      const was = within.current
      within.current = { w, h }
      setSize({ w, h })
      setPan((before) => {
        if (!before) return first.current(w, h)
        const whole = fit(was.w, was.h)
        // The whole frame stays whole in a stage of another size; of a part the middle stays in the middle.
        if (before.scale === whole.scale && before.x === whole.x && before.y === whole.y) return fit(w, h)
        return { ...before, x: before.x + (w - was.w) / 2, y: before.y + (h - was.h) / 2 }
      })
    })
    watch.observe(box.current!)
    return () => watch.disconnect()
  }, [box, setPan, fit])
  const zoom = useCallback(
    (by: number, cx: number, cy: number) =>
      setPan((p) => {
        if (!p) return p
        const scale = Math.max(0.05, Math.min(NEAREST, p.scale * by))
        const k = scale / p.scale
        return { scale, x: cx - (cx - p.x) * k, y: cy - (cy - p.y) * k }
      }),
    [setPan],
  )
  useEffect(() => {
    const el = box.current!
    const onWheel = (e: WheelEvent) => {
      e.preventDefault()
      const r = el.getBoundingClientRect()
      zoom(Math.exp(-Math.max(-120, Math.min(120, e.deltaY)) * 0.0022), e.clientX - r.left, e.clientY - r.top)
    }
    el.addEventListener('wheel', onWheel, { passive: false })
    return () => el.removeEventListener('wheel', onWheel)
  }, [box, zoom])
  return {
    size,
    pan,
    setPan,
    zoom,
    whole: () => setPan(fit(size.w, size.h)),
    subject: () => setPan(near(size.w, size.h, matte)),
  }
}
