import { type RefObject, useEffect } from 'react'
import { rateOf, useStudio } from '../store'

/** For how many frames the last one stays before it begins again. */
const REST = 10

/** Plays what is only tried, frame after frame on the picture, at the piece's own pace; true while it does. */
export function useRehearsal(canvas: RefObject<HTMLCanvasElement | null>): boolean {
  const rehearsed = useStudio((s) => s.rehearsed)
  useEffect(() => {
    if (!rehearsed) return
    let on = true
    const play = async () => {
      const { frames, view } = useStudio.getState()
      const length = rehearsed.past - rehearsed.first + REST
      const begun = performance.now()
      while (on && frames && view) {
        const at = Math.floor(((performance.now() - begun) / 1000) * rateOf(view.project.rate)) % length
        const frame = Math.min(rehearsed.past - 1, rehearsed.first + at)
        try {
          const answer = await frames.get(frame, rehearsed.edit)
          if (!on || answer.header.trouble) return
          if (answer.header.skipped) continue
          const bitmap = await createImageBitmap(answer.blob)
          const target = canvas.current
          if (on) target?.getContext('2d')?.drawImage(bitmap, 0, 0, target.width, target.height)
          if (target) target.dataset.rehearsed = String(frame)
          bitmap.close()
        } catch {
          return // The stream was closed.
        }
        await new Promise(requestAnimationFrame)
      }
    }
    void play()
    return () => {
      on = false
    }
  }, [rehearsed, canvas])
  return rehearsed !== null
}
