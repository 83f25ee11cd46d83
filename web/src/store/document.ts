import { answer, api, type Job, Refused } from '../api/client'
import { merged, type Told, type View } from '../api/view'
import { previewSize } from './time'
import type { Document, Seen, Slice } from './types'

/** No draft moves anything in time. */
const AS_IT_IS = { places: {}, keys: {} }

/** The keys of so many frames before and after the playhead are waited for; all others come as frames are got ready. */
const BEFORE = 2
const AFTER = 10

/** Whether a job may change the document while it runs, or has just done so. */
const putsDown = (j: Job) => j.edits && j.state !== 'failed' && j.state !== 'cancelled'

/** Where this browser keeps what was copied last, for its other tabs as well. */
const CLIP = 'clip'

/** Those of the chosen keys that are there yet. */
function keysThatAre(view: View, key: string | null, more: string[]): { key: string | null; moreKeys: string[] } {
  if (!key) return { key: null, moreKeys: [] }
  const all = new Set([...view.project.layers, ...view.project.ground].flatMap((x) => x.keys.map((k) => k.id)))
  const [first = null, ...rest] = [key, ...more].filter((id) => all.has(id))
  return { key: first, moreKeys: rest }
}

let queue: Promise<unknown> = Promise.resolve()
let newest = 0
let pending = 0

export const document_: Slice<Document> = (set, get) => {
  const told = (call: Promise<{ data?: unknown; error?: unknown }>) => answer(call) as Promise<Told>
  const whole = (project: string, since?: number) =>
    told(api.GET('/api/projects/{project}', { params: { path: { project }, query: { since } } }))

  /** Takes a newer state of the project over, and learns which frames it shows. */
  async function take(news: Told): Promise<void> {
    const before = get().view
    if (before && before.project.id === news.project.id && news.revision < before.revision) return
    const view = merged(before, news) ?? merged(null, await whole(news.project.id))
    if (!view) return
    const { layer, item, key, playhead, settled, frames } = get()
    const last = Math.max(0, view.length - 1)
    if (frames) Object.assign(frames, previewSize(view.project.width, view.project.height, get().quality))
    frames?.forget(news.base === null ? [[0, Infinity]] : view.stale, view.length, view.revision)
    const chosen = view.project.layers.find((l) => l.id === layer)
    const ground = view.project.ground.find((i) => i.id === item)
    set({
      view,
      layer: chosen ? layer : null,
      moreLayers: get().moreLayers.filter((id) => view.project.layers.some((l) => l.id === id)),
      item: ground ? item : null,
      more: get().more.filter((id) => view.project.ground.some((i) => i.id === id)),
      ...keysThatAre(view, key, get().moreKeys),
      playhead: Math.min(playhead, last),
      settled: Math.min(settled, last),
    })
    const at = get().playhead
    if (news.near && news.revision === view.revision) frames?.learn(...news.near)
    await frames?.lookUp(Math.max(0, at - BEFORE), Math.min(view.length, at + AFTER))
    if (get().view?.revision !== view.revision) return
    set({ keysVersion: get().keysVersion + 1, draft: null, drafted: AS_IT_IS })
    document.documentElement.dataset.version = String(get().keysVersion)
  }

  /** One change after the other, each on the revision that the one before made. */
  function change(call: (project: string, revision: number) => Promise<Told> | null): Promise<boolean> {
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
          await get().refresh()
          await take(await call(view.project.id, get().view!.revision)!)
        }
        return true
      } catch (error) {
        if (error instanceof Refused && error.revision != null) {
          await get().refresh()
          get().say('This piece was changed in another tab. Here is how it is now; do that again if you still want it.')
        } else get().trouble(error)
        set({ draft: null, drafted: AS_IT_IS, refusals: get().refusals + 1 })
        return false
      } finally {
        mark(-1)
        get().heard(0)
      }
    }
    const result = queue.then(run, run)
    queue = result
    return result
  }

  return {
    view: null,
    unreadable: null,
    saving: false,
    draft: null,
    rehearsed: null,
    motion: null,
    setMotion: (motion) => set({ motion }),
    setDrafted: (drafted) => set({ drafted }),
    drafted: AS_IT_IS,
    keysVersion: 0,
    refusals: 0,

    async open(project) {
      get().close()
      newest = 0
      try {
        const news = await whole(project)
        const jobs = await answer(api.GET('/api/projects/{project}/jobs', { params: { path: { project } } }))
        get().connect(project)
        const step = news.length === 0 || !news.layer_order?.length ? 'catch' : 'fly'
        // In an empty project it is asked first what is to be made.
        const making = news.length === 0
        set({
          jobs,
          step,
          making,
          playhead: news.project.loop?.[0] ?? 0,
          settled: news.project.loop?.[0] ?? 0,
          layer: news.layer_order?.at(-1) ?? null,
          view: null,
        })
        history.replaceState(null, '', `#${project}`)
        await take(news)
      } catch (error) {
        if (error instanceof Refused && error.rescue) {
          set({ unreadable: project })
          history.replaceState(null, '', `#${project}`)
          return
        }
        get().trouble(error)
        history.replaceState(null, '', location.pathname)
      }
    },

    close() {
      get().disconnect()
      set({
        view: null,
        unreadable: null,
        playing: false,
        playhead: 0,
        settled: 0,
        skipped: 0,
        layer: null,
        moreLayers: [],
        item: null,
        jobs: [],
        draft: null,
        drafted: AS_IT_IS,
      })
      history.replaceState(null, '', location.pathname)
    },

    edit: (wanted) =>
      change((project, revision) => {
        const edit = typeof wanted === 'function' ? wanted() : wanted
        if (!edit) return null
        return told(
          api.POST('/api/projects/{project}/edits', {
            params: { path: { project } },
            body: { revision, edit, at: get().playhead },
          }),
        )
      }),

    async putAsked<T extends { view: Told }>(call: (seen: Seen) => Promise<T>) {
      const told: T[] = []
      await change(async (project, revision) => {
        const answered = await call({ project, revision, at: get().playhead })
        told.push(answered)
        return answered.view
      })
      return told[0] ?? null
    },

    async copy(layers) {
      const project = get().view?.project.id
      if (!project) return
      try {
        const path = { params: { path: { project } }, body: { layers } }
        const copied = await answer(api.POST('/api/projects/{project}/copy', path))
        localStorage.setItem(CLIP, copied.clip)
        get().say(
          `Copied ${copied.layers} layer${copied.layers === 1 ? '' : 's'}. Paste puts them down at the playhead.`,
        )
      } catch (error) {
        get().trouble(error)
      }
    },

    async paste() {
      const clip = localStorage.getItem(CLIP)
      const before = new Set(get().view?.project.layers.map((l) => l.id))
      if (!clip) return get().say('Nothing was copied yet. Choose layers and copy them first.')
      const body = { clip, at: get().playhead }
      const done = await change((project, revision) =>
        told(api.POST('/api/projects/{project}/paste', { params: { path: { project } }, body: { ...body, revision } })),
      )
      const fresh = get().view?.project.layers.filter((l) => !before.has(l.id)) ?? []
      if (done && fresh.length) get().chooseLayers(fresh.reverse().map((l) => l.id))
    },

    async undo() {
      await change((project, revision) =>
        told(
          api.POST('/api/projects/{project}/undo', {
            params: { path: { project } },
            body: { revision, at: get().playhead },
          }),
        ),
      )
    },

    async redo() {
      await change((project, revision) =>
        told(
          api.POST('/api/projects/{project}/redo', {
            params: { path: { project } },
            body: { revision, at: get().playhead },
          }),
        ),
      )
    },

    rehearse: (rehearsed) => set({ rehearsed }),

    setDraft: (draft) => set(draft ? { draft } : { draft, drafted: AS_IT_IS }),

    heard(revision) {
      newest = Math.max(newest, revision)
      if (!get().saving && newest > (get().view?.revision ?? 0)) get().refresh().catch(get().trouble)
    },

    async refresh() {
      const { view } = get()
      if (view) await take(await whole(view.project.id, view.revision))
    },
  }
}
