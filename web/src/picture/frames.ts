import type { Edit } from '../api/client'
import type { Answer, FrameHeader, Live } from '../api/live'

const KEEP_BYTES = 250_000_000

/** Preview frames, kept by what they show: an edit drops only the frames it changes, and undo finds the old ones. */
export class Frames {
  private kept = new Map<string, Answer<FrameHeader>>()
  private bytes = 0
  private coming = new Map<string, Promise<Answer<FrameHeader>>>()
  /** Each frame's key at the project's revision. */
  keys: string[] = []
  w = 540
  h = 960
  onReady: () => void = () => undefined

  constructor(private readonly live: Live) {}

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
      if (key === undefined || this.coming.size >= 4) continue
      const name = this.name(key)
      if (this.kept.has(name) || this.coming.has(name)) continue
      this.ask(frame, name).catch(() => undefined)
    }
  }

  private async ask(frame: number, name: string): Promise<Answer<FrameHeader>> {
    const asked = this.live.frame(frame, this.w, this.h)
    this.coming.set(name, asked)
    try {
      const answer = await asked
      if (!answer.header.skipped && !answer.header.trouble) this.keep(answer)
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
