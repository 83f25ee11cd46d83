import { answer, api, type Carved, type Found, type Mark, type Piece, type Raster, type Shape } from '../../api/client'
import { finished } from '../../parts/finished'
import { useStudio } from '../../store'
import type { Seen } from '../../store/types'

const at = (project: string, hold: string) => ({ params: { path: { project, hold } } })

/** A found piece of the matte that a hold has at a frame, or one that is to be found and has that id then. */
interface Marked {
  frame: number
  piece: string
}

/** Puts a stroke on a piece, or finds a new one by it. Resolves to whether that was done. */
export function stroke(
  hold: string,
  asked: Marked & { combine: Piece['combine']; side: 'keep' | 'drop'; mark: Mark },
  answered: () => void,
): Promise<boolean> {
  return carve(async ({ project, ...seen }) => {
    const url = '/api/projects/{project}/holds/{hold}/strokes' as const
    const told = await answer(api.POST(url, { ...at(project, hold), body: { ...asked, ...seen } }))
    answered()
    return told as Carved
  })
}

/** Rubs out the marks of a piece that lie at a place. */
export function rub(hold: string, asked: Marked & { place: [number, number]; reach: number }): Promise<boolean> {
  return carve(({ project, ...seen }) => {
    const url = '/api/projects/{project}/holds/{hold}/rub' as const
    return answer(api.POST(url, { ...at(project, hold), body: { ...asked, ...seen } })) as Promise<Carved>
  })
}

async function carve(call: (seen: Seen) => Promise<Carved>): Promise<boolean> {
  const { putAsked, say } = useStudio.getState()
  const told = await putAsked(call)
  told?.warnings.forEach((w) => say(w))
  return told !== null
}

/** Picks, which takes a while: a job that shows how far it is. Resolves to whether something was found and put in. */
export async function pick(
  project: string,
  hold: string,
  body: Marked & { combine: Piece['combine']; kind: 'mover' | 'person' | 'difference' },
): Promise<boolean> {
  const { takeJob, say, refresh } = useStudio.getState()
  const job = await answer(api.POST('/api/projects/{project}/holds/{hold}/pick', { ...at(project, hold), body }))
  takeJob(job)
  const ended = await finished(job.id)
  if (ended.state !== 'done') return false
  await refresh()
  ;(ended.result as { warnings: string[] }).warnings.forEach((w) => say(w))
  return true
}

/** What the few marks of a piece may mean besides what they led to. */
export function otherOutlines(project: string, hold: string, body: Marked, signal: AbortSignal): Promise<Raster[]> {
  const url = '/api/projects/{project}/holds/{hold}/other-outlines' as const
  return answer(api.POST(url, { ...at(project, hold), body, signal })) as Promise<Raster[]>
}

/** Lets the server begin with what marks in a frame will ask, before the first of them is drawn. */
export function lookAhead(project: string, hold: string, frame: number): void {
  const params = { path: { project, hold }, query: { frame } }
  api.POST('/api/projects/{project}/holds/{hold}/look-ahead', { params }).catch(() => undefined) // a stroke will say what is wrong
}

/** A found piece as pen pieces. */
export function outlined(project: string, hold: string, piece: Found): Promise<Shape[]> {
  return answer(
    api.POST('/api/projects/{project}/holds/{hold}/outline', { ...at(project, hold), body: { piece, tolerance: 0.8 } }),
  ) as Promise<Shape[]>
}
