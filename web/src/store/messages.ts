import { Refused } from '../api/client'
import type { Messages, Slice } from './types'

export const messages: Slice<Messages> = (set, get) => ({
  message: null,
  say: (text, tone = 'info', undo, does) => set({ message: { text, tone, undo, does } }),
  hush: () => set({ message: null }),
  trouble: (error) =>
    get().say(error instanceof Refused ? error.message : 'Something went wrong. Reload the page to go on.', 'trouble'),
})
