import { useCallback, useEffect, useRef, useState } from 'react'
import { useHabit, habits } from './habits'
import { useRough } from './rough'

/** How the held frame is looked at. */
export function useViews(started: boolean) {
  const [look, setLook] = useHabit('look', started ? habits.look : 'scene')
  const [backing, setBacking] = useHabit('backing')
  const [loupe, setLoupe] = useHabit('loupe')
  const [ghosts, setGhosts] = useHabit('ghosts')
  const [divided, setDivided] = useHabit('divided')
  const [bare, setBare] = useState(false)
  const looks = useRef(look)
  useEffect(() => {
    looks.current = look
  }, [look])
  /** Shows that something was cut out, unless another view was chosen by the time it is. */
  const veil = useCallback(() => {
    if (looks.current === 'scene') setLook('veil')
  }, [setLook])
  const roughly = useRough((s) => s.mask !== null)
  useEffect(() => {
    if (roughly) veil()
  }, [roughly, veil])
  return {
    look,
    setLook,
    backing,
    setBacking,
    loupe,
    flipLoupe: () => setLoupe(!loupe),
    ghosts,
    flipGhosts: () => setGhosts(!ghosts),
    divided,
    setDivided,
    divide: () => setDivided(divided === null ? 0.5 : null),
    /** While a key is held: the frame as filmed, with nothing over it. */
    bare,
    setBare,
    veil,
  }
}
