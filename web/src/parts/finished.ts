import { type Job, Refused } from '../api/client'
import { useStudio } from '../store'

/** Waits for a job to end. Rejects with its sentence if it failed. */
export function finished(id: string): Promise<Job> {
  return new Promise((resolve, reject) => {
    const look = () => {
      const job = useStudio.getState().jobs.find((j) => j.id === id)
      if (!job || job.state === 'waiting' || job.state === 'running') return false
      stop()
      if (job.state === 'failed') reject(new Refused(job.message ?? `${job.title} failed.`))
      else resolve(job)
      return true
    }
    let stop = () => {}
    if (!look()) stop = useStudio.subscribe(look)
  })
}
