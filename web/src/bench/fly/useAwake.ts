import { useMemo, useState } from 'react'
import { useStudio } from '../../store'

/** Whether a gallery's small pictures move: while pointer or focus rests on it, and nothing is played. */
export function useAwake() {
  const [on, setOn] = useState(false)
  const playing = useStudio((s) => s.playing)
  const props = useMemo(
    () => ({
      onPointerEnter: () => setOn(true),
      onPointerLeave: () => setOn(false),
      onFocus: () => setOn(true),
      onBlur: () => setOn(false),
    }),
    [],
  )
  return { awake: on && !playing, props }
}
