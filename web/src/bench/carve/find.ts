import { answer, api, type Finding, type FindRequest, type Found, type Raster, type Shape } from '../../api/client'
import { finished } from '../../parts/finished'
import { useStudio } from '../../store'

const at = (project: string, hold: string) => ({ params: { path: { project, hold } } })

/** What marks find in a frame, or how they correct a pick. */
export function find(project: string, hold: string, body: FindRequest): Promise<Finding> {
  return answer(
    api.POST('/api/projects/{project}/holds/{hold}/find', { ...at(project, hold), body }),
  ) as Promise<Finding>
}

/** What a few marks may mean besides what they led to. */
export function otherOutlines(
  project: string,
  hold: string,
  body: FindRequest,
  signal: AbortSignal,
): Promise<Raster[]> {
  const url = '/api/projects/{project}/holds/{hold}/other-outlines' as const
  return answer(api.POST(url, { ...at(project, hold), body, signal })) as Promise<Raster[]>
}

/** Lets the server begin with what marks in a frame will ask, before the first of them is drawn. */
export function lookAhead(project: string, hold: string, frame: number): void {
  const params = { path: { project, hold }, query: { frame } }
  api.POST('/api/projects/{project}/holds/{hold}/look-ahead', { params }).catch(() => undefined) // a stroke will say what is wrong
}

/** A pick, which takes a while: a job that shows how far it is. Resolves to null if it was cancelled. */
export async function pick(project: string, hold: string, body: FindRequest): Promise<Finding | null> {
  const job = await answer(api.POST('/api/projects/{project}/holds/{hold}/find-job', { ...at(project, hold), body }))
  useStudio.getState().takeJob(job)
  const ended = await finished(job.id)
  return ended.state === 'done' ? (ended.result as unknown as Finding) : null
}

/** A found piece as pen pieces. */
export function outlined(project: string, hold: string, piece: Found): Promise<Shape[]> {
  return answer(
    api.POST('/api/projects/{project}/holds/{hold}/outline', { ...at(project, hold), body: { piece, tolerance: 0.8 } }),
  ) as Promise<Shape[]>
}
