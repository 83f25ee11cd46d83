import { answer, api, type Edit } from '../api/client'
import type { Answer, FrameHeader, Live } from '../api/live'

const KEEP_BYTES = 250_000_000
/** How many frames' keys are asked for in one go. */
const STRETCH = 600

/** Preview frames, kept by what they show: an edit drops only the frames it changes, and undo finds the old ones. */
export class Frames {
  private kept = new Map<string, Answer<FrameHeader>>()
  private bytes = 0
  private coming = new Map<string, Promise<Answer<FrameHeader>>>()
  /** Frames' keys at the project's revision, as far as they are known. */
  private keys: (string | undefined)[] = []
  private revision = 0
  private looking: Promise<void> | null = null
  w = 540
  h = 960
  onReady: () => void = () => undefined

  constructor(
    private readonly live: Live,
    private readonly project: string,
  ) {}

  /** Forgets the keys of frames that a newer revision may show differently: ranges, half-open. */
  forget(ranges: [number, number][], length: number, revision: number): void {
    this.revision = revision
    this.keys.length = length
    for (const [first, past] of ranges) this.keys.fill(undefined, first, Math.min(past, length))
  }

  /** Asks for the keys of frames first…past (half-open) that are not known yet. */
  async lookUp(first: number, past: number): Promise<void> {
    while (first < past && this.keys[first] !== undefined) first++
    while (past > first && this.keys[past - 1] !== undefined) past--
    if (first >= past) return
    const at = { params: { path: { project: this.project }, query: { first, past } } }
    const told = await answer(api.GET('/api/projects/{project}/keys', at))
    if (told.revision === this.revision) this.learn(told.first, told.keys)
  }

  /** Takes over the keys of frames from one on. */
  learn(first: number, keys: string[]): void {
    keys.forEach((key, n) => (this.keys[first + n] = key))
    this.onReady()
  }

  ready(frame: number): boolean {
    const key = this.keys[frame]
    return key !== undefined && this.kept.has(this.name(key))
  }

  /** The frame if it is here. */
  peek(frame: number): Answer<FrameHeader> | undefined {
    const key = this.keys[frame]
    return key === undefined ? undefined : this.kept.get(this.name(key))
  }

  async get(frame: number, draft?: Edit): Promise<Answer<FrameHeader>> {
    if (draft) return this.live.frame(frame, this.w, this.h, draft)
    const here = this.peek(frame)
    if (here) return here
    // While its key is not known yet, a frame is like no other.
    const name = this.name(this.keys[frame] ?? `frame ${frame}`)
    const coming = this.coming.get(name)
    if (coming) {
      const answer = await coming.catch(() => undefined)
      // What was asked for before an edit may have been drawn in between that and the next, and show something else.
      if (answer && answer.header.key === this.keys[frame]) return answer
    }
    return this.ask(frame, name)
  }

  /** Asks for frames ahead, a few at a time. */
  prefetch(frames: number[]): void {
    for (const frame of frames) {
      const key = this.keys[frame]
      if (key === undefined) {
        if (frame < this.keys.length) this.lookAhead(frame)
        continue
      }
      if (this.coming.size >= 4) continue
      const name = this.name(key)
      if (this.kept.has(name) || this.coming.has(name)) continue
      this.ask(frame, name).catch(() => undefined)
    }
  }

  private lookAhead(frame: number): void {
    this.looking ??= this.lookUp(frame, Math.min(this.keys.length, frame + STRETCH))
      .catch(() => undefined)
      .finally(() => {
        this.looking = null
      })
  }

  private async ask(frame: number, name: string): Promise<Answer<FrameHeader>> {
    const asked = this.live.frame(frame, this.w, this.h)
    this.coming.set(name, asked)
    try {
      const answer = await asked
      if (!answer.header.skipped && !answer.header.trouble) {
        if (answer.header.revision === this.revision) this.keys[frame] ??= answer.header.key
        this.keep(answer)
      }
      return answer
    } finally {
      this.coming.delete(name)
    }
  }

  private name(key: string): string {
    return `${key}@${this.w}x${this.h}`
  }

  private keep(answer: Answer<FrameHeader>): void {
    const name = this.name(answer.header.key)
    if (this.kept.has(name)) return
    this.kept.set(name, answer)
    this.bytes += answer.blob.size
    for (const [old, { blob }] of this.kept) {
      if (this.bytes <= KEEP_BYTES) break
      this.kept.delete(old)
      this.bytes -= blob.size
    }
    this.onReady()
  }
}
