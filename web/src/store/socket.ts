import { Live } from '../api/live'
import { Frames } from './frames'
import type { Slice, Socket } from './types'

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
