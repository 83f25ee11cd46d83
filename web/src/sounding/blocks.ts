import { answer, api } from '../api/client'
import type { View } from '../api/view'
import { RATE } from './course'

/** How often a second it is told how loud the parts of the mix are. */
export const LEVELS = 25
const PARTS = 3
/** So many blocks are kept on the page: about four minutes. */
const KEPT = 240

export interface Block {
  key: string
  samples: AudioBuffer
  /** The peaks of footage, bed and hits in each 25th of a second, one part after the other. */
  levels: Float32Array
}

/** The seconds of the piece's sound, by key: what an edit leaves as it was need not be asked for again. */
export class Blocks {
  private readonly kept = new Map<string, Block>()
  private readonly asked = new Set<string>()
  private keys: string[] = []
  /** What the keys are of: the view's `sound`. */
  private of = ''
  private asking = ''
  private project = ''

  constructor(private readonly make: (channels: number, length: number) => AudioBuffer) {}

  /** Asks what the sound of the piece is made of now, unless that is known or under way; whether it is known. */
  know(view: View): boolean {
    const id = view.project.id
    if (this.project === id && this.of === view.sound) return true
    if (this.asking !== id + view.sound) {
      this.asking = id + view.sound
      void this.ask(id)
    }
    return false
  }

  private async ask(project: string): Promise<void> {
    const asking = this.asking
    try {
      const told = await answer(api.GET('/api/projects/{project}/sound', { params: { path: { project } } }))
      if (this.asking !== asking) return
      Object.assign(this, { project, of: told.key, keys: told.silent ? [] : told.blocks })
    } catch {
      // No sound until something else is heard; the picture goes on.
    }
    if (this.asking === asking) this.asking = ''
  }

  /** Whether a key is still that of its block. */
  current(number: number, key: string): boolean {
    return this.keys[number] === key
  }

  /** A block if it is here; otherwise it is asked for. Null, too, where nothing is heard. */
  at(number: number): Block | null {
    const key = this.keys[number]
    if (key === undefined) return null
    const known = this.kept.get(key)
    if (known) {
      this.kept.delete(key)
      this.kept.set(key, known)
      return known
    }
    void this.fetch(number, key)
    return null
  }

  /** Whether there is anything to be heard in a block. */
  has(number: number): boolean {
    return this.keys[number] !== undefined
  }

  private async fetch(number: number, key: string): Promise<void> {
    if (this.asked.has(key)) return
    this.asked.add(key)
    try {
      const response = await fetch(`/api/projects/${this.project}/sound/${number}?key=${encodeURIComponent(key)}`)
      // Changed meanwhile: what it is now is being asked for.
      if (!response.ok) return
      const data = new Float32Array(await response.arrayBuffer())
      const levels = data.subarray(0, PARTS * LEVELS)
      const length = (data.length - levels.length) / 2
      const samples = this.make(2, Math.max(1, length))
      for (const channel of [0, 1])
        samples.copyToChannel(
          data.subarray(levels.length + channel * length, levels.length + (channel + 1) * length),
          channel,
        )
      this.kept.set(key, { key, samples, levels })
      for (const oldest of this.kept.keys()) {
        if (this.kept.size <= KEPT) break
        this.kept.delete(oldest)
      }
    } finally {
      this.asked.delete(key)
    }
  }
}

/** How loud the parts of the mix are at a sample of the piece, 0…1 and above: footage, bed, hits. */
export function levelsAt(block: Block | null, sample: number): [number, number, number] {
  const n = Math.floor(((sample % RATE) / RATE) * LEVELS)
  const part = (k: number) => block?.levels[k * LEVELS + n] ?? 0
  return [part(0), part(1), part(2)]
}
