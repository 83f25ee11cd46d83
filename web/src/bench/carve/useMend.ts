import { useRef, useState } from 'react'
import { answer, api, type Mark, Refused } from '../../api/client'
import { useStudio } from '../../store'
import type { Hand } from './hands'
import { round } from './path'
import { usePointer } from './pointer'

export interface Mending {
  on: boolean
  source: 'around' | 'frame'
  setSource: (source: 'around' | 'frame') => void
  frame: number
  setFrame: (frame: number) => void
}

/** The brush that mends the plate: a stroke is filled from around it, or with what another frame shows there. */
export function useMend(on: boolean, at: { project: string; hold: string; frames: number }, brush: number) {
  const [source, setSource] = useState<'around' | 'frame'>('around')
  const [frame, setFrame] = useState(at.frames - 1)
  const [waiting, setWaiting] = useState<Mark[]>([])
  const drawing = useRef<Mark | null>(null)
  const queue = useRef<Promise<void>>(Promise.resolve())

  const mend = (mark: Mark) => {
    setWaiting((w) => [...w, mark])
    queue.current = queue.current.then(async () => {
      const { edit, say } = useStudio.getState()
      try {
        const where = { params: { path: { project: at.project, hold: at.hold } } }
        const body = { stroke: mark, source, frame: source === 'frame' ? frame : null }
        const made = await answer(api.POST('/api/projects/{project}/holds/{hold}/plate/mend', { ...where, body }))
        await edit({ kind: 'set plate', hold: at.hold, plate: made.plate })
      } catch (error) {
        say(error instanceof Refused ? error.message : 'That did not work. Try it again.', 'trouble')
      } finally {
        setWaiting((w) => w.filter((m) => m !== mark))
      }
    })
  }
  const hand: Hand = {
    down(p) {
      drawing.current = { points: [[p.x, p.y]], width: brush }
      usePointer.setState({ stroke: { side: 'drop', mark: drawing.current } })
    },
    move(p) {
      const d = drawing.current
      if (!d) return
      const [x, y] = d.points.at(-1)!
      if (Math.hypot(p.x - x, p.y - y) < Math.max(1.5, brush / 8)) return
      drawing.current = { ...d, points: [...d.points, [round(p.x), round(p.y)]] }
      usePointer.setState({ stroke: { side: 'drop', mark: drawing.current } })
    },
    up() {
      const d = drawing.current
      drawing.current = null
      usePointer.setState({ stroke: null })
      if (d) mend({ ...d, points: d.points.slice(0, 4000) })
    },
    key(key) {
      if (key !== 'Escape' || !drawing.current) return false
      drawing.current = null
      usePointer.setState({ stroke: null })
      return true
    },
  }
  const mending: Mending = { on, source, setSource, frame, setFrame }
  return { hand, mending, strokes: waiting }
}
