import { previewSize } from './time'
import type { Slice, Transport } from './types'

export const transport: Slice<Transport> = (set, get) => ({
  playhead: 0,
  settled: 0,
  playing: false,
  snap: globalThis.localStorage?.getItem('snap') !== 'off',
  snappedTo: null,
  snapTo: (snappedTo) => set({ snappedTo }),
  guides: globalThis.localStorage?.getItem('guides') === 'on',
  toggleGuides() {
    const guides = !get().guides
    localStorage.setItem('guides', guides ? 'on' : 'off')
    set({ guides })
  },
  scrub: globalThis.localStorage?.getItem('scrub') !== 'off',
  toggleScrub() {
    const scrub = !get().scrub
    localStorage.setItem('scrub', scrub ? 'on' : 'off')
    set({ scrub })
  },
  auto: globalThis.localStorage?.getItem('auto') !== 'off',
  toggleAuto() {
    const auto = !get().auto
    localStorage.setItem('auto', auto ? 'on' : 'off')
    set({ auto })
  },
  pushing: null,
  unfolded: null,
  unfold: (unfolded) => set({ unfolded }),
  picking: null,
  setPicking: (picking) => set({ picking }),
  typing: null,
  setTyping: (typing) => set({ typing }),
  showing: null,
  setShowing: (showing) => set({ showing }),
  drawing: false,
  setDrawing: (drawing) => set({ drawing }),
  quality: 'full',
  setQuality(quality) {
    const { view, frames, keysVersion } = get()
    if (view && frames) Object.assign(frames, previewSize(view.project.width, view.project.height, quality))
    // What is looked at is asked for anew.
    set({ quality, keysVersion: keysVersion + 1 })
    document.documentElement.dataset.version = String(keysVersion + 1)
  },
  skipped: 0,
  setSkipped: (skipped) => set({ skipped }),
  setPushing: (pushing) => set({ pushing }),
  toggleSnap() {
    const snap = !get().snap
    localStorage.setItem('snap', snap ? 'on' : 'off')
    set({ snap })
  },
  seek(frame) {
    const length = get().view?.length ?? 0
    const playhead = Math.max(0, Math.min(length - 1, Math.round(frame)))
    set(get().playing ? { playhead } : { playhead, settled: playhead })
  },
  play: (wanted) =>
    set((s) => {
      const playing = (wanted ?? !s.playing) && (s.view?.length ?? 0) > 0
      return playing ? { playing } : { playing, settled: s.playhead }
    }),
})
