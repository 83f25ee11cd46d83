import { answer, api, Refused } from '../../api/client'
import { finished } from '../../parts/finished'
import { useStudio } from '../../store'

/** Builds a hold's clean plate: from a frame of its shot that nobody is in, or from all frames around (null). */
export async function makePlate(hold: string, frame: number | null): Promise<void> {
  const { view, takeJob, say } = useStudio.getState()
  const path = { project: view!.project.id, hold }
  const body = { source: frame === null ? ('shot' as const) : ('frame' as const), frame }
  try {
    const url = '/api/projects/{project}/holds/{hold}/plate' as const
    const job = await answer(api.POST(url, { params: { path }, body }))
    takeJob(job)
    const ended = await finished(job.id)
    const { warnings = [] } = (ended.result ?? {}) as { warnings?: string[] }
    warnings.forEach((w) => say(w))
  } catch (error) {
    failed(error)
  }
}

/** Takes a picture of the empty scene for a hold's clean plate. */
export async function bringPlate(hold: string, file: File): Promise<void> {
  const { view, edit } = useStudio.getState()
  try {
    const response = await fetch(
      `/api/projects/${view!.project.id}/holds/${hold}/plate/picture?name=${encodeURIComponent(file.name)}`,
      { method: 'POST', body: file },
    )
    const body = await response.json()
    if (!response.ok) throw new Refused(body.message)
    await edit({ kind: 'set plate', hold, plate: body.plate })
  } catch (error) {
    failed(error)
  }
}

const failed = (error: unknown) =>
  useStudio.getState().say(error instanceof Refused ? error.message : 'That did not work. Try it again.', 'trouble')
