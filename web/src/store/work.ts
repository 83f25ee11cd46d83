import { sendFile } from '../api/client'
import type { Slice, Work } from './types'

let uploadCount = 0

export const work: Slice<Work> = (set, get) => ({
  jobs: [],
  uploads: [],
  awaited: 0,
  awaits: (by) => set((s) => ({ awaited: s.awaited + by })),
  refused: [],
  forgetRefused: () => set({ refused: [] }),

  async importFiles(files) {
    const project = get().view?.project.id
    if (!project) return
    for (const file of files) {
      const stop = new AbortController()
      const id = ++uploadCount
      set((s) => ({ uploads: [...s.uploads, { id, name: file.name, share: 0, stop: () => stop.abort() }] }))
      try {
        const report = (share: number) =>
          set((s) => ({ uploads: s.uploads.map((u) => (u.id === id ? { ...u, share } : u)) }))
        get().takeJob(await sendFile(project, file, report, stop.signal))
      } catch (error) {
        if (!stop.signal.aborted) {
          const why = error instanceof Error ? error.message : 'It could not be sent.'
          set((s) => ({ refused: [...s.refused, { name: file.name, why }] }))
        }
        get().trouble(error)
      } finally {
        set((s) => ({ uploads: s.uploads.filter((u) => u.id !== id) }))
      }
    }
  },

  takeJob(job) {
    const known = get().jobs.find((j) => j.id === job.id)
    set((s) => ({ jobs: known ? s.jobs.map((j) => (j.id === job.id ? job : j)) : [job, ...s.jobs] }))
    if (known?.state === job.state || job.quiet) return
    if (job.state === 'failed') {
      const why = job.message ?? `${job.title} failed.`
      get().say(why, 'trouble')
      if (job.kind === 'import')
        set((s) => ({ refused: [...s.refused, { name: job.title.replace(/^Import /, ''), why }] }))
    } else if (job.state === 'done' && job.kind === 'import') {
      const note = job.result?.note
      get().say(typeof note === 'string' ? note : `${job.title}: done.`)
    } else if (job.state === 'done' && job.kind === 'export') get().say(`${job.result?.file} is ready.`)
  },
})
