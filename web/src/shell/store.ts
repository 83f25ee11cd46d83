import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import { answer, answerView, api, type Edit, type Job, type ProjectView, Refused, sendFile } from '../api/client'
import { Live } from '../api/live'
import { Frames } from '../picture/frames'

export type Step = 'catch' | 'carve' | 'fly' | 'dress' | 'send'
export const STEPS: Step[] = ['catch', 'carve', 'fly', 'dress', 'send']

export interface Upload {
  id: number
  name: string
  share: number
  stop: () => void
}

interface Studio {
  view: ProjectView | null
  live: Live | null
  frames: Frames | null
  linked: boolean
  saving: boolean
  message: { text: string; tone: 'info' | 'trouble'; undo?: () => void } | null
  step: Step
  playhead: number
  playing: boolean
  layer: string | null
  item: string | null
  key: string | null
  draft: Edit | null
  /** How many answers somebody waits for that take all the server has: frames ahead can wait meanwhile. */
  awaited: number
  readyCount: number
  keysVersion: number
  jobs: Job[]
  uploads: Upload[]
  shelf: boolean

  open: (project: string) => Promise<void>
  close: () => void
  /** Makes an edit. A function is asked for it when its turn comes, so that it can go by what the one before did. */
  edit: (edit: Edit | (() => Edit | null)) => Promise<boolean>
  undo: () => Promise<void>
  redo: () => Promise<void>
  seek: (frame: number) => void
  play: (playing?: boolean) => void
  go: (step: Step) => void
  chooseLayer: (layer: string | null) => void
  chooseItem: (item: string | null) => void
  chooseKey: (key: string | null) => void
  setDraft: (draft: Edit | null) => void
  say: (text: string, tone?: 'info' | 'trouble', undo?: () => void) => void
  hush: () => void
  importFiles: (files: Iterable<File>) => Promise<void>
  toggleShelf: () => void
  takeJob: (job: Job) => void
}

/** Whether a job may change the document while it runs, or has just done so. */
const putsDown = (j: Job) => (j.kind === 'carry' || j.kind === 'plate') && j.state !== 'failed' && j.state !== 'cancelled'

let uploadCount = 0
let queue: Promise<unknown> = Promise.resolve()
let newest = 0
let pending = 0

export const useStudio = create<Studio>((set, get) => {
  /** Takes a newer state of the project over, and learns which frames it shows. */
  async function take(view: ProjectView): Promise<void> {
    const before = get().view
    if (before && before.project.id === view.project.id && view.revision < before.revision) return
    const { layer, item, key, playhead, frames: shown } = get()
    if (shown) Object.assign(shown, previewSize(view.project.width, view.project.height))
    const chosen = view.project.layers.find((l) => l.id === layer)
    set({
      view,
      layer: chosen ? layer : null,
      item: view.project.ground.some((i) => i.id === item) ? item : null,
      key: chosen?.keys.some((k) => k.id === key) ? key : null,
      playhead: Math.min(playhead, Math.max(0, view.length - 1)),
    })
    const keys = await answer(api.GET('/api/projects/{project}/keys', { params: { path: { project: view.project.id } } }))
    const { frames, view: now } = get()
    if (frames && now?.revision === view.revision) {
      frames.keys = keys
      set({ keysVersion: get().keysVersion + 1, draft: null })
      document.documentElement.dataset.version = String(get().keysVersion)
    }
  }

  function trouble(error: unknown): void {
    const text = error instanceof Refused ? error.message : 'Something went wrong. Reload the page to go on.'
    get().say(text, 'trouble')
  }

  async function refresh(): Promise<void> {
    const { view } = get()
    if (view) await take(await answerView(api.GET('/api/projects/{project}', { params: { path: { project: view.project.id } } })))
  }

  /** Another tab's change, or the echo of this one's own, which comes with the answer anyway. */
  function heard(revision: number): void {
    newest = Math.max(newest, revision)
    if (!get().saving && newest > (get().view?.revision ?? 0)) refresh().catch(trouble)
  }

  /** One change after the other, each on the revision that the one before made. */
  function change(call: (project: string, revision: number) => Promise<ProjectView> | null): Promise<boolean> {
    // Marked on the page at once, before React draws: what waits for an edit can wait for this.
    const mark = (by: number) => {
      pending += by
      document.documentElement.dataset.saving = pending ? 'yes' : 'no'
      set({ saving: pending > 0 })
    }
    mark(1)
    const run = async (): Promise<boolean> => {
      const { view } = get()
      if (!view) {
        mark(-1)
        return false
      }
      try {
        const answered = call(view.project.id, view.revision)
        if (!answered) return false
        try {
          await take(await answered)
        } catch (error) {
          // What was refused because carrying put something down meanwhile is simply asked for again.
          if (!(error instanceof Refused) || error.revision == null || !get().jobs.some(putsDown)) throw error
          await refresh()
          await take(await call(view.project.id, get().view!.revision)!)
        }
        return true
      } catch (error) {
        if (error instanceof Refused && error.revision != null) {
          await refresh()
          get().say('This piece was changed in another tab. Here is how it is now; do that again if you still want it.')
        } else trouble(error)
        set({ draft: null })
        return false
      } finally {
        mark(-1)
        heard(0)
      }
    }
    const result = queue.then(run, run)
    queue = result
    return result
  }

  return {
    view: null,
    live: null,
    frames: null,
    linked: true,
    saving: false,
    message: null,
    step: 'catch',
    playhead: 0,
    playing: false,
    layer: null,
    item: null,
    key: null,
    draft: null,
    awaited: 0,
    readyCount: 0,
    keysVersion: 0,
    jobs: [],
    uploads: [],
    shelf: false,

    async open(project) {
      get().close()
      newest = 0
      try {
        const path = { params: { path: { project } } }
        const view = await answerView(api.GET('/api/projects/{project}', path))
        const jobs = await answer(api.GET('/api/projects/{project}/jobs', path))
        const live = new Live(
          project,
          (news) => {
            if (news.type === 'changed') heard(news.revision)
            else if (news.type === 'job') get().takeJob(news.job)
            else if (news.type === 'trouble') get().say(news.message, 'trouble')
          },
          (linked) => {
            if (linked && !get().linked) refresh().catch(trouble)
            set({ linked })
          },
        )
        const frames = new Frames(live)
        frames.onReady = () => set({ readyCount: get().readyCount + 1 })
        const start = view.project.loop?.[0] ?? 0
        const step: Step = view.length === 0 || view.project.layers.length === 0 ? 'catch' : 'fly'
        const top = view.project.layers.at(-1)
        set({ live, frames, jobs, step, playhead: start, layer: top?.id ?? null, view: null })
        history.replaceState(null, '', `#${project}`)
        await take(view)
      } catch (error) {
        trouble(error)
        history.replaceState(null, '', location.pathname)
      }
    },

    close() {
      get().live?.close()
      set({ view: null, live: null, frames: null, playing: false, playhead: 0, layer: null, item: null, jobs: [], draft: null })
      history.replaceState(null, '', location.pathname)
    },

    edit: (wanted) =>
      change((project, revision) => {
        const edit = typeof wanted === 'function' ? wanted() : wanted
        if (!edit) return null
        const body = { revision, edit }
        return answerView(api.POST('/api/projects/{project}/edits', { params: { path: { project } }, body }))
      }),

    async undo() {
      await change((project, revision) =>
        answerView(api.POST('/api/projects/{project}/undo', { params: { path: { project } }, body: { revision } })),
      )
    },

    async redo() {
      await change((project, revision) =>
        answerView(api.POST('/api/projects/{project}/redo', { params: { path: { project } }, body: { revision } })),
      )
    },

    seek(frame) {
      const length = get().view?.length ?? 0
      set({ playhead: Math.max(0, Math.min(length - 1, Math.round(frame))) })
    },

    play: (playing) => set((s) => ({ playing: (playing ?? !s.playing) && (s.view?.length ?? 0) > 0 })),
    go: (step) => set({ step }),
    chooseLayer: (layer) => set((s) => ({ layer, item: layer ? null : s.item, key: null })),
    chooseItem: (item) => set((s) => ({ item, layer: item ? null : s.layer, key: null })),
    chooseKey: (key) => set({ key }),
    setDraft: (draft) => set({ draft }),
    say: (text, tone = 'info', undo) => set({ message: { text, tone, undo } }),
    hush: () => set({ message: null }),
    toggleShelf: () => set((s) => ({ shelf: !s.shelf })),

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
          trouble(error)
        } finally {
          set((s) => ({ uploads: s.uploads.filter((u) => u.id !== id) }))
        }
      }
    },

    takeJob(job) {
      const known = get().jobs.find((j) => j.id === job.id)
      set((s) => ({ jobs: known ? s.jobs.map((j) => (j.id === job.id ? job : j)) : [job, ...s.jobs] }))
      if (known?.state === job.state) return
      if (job.state === 'failed' && !['find', 'carry', 'plate'].includes(job.kind)) get().say(job.message ?? `${job.title} failed.`, 'trouble')
      else if (job.state === 'done' && job.kind === 'import') {
        const note = job.result?.note
        get().say(typeof note === 'string' ? note : `${job.title}: done.`)
      } else if (job.state === 'done' && job.kind === 'export') get().say(`${job.result?.file} is ready.`)
    },
  }
})

/** Parts of the store by name; the component draws again only when one of them changes. */
export function useOf<K extends keyof Studio>(...names: K[]): Pick<Studio, K> {
  return useStudio(useShallow((s) => Object.fromEntries(names.map((n) => [n, s[n]])) as Pick<Studio, K>))
}

/** The selected layer, and what the server worked out about it. */
export function useLayer() {
  const view = useStudio((s) => s.view)
  const id = useStudio((s) => s.layer)
  const layer = view?.project.layers.find((l) => l.id === id)
  if (!view || !layer) return null
  const hold = view.holds[layer.hold]
  const shot = hold && view.shots[hold.shot]
  const info = view.layers[layer.id]
  if (!hold || !shot || !info) return null
  return { layer, hold, shot, info, view }
}

/** Minutes, seconds, frames, as the server writes them. */
export function timecode(frame: number, rate: string): string {
  const [n, d] = rate.split('/').map(Number)
  const whole = Math.round((n ?? 30) / (d ?? 1))
  const two = (x: number) => String(x).padStart(2, '0')
  const seconds = Math.floor(frame / whole)
  return `${two(Math.floor(seconds / 60))}:${two(seconds % 60)}:${two(frame % whole)}`
}

export function rateOf(view: ProjectView): number {
  const [n, d] = view.project.rate.split('/').map(Number)
  return (n ?? 30) / (d ?? 1)
}

/** The size of preview frames: the canvas's shape, at most 960 long, even. */
export function previewSize(width: number, height: number): { w: number; h: number } {
  const fit = Math.min(1, 960 / Math.max(width, height))
  return { w: Math.round((width * fit) / 2) * 2, h: Math.round((height * fit) / 2) * 2 }
}

/** The source frame that the footage shows at a project frame. */
export function shownAt(view: ProjectView, frame: number): { item: string; shot: string; frame: number } | null {
  for (const item of view.items) {
    const source = item.frames[frame - item.start]
    const found = view.project.ground.find((g) => g.id === item.id)
    if (frame >= item.start && source !== undefined && found) return { item: item.id, shot: found.shot, frame: source }
  }
  return null
}
