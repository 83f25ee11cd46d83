import { useEffect } from 'react'
import { useStudio } from '../store'

/** Every so many milliseconds, at most, the server is told. */
const EVERY = 300

/** Tells the server while a hand is on the page or the piece plays, so that what can wait does. */
export function useAtWork(): void {
  const playing = useStudio((s) => s.playing)
  useEffect(() => {
    let last = 0
    const tell = () => {
      const now = performance.now()
      if (now - last < EVERY) return
      last = now
      useStudio.getState().live?.atWork()
    }
    const dragged = (e: PointerEvent) => e.buttons && tell()
    addEventListener('pointerdown', tell, true)
    addEventListener('pointermove', dragged, true)
    addEventListener('keydown', tell, true)
    addEventListener('wheel', tell, { capture: true, passive: true })
    return () => {
      removeEventListener('pointerdown', tell, true)
      removeEventListener('pointermove', dragged, true)
      removeEventListener('keydown', tell, true)
      removeEventListener('wheel', tell, true)
    }
  }, [])
  useEffect(() => {
    if (!playing) return
    const tell = () => useStudio.getState().live?.atWork()
    tell()
    const timer = setInterval(tell, EVERY)
    return () => clearInterval(timer)
  }, [playing])
}
