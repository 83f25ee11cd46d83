import { Refused } from '../../api/client'
import type { Slice } from '.'

/** What the page says at its foot. */
export interface Messages {
  message: { text: string; tone: 'info' | 'trouble'; undo?: () => void; does?: string } | null
  /** `undo`: what can be done about it at one press, which `does` says if it is not to take it back. */
  say: (text: string, tone?: 'info' | 'trouble', undo?: () => void, does?: string) => void
  hush: () => void
  /** Says what went wrong. */
  trouble: (error: unknown) => void
}

export const messages: Slice<Messages> = (set, get) => ({
  message: null,
  say: (text, tone = 'info', undo, does) => set({ message: { text, tone, undo, does } }),
  hush: () => set({ message: null }),
  trouble: (error) =>
    get().say(error instanceof Refused ? error.message : 'Something went wrong. Reload the page to go on.', 'trouble'),
})
