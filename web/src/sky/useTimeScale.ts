import { type RefObject, useEffect, useState } from 'react'
import { LABEL } from '../ground/measures'
import { useStudio } from '../store'

/** How many pixels a frame takes in sky and ground: the whole piece, or as near as somebody has gone. */
export function useTimeScale(scroller: RefObject<HTMLDivElement | null>, length: number) {
  const [room, setRoom] = useState(600)
  const [zoom, setZoom] = useState<number | null>(null)
  const fit = Math.max(0.2, (room - LABEL - 40) / length)
  const per = zoom ?? fit
  const scale = (by: number, around = useStudio.getState().playhead * per) => {
    const next = Math.max(fit, Math.min(40, per * by))
    const box = scroller.current
    setZoom(next <= fit ? null : next)
    if (box) requestAnimationFrame(() => (box.scrollLeft += around * (next / per - 1)))
  }
  useEffect(() => {
    const box = scroller.current
    if (!box) return
    const watch = new ResizeObserver(([e]) => setRoom(e!.contentRect.width))
    watch.observe(box)
    const onWheel = (e: WheelEvent) => {
      if (!e.ctrlKey) return
      e.preventDefault()
      scale(e.deltaY < 0 ? 1.25 : 0.8, e.clientX - box.getBoundingClientRect().left + box.scrollLeft - LABEL)
    }
    box.addEventListener('wheel', onWheel, { passive: false })
    return () => {
      watch.disconnect()
      box.removeEventListener('wheel', onWheel)
    }
  })
  return { room, per, zoomed: zoom !== null, scale, all: () => setZoom(null) }
}
