import { useRef, useState } from 'react'
import { Refused } from '../../api/client'
import { useStudio } from '../../store'

/** Findings, one after the other: a stroke that is drawn meanwhile corrects what the one before it made. */
export function useTurns() {
  const [busy, setBusy] = useState<{ words: string; job: boolean } | null>(null)
  const queue = useRef<Promise<void>>(Promise.resolve())
  const inTurn = (words: string, work: () => Promise<void>, job = false) => {
    const { awaits, say } = useStudio.getState()
    queue.current = queue.current.then(async () => {
      setBusy({ words, job })
      awaits(1)
      try {
        await work()
      } catch (error) {
        say(error instanceof Refused ? error.message : 'That did not work. Try it again.', 'trouble')
      } finally {
        awaits(-1)
        setBusy(null)
      }
    })
    return queue.current
  }
  return { busy: busy?.words ?? null, job: busy?.job ?? false, inTurn }
}
