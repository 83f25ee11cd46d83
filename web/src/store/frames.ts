import { answer, api, type Edit } from '../api/client'
import type { Answer, FrameHeader, Live } from '../api/live'

const KEEP_BYTES = 250_000_000
/** How many frames are asked for at once, and how many are unpacked ahead of the one that is shown. */
const AT_ONCE = 6
const UNPACKED = 8
/** How many frames' keys are asked for in one go. */
const STRETCH = 240

/** Preview frames, kept by what they show: an edit drops only the frames it changes, and undo finds the old ones. */
export class Frames {
  private kept = new Map<string, Answer<FrameHeader>>()
  private bytes = 0
  private coming = new Map<string, Promise<Answer<FrameHeader>>>()
  /** Frames' keys at the project's revision, as far as they are known. */
  private keys: (string | undefined)[] = []
  private revision = 0
  private looking: Promise<void> | null = null
  /** Pictures of the next frames, unpacked, by the names of the frames. */
  private unpacked = new Map<string, ImageBitmap | null>()
  /** How many milliseconds a frame takes of late, one after the other. */
  private takes = 20
  w = 540
  h = 960
  exact = false
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
    if (draft) return this.live.frame(frame, this.w, this.h, false, draft)
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

  /**
   * Asks for frames ahead, a few at a time. While they play, each so many milliseconds after the last, those are left out
   * that would come too late as fast as they come now: the next ones are then in time.
   */
  prefetch(frames: number[], each = 0): void {
    for (const [n, frame] of frames.entries()) {
      const key = this.keys[frame]
      if (key === undefined) {
        if (frame < this.keys.length) this.lookAhead(frame)
        continue
      }
      if (this.coming.size >= AT_ONCE) continue
      const name = this.name(key)
      if (this.kept.has(name) || this.coming.has(name)) continue
      if (n * each < (this.coming.size + 1) * this.takes * Math.sign(each)) continue
      this.ask(frame, name).catch(() => undefined)
    }
  }

  /** The picture of a frame, if it is here and unpacked: what is shown while playing. */
  picture(frame: number): ImageBitmap | undefined {
    const key = this.keys[frame]
    return key === undefined ? undefined : (this.unpacked.get(this.name(key)) ?? undefined)
  }

  /** Unpacks the pictures of these frames, as far as they are here, and lets go of all others. */
  unpack(frames: number[]): void {
    const wanted = new Map<string, Blob>()
    for (const frame of frames) {
      if (wanted.size >= UNPACKED) break
      const key = this.keys[frame]
      const kept = key === undefined ? undefined : this.kept.get(this.name(key))
      if (kept) wanted.set(this.name(key!), kept.blob)
    }
    for (const [name, bitmap] of this.unpacked) {
      if (wanted.has(name)) continue
      this.unpacked.delete(name)
      bitmap?.close()
    }
    for (const [name, blob] of wanted) {
      if (this.unpacked.has(name)) continue
      this.unpacked.set(name, null)
      createImageBitmap(blob).then(
        (bitmap) => (this.unpacked.has(name) ? this.unpacked.set(name, bitmap) : bitmap.close()),
        () => this.unpacked.delete(name),
      )
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
    const asked = this.live.frame(frame, this.w, this.h, this.exact)
    const [since, before] = [performance.now(), this.coming.size + 1]
    this.coming.set(name, asked)
    try {
      const answer = await asked
      // Of what one frame takes while so many are on their way, the last few count.
      this.takes += ((performance.now() - since) / before - this.takes) * 0.15
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
    return `${key}@${this.w}x${this.h}${this.exact ? ' exact' : ''}`
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
