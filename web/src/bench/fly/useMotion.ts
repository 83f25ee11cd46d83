import { useEffect, useRef } from 'react'
import { answer, api, type Edit, type MotionView } from '../../api/client'
import { useOf, useStudio } from '../../store'

/** For so many milliseconds curves wait, at most, for the picture of what is dragged: that comes first. */
const PICTURE = 120
/** Where the curves are not what is dragged, they follow so many milliseconds apart. */
const APART = 150

/** Waits until the picture shows the draft as it is now. */
const pictured = (): Promise<void> =>
  new Promise((done) => {
    const end = () => {
      clearTimeout(timer)
      leave()
      done()
    }
    const timer = setTimeout(end, PICTURE)
    const leave = useStudio.subscribe((s, before) => s.drafted !== before.drafted && end())
  })

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms))

/** Whether an edit is one of keys, as when they are dragged in their curves. */
const ofKeys = (draft: Edit) => draft.kind === 'move keys' || draft.kind === 'change keys'

/** How layers and ground items move, as it is or would be with the draft; what is drawn stays until the next is here. The picture draws paths by it. */
export function useMotion(owners: string[]): MotionView | null {
  const { view, draft, motion } = useOf('view', 'draft', 'motion')
  const busy = useRef(false)
  const again = useRef(false)
  const ids = owners.join()
  // What is under way asks once more for what is chosen by then.
  const wanted = useRef(ids)
  wanted.current = ids
  useEffect(() => {
    const ask = async (): Promise<void> => {
      again.current = true
      if (busy.current) return
      busy.current = true
      while (again.current) {
        if (useStudio.getState().draft) await pictured()
        again.current = false
        const now = useStudio.getState()
        if (!now.view) break
        const path = { project: now.view.project.id }
        // A slow push that is laid out takes the one before away in the picture; its curves stay until then.
        const draft = now.pushing ? null : now.draft
        const body = { owners: wanted.current.split(',').filter(Boolean), draft }
        try {
          const motion = (await answer(
            api.POST('/api/projects/{project}/motion', { params: { path }, body }),
          )) as MotionView
          now.setMotion(motion)
          if (draft && !ofKeys(draft)) await pause(APART)
        } catch {
          // A draft that does not fit changes nothing; its edit will say why.
        }
      }
      busy.current = false
    }
    void ask()
  }, [ids, view?.revision, draft])
  return motion
}
