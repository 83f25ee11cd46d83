import type { Edit, Job, MotionView } from '../api/client'
import type { Live } from '../api/live'
import type { Told, View } from '../api/view'
import type { StateCreator } from 'zustand'
import type { Frames } from './frames'
import type { Quality } from './time'

export const STEPS = ['catch', 'carve', 'fly', 'dress', 'sound', 'send'] as const
export type Step = (typeof STEPS)[number]

/** The open project, and the edits made to it, one after the other. */
export interface Document {
  view: View | null
  /** A project that was to be opened and cannot be shown. */
  unreadable: string | null
  saving: boolean
  /** An edit that is shown and not made yet, as while something is dragged. */
  draft: Edit | null
  /** An edit that is played over some frames, again and again, to see what it would be; `past` is half-open. */
  rehearsed: { edit: Edit; first: number; past: number } | null
  /** How what is chosen moves, as Fly was last told. */
  motion: MotionView | null
  setMotion: (motion: MotionView) => void
  /** Where layers, items of the ground and keys lie in time with the draft, by their ids: those that it moves. */
  setDrafted: (drafted: Document['drafted']) => void
  drafted: { places: Record<string, [number, number]>; keys: Record<string, number> }
  /** Grows with each edit that was not made: what shows the value that it wanted goes back to what there is. */
  refusals: number
  /** Grows with each state whose frames near the playhead are known. */
  keysVersion: number
  open: (project: string) => Promise<void>
  close: () => void
  /** Makes an edit. A function is asked for it when its turn comes, so that it can go by what the one before did. */
  edit: (edit: Edit | (() => Edit | null)) => Promise<boolean>
  /** Asks for something that the server finds and puts in itself; resolves to what it told, or to null if it was refused. */
  putAsked: <T extends { view: Told }>(call: (seen: Seen) => Promise<T>) => Promise<T | null>
  /** Copies layers, to be put down by `paste` here or in another project. */
  copy: (layers: string[]) => Promise<void>
  paste: () => Promise<void>
  undo: () => Promise<void>
  redo: () => Promise<void>
  setDraft: (draft: Edit | null) => void
  rehearse: (rehearsed: Document['rehearsed']) => void
  /** Another tab's change, or the echo of this one's own, which comes with the answer anyway. */
  heard: (revision: number) => void
  refresh: () => Promise<void>
}

/** What the page has seen when it asks for something: the project's revision, and the frame that is looked at. */
export interface Seen {
  project: string
  revision: number
  at: number
}

/** What the page says at its foot. */
export interface Messages {
  message: { text: string; tone: 'info' | 'trouble'; undo?: () => void; does?: string } | null
  /** `undo`: what can be done about it at one press, which `does` says if it is not to take it back. */
  say: (text: string, tone?: 'info' | 'trouble', undo?: () => void, does?: string) => void
  hush: () => void
  /** Says what went wrong. */
  trouble: (error: unknown) => void
}

/** Something of the shelf that can be put into the piece: how long it lasts there, in project frames. */
export interface Carried {
  kind: 'shot' | 'picture' | 'sound'
  id: string
  name: string
  frames: number
}

/** Where it would go to if it was let go now: before which item of the ground, or at which frame, and over which layer. */
export type Target =
  | { zone: 'ground'; frame: number; item: number }
  | { zone: 'sky' | 'sounds'; frame: number; row: number; above: string | null }

/** What is selected, and at which bench. */
export interface Selection {
  step: Step
  layer: string | null
  /** The layer that was selected last. */
  lastLayer: string | null
  /** Layers that are chosen besides. */
  moreLayers: string[]
  item: string | null
  /** Items of the ground that are chosen besides. */
  more: string[]
  key: string | null
  /** Keys that are chosen besides. */
  moreKeys: string[]
  /** The cue that is chosen. */
  cue: string | null
  chooseCue: (cue: string | null) => void
  shelf: boolean
  /** What is being dragged off the shelf, and where it would go to. */
  carried: Carried | null
  target: Target | null
  /** Something is dragged off the shelf, or (null) no longer. */
  carry: (carried: Carried | null) => void
  aim: (target: Target | null) => void
  /** Groups whose members are not shown in the sky. */
  folded: Set<string>
  go: (step: Step) => void
  /** Whether recipes are offered in place of the step's bench. */
  making: boolean
  make: () => void
  chooseLayer: (layer: string | null) => void
  /** Chooses these layers and no others. */
  chooseLayers: (layers: string[]) => void
  /** Chooses a layer besides those that are chosen, or no longer. */
  alsoLayer: (layer: string) => void
  chooseItem: (item: string | null) => void
  /** Chooses an item of the ground besides those that are chosen, or no longer. */
  alsoItem: (item: string) => void
  chooseKey: (key: string | null) => void
  /** Chooses these keys and no others. */
  chooseKeys: (keys: string[]) => void
  /** Chooses a key besides those that are chosen, or no longer. */
  alsoKey: (key: string) => void
  toggleShelf: () => void
  fold: (group: string) => void
}

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

/** What is shown on the picture, for which layers: a place or a patch of the scene, or where a track is wrong. */
export type Showing = { what: 'place' | 'patch'; layers: string[] } | { what: 'fix'; layers: string[]; track: string }

/** A part of the canvas in its own shape: its middle from the canvas's, in widths and heights, and its size. */
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
  snapTo: (frame: number | null) => void
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
  unfold: (finish: string | null) => void
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
  setSkipped: (frames: number) => void
  seek: (frame: number) => void
  play: (playing?: boolean) => void
}

export interface Upload {
  id: number
  name: string
  share: number
  stop: () => void
}

/** Long work: files on their way in, and jobs. */
export interface Work {
  jobs: Job[]
  uploads: Upload[]
  /** How many answers somebody waits for that take all the server has: frames ahead can wait meanwhile. */
  awaited: number
  /** One more of them is awaited (1), or has come (−1). */
  awaits: (by: 1 | -1) => void
  /** What could not be imported, and why, until somebody has read it. */
  refused: { name: string; why: string }[]
  forgetRefused: () => void
  importFiles: (files: Iterable<File>) => Promise<void>
  takeJob: (job: Job) => void
}

/** Everything that the page knows, a slice a subject. */
export type Studio = Document & Messages & Selection & Socket & Transport & Work
/** Makes one slice; it may read and change the others. */
export type Slice<S> = StateCreator<Studio, [], [], S>
