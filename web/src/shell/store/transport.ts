import type { Slice } from '.'

/** Where the piece is looked at, and whether it plays. */
export interface Transport {
  playhead: number
  playing: boolean
  /** Whether what is dragged in time snaps, and the frame that it has snapped to. */
  snap: boolean
  snappedTo: number | null
  toggleSnap: () => void
  /** Whether the picture shows what the buttons of phone apps cover. */
  guides: boolean
  toggleGuides: () => void
  seek: (frame: number) => void
  play: (playing?: boolean) => void
}

export const transport: Slice<Transport> = (set, get) => ({
  playhead: 0,
  playing: false,
  snap: globalThis.localStorage?.getItem('snap') !== 'off',
  snappedTo: null,
  guides: globalThis.localStorage?.getItem('guides') === 'on',
  toggleGuides() {
    const guides = !get().guides
    localStorage.setItem('guides', guides ? 'on' : 'off')
    set({ guides })
  },
  toggleSnap() {
    const snap = !get().snap
    localStorage.setItem('snap', snap ? 'on' : 'off')
    set({ snap })
  },
  seek(frame) {
    const length = get().view?.length ?? 0
    set({ playhead: Math.max(0, Math.min(length - 1, Math.round(frame))) })
  },
  play: (playing) => set((s) => ({ playing: (playing ?? !s.playing) && (s.view?.length ?? 0) > 0 })),
})
