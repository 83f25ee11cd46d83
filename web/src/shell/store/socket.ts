import { Live } from '../../api/live'
import { Frames } from '../../picture/frames'
import type { Slice } from '.'

/** The link to the server: preview frames, and news of what other pages did. */
export interface Socket {
  live: Live | null
  frames: Frames | null
  linked: boolean
  /** Grows whenever a frame has come, or a frame's key has become known. */
  readyCount: number
  /** How far each shot has been looked through that somebody looks at, by its id. */
  watched: Record<string, number>
  /** Opens the link for a project; the one before is closed. */
  connect: (project: string) => void
  disconnect: () => void
}

export const socket: Slice<Socket> = (set, get) => ({
  live: null,
  frames: null,
  linked: true,
  readyCount: 0,
  watched: {},

  connect(project) {
    get().disconnect()
    const live = new Live(
      project,
      (news) => {
        if (news.type === 'changed') get().heard(news.revision)
        else if (news.type === 'job') get().takeJob(news.job)
        else if (news.type === 'watched') set({ watched: { ...get().watched, [news.shot]: news.past } })
        else if (news.type === 'trouble') get().say(news.message, 'trouble')
      },
      (linked) => {
        if (linked && !get().linked) get().refresh().catch(get().trouble)
        set({ linked })
      },
    )
    const frames = new Frames(live, project)
    frames.onReady = () => set({ readyCount: get().readyCount + 1 })
    set({ live, frames })
  },

  disconnect() {
    get().live?.close()
    set({ live: null, frames: null })
  },
})
