import { useEffect, useRef } from 'react'
import type { Edit } from '../api/client'
import { useStudio } from '../store'

/** How long the pointer rests on a picture before what it stands for is shown in the picture. */
const PAUSE = 220

/**
 * Something to choose is tried in the picture while the pointer rests on it, and taken back when it leaves. `about`: what
 * is tried on; when that changes nothing is tried any more.
 */
export function useTrial(about: string) {
  const timer = useRef(0)
  const shown = useRef(false)
  const leave = () => {
    clearTimeout(timer.current)
    timer.current = 0
    if (shown.current) useStudio.getState().setDraft(null)
    shown.current = false
  }
  useEffect(() => leave, [about])
  const rest = (make: () => Edit | Promise<Edit>) => {
    if (timer.current) return
    timer.current = window.setTimeout(() => {
      shown.current = true
      void Promise.resolve(make()).then((edit) => shown.current && useStudio.getState().setDraft(edit))
    }, PAUSE)
  }
  return { rest, leave }
}
