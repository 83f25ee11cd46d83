import { Refused } from '../../api/client'
import type { Slice } from '.'

/** What the page says at its foot. */
export interface Messages {
  message: { text: string; tone: 'info' | 'trouble'; undo?: () => void } | null
  say: (text: string, tone?: 'info' | 'trouble', undo?: () => void) => void
  hush: () => void
  /** Says what went wrong. */
  trouble: (error: unknown) => void
}

export const messages: Slice<Messages> = (set, get) => ({
  message: null,
  say: (text, tone = 'info', undo) => set({ message: { text, tone, undo } }),
  hush: () => set({ message: null }),
  trouble: (error) =>
    get().say(error instanceof Refused ? error.message : 'Something went wrong. Reload the page to go on.', 'trouble'),
})
