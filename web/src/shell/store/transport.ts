import type { Slice } from '.'

/** Where the piece is looked at, and whether it plays. */
export interface Transport {
  playhead: number
  playing: boolean
  seek: (frame: number) => void
  play: (playing?: boolean) => void
}

export const transport: Slice<Transport> = (set, get) => ({
  playhead: 0,
  playing: false,
  seek(frame) {
    const length = get().view?.length ?? 0
    set({ playhead: Math.max(0, Math.min(length - 1, Math.round(frame))) })
  },
  play: (playing) => set((s) => ({ playing: (playing ?? !s.playing) && (s.view?.length ?? 0) > 0 })),
})
