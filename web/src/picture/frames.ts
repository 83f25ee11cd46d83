import type { Edit } from '../api/client'
import type { Answer, FrameHeader, Live } from '../api/live'

const KEEP_BYTES = 250_000_000

/** Preview frames, kept by what they show: an edit drops only the frames it changes, and undo finds the old ones. */
export class Frames {
  private kept = new Map<string, Answer<FrameHeader>>()
  private bytes = 0
  private asked = new Set<string>()
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
    const here = draft ? undefined : this.peek(frame)
    if (here) return here
    const answer = await this.live.frame(frame, this.w, this.h, draft)
    if (!answer.header.skipped && !answer.header.trouble && !draft) this.keep(answer)
    return answer
  }

  /** Asks for frames ahead, a few at a time. */
  prefetch(frames: number[]): void {
    for (const frame of frames) {
      const key = this.keys[frame]
      if (key === undefined || this.asked.size >= 4) continue
      const name = this.name(key)
      if (this.kept.has(name) || this.asked.has(name)) continue
      this.asked.add(name)
      this.get(frame)
        .catch(() => undefined)
        .finally(() => this.asked.delete(name))
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
