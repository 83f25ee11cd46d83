import { answer, api, Refused } from '../api/client'
import type { paths } from '../api/schema'
import { useStudio } from '../store'
import { finished } from './finished'

type Request = paths['/api/projects/{project}/track']['post']['requestBody']['content']['application/json']

/** Has the camera, or a patch, followed, and what is named pinned to that or steadied by it; says how it went. */
export async function follow(asked: Partial<Request>): Promise<void> {
  const { view, takeJob, say } = useStudio.getState()
  try {
    const path = { project: view!.project.id }
    const body = { layers: [], how: 'full', ...asked } as Request
    const job = await answer(api.POST('/api/projects/{project}/track', { params: { path }, body }))
    takeJob(job)
    const ended = await finished(job.id)
    const doubtful = (ended.result as { doubtful?: number } | null)?.doubtful ?? 0
    if (doubtful) say(`It is followed; ${doubtful} frames are doubtful. They are marked on the bench.`)
  } catch (error) {
    say(error instanceof Refused ? error.message : 'That did not work. Try it again.', 'trouble')
  }
}
