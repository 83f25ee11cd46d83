import { previewSize, type Quality } from '.'
import type { Slice } from '.'

/** A part of the canvas in its own shape: its middle from the canvas's, in widths and heights, and its size. */
/** What is shown on the picture, for which layers: a place or a patch of the scene, or where a track is wrong. */
export type Showing = { what: 'place' | 'patch'; layers: string[] } | { what: 'fix'; layers: string[]; track: string }

export interface Window {
  across: number
  down: number
  size: number
}
export interface Pushing {
  owner: string
  with: string | null
  start: Window
  end: Window
}

/** Where the piece is looked at, and whether it plays. */
export interface Transport {
  playhead: number
  /** The frame that panels speak of: the playhead's, but for while it plays: then it stays where that began. */
  settled: number
  playing: boolean
  /** Whether what is dragged in time snaps, and the frame that it has snapped to. */
  snap: boolean
  snappedTo: number | null
  toggleSnap: () => void
  /** Whether the picture shows what the buttons of phone apps cover. */
  guides: boolean
  toggleGuides: () => void
  /** Whether a frame is heard when one goes to it. */
  scrub: boolean
  toggleScrub: () => void
  /** Whether a value that has keys gets one where it is changed; otherwise all its keys change alike. */
  auto: boolean
  toggleAuto: () => void
  /** A slow push that is being laid out: whose, what goes the other way, and the two parts of the canvas. */
  pushing: Pushing | null
  setPushing: (pushing: Pushing | null) => void
  /** The finish that is open on the bench, whose places are shown in the picture. */
  unfolded: string | null
  /** A colour that is being picked from the picture: what for, and what takes it. */
  picking: { title: string; take: (colour: string) => void } | null
  setPicking: (picking: Transport['picking']) => void
  /** The layer whose words are being typed in the picture. */
  typing: string | null
  setTyping: (typing: string | null) => void
  /** Whether a pen path is being drawn on the picture. */
  drawing: boolean
  setDrawing: (drawing: boolean) => void
  /** What is shown on the picture for a track: a place or a patch to stick to, or where a layer belongs. */
  showing: Showing | null
  setShowing: (showing: Showing | null) => void
  /** How finely the picture is drawn. */
  quality: Quality
  setQuality: (quality: Quality) => void
  /** How many frames were not ready in time, the last time it played. */
  skipped: number
  seek: (frame: number) => void
  play: (playing?: boolean) => void
}

export const transport: Slice<Transport> = (set, get) => ({
  playhead: 0,
  settled: 0,
  playing: false,
  snap: globalThis.localStorage?.getItem('snap') !== 'off',
  snappedTo: null,
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
