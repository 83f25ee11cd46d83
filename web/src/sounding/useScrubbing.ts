import { useEffect } from 'react'
import { useStudio } from '../store'
import { player } from './player'

/** Lets one hear the frames that are gone through, if that is wanted, and has the sound at the playhead ready. */
export function useScrubbing(): void {
  useEffect(
    () =>
      useStudio.subscribe((s, before) => {
        if (s.playing || before.playing) return
        if (s.playhead !== before.playhead && s.scrub) player.scrub()
        if (s.playhead !== before.playhead || s.view?.sound !== before.view?.sound) player.prepare()
      }),
    [],
  )
}
