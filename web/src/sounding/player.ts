import { rateOf, useStudio } from '../store'
import { type Block, Blocks, levelsAt } from './blocks'
import { type Course, placeAt, RATE, sliceAt } from './course'

/** How many frames ahead of the one that is heard are made ready. */
const AHEAD = 30
/** For how many seconds ahead sound is handed over to the browser, and how many blocks are fetched ahead of that. */
const HORIZON = 0.5
const FETCHED = 3
/** Seconds before the first sound, and within which one state of a piece goes over into another. */
const LEAD = 0.05
const TURN = 0.012
/** How long one hears a frame that is looked at, in seconds. */
const GRAIN = 0.09

interface Handed {
  block: number
  key: string
  source: AudioBufferSourceNode
  gain: GainNode
  ends: number
}

/** Plays the piece: block by block on the clock of the sound, which the picture follows. */
class Player {
  private context: AudioContext | null = null
  private blocks: Blocks | null = null
  private handed: Handed[] = []
  private course: Course = { from: 0, low: 0, high: 0, loops: false }
  /** When it began, on the clock; and up to where the sound has been handed over, in samples since then. */
  private begun = 0
  private done = 0
  private timer = 0
  private last = -1
  private clock = ''

  /** Begins at the playhead. */
  start(): void {
    if (this.timer) return
    this.begin()
    this.timer = requestAnimationFrame(this.tick)
  }

  stop(): void {
    cancelAnimationFrame(this.timer)
    this.timer = 0
    this.hush()
  }

  /** The frame that is heard now, in parts. */
  frame(): number {
    const { view, playhead } = useStudio.getState()
    const at = this.timer ? placeAt(this.course, this.played()) : null
    return view && at !== null ? (at / RATE) * rateOf(view.project.rate) : playhead
  }

  /** How loud footage, bed and hits are now; all 0 while nothing is played. */
  levels(): [number, number, number] {
    const at = this.timer ? placeAt(this.course, this.played()) : null
    return levelsAt(at === null ? null : (this.blocks?.at(Math.floor(at / RATE)) ?? null), at ?? 0)
  }

  /** Lets one hear the frame at the playhead. */
  scrub(): void {
    const { view, playhead } = useStudio.getState()
    if (!view?.length || this.timer || !this.listen()) return
    const at = Math.round((playhead / rateOf(view.project.rate)) * RATE)
    if (!this.blocks!.know(view)) return
    const block = this.blocks!.at(Math.floor(at / RATE))
    if (!block) return
    this.hush()
    const [first, long] = [(at % RATE) / RATE, Math.min(GRAIN, block.samples.duration - (at % RATE) / RATE)]
    if (long > 0) this.hand(block, Math.floor(at / RATE), this.context!.currentTime + 0.005, first, long, TURN, TURN)
  }

  /** Gets the sound that is needed next, so that playing begins with it. */
  prepare(): void {
    const { view, playhead } = useStudio.getState()
    if (!view?.length || !this.context || !this.blocks!.know(view)) return
    const at = Math.floor(playhead / rateOf(view.project.rate))
    for (let n = at; n < at + 2; n++) this.blocks!.at(n)
  }

  private listen(): boolean {
    if (!this.context) {
      const context = new AudioContext({ sampleRate: RATE, latencyHint: 'interactive' })
      this.context = context
      this.blocks = new Blocks((channels, length) => context.createBuffer(channels, length, RATE))
    }
    if (this.context.state === 'suspended') this.context.resume().catch(() => undefined)
    return this.context.state === 'running'
  }

  /** Seconds on the clock that the piece is played by: the sound's, or the page's where that stands. */
  private now(): number {
    return this.context?.state === 'running' ? this.context.currentTime : performance.now() / 1000
  }

  /** How many samples of the course have been heard by now. */
  private played(): number {
    const late = this.context?.state === 'running' ? (this.context.outputLatency ?? 0) : 0
    return Math.max(0, Math.round((this.now() - late - this.begun) * RATE))
  }

  private begin(): void {
    const { view, playhead } = useStudio.getState()
    if (!view) return
    this.hush()
    this.listen()
    const [low, high] = view.project.loop ?? [0, view.length]
    const sample = (frame: number) => Math.round((frame / rateOf(view.project.rate)) * RATE)
    const from = playhead >= low && playhead < high - 1 ? playhead : low
    this.course = { from: sample(from), low: sample(low), high: sample(high), loops: view.project.loop !== null }
    // On a sample of the clock, so that the blocks lie side by side to the sample.
    this.begun = Math.ceil((this.now() + (this.context?.state === 'running' ? LEAD : 0)) * RATE) / RATE
    this.done = 0
    this.last = from
    this.clock = this.context?.state ?? ''
  }
  /** Nothing that was handed over is heard any more. */
  private hush(): void {
    for (const h of this.handed) {
      try {
        const now = this.context!.currentTime
        h.gain.gain.cancelScheduledValues(now)
        h.gain.gain.setValueAtTime(h.gain.gain.value, now)
        h.gain.gain.linearRampToValueAtTime(0, now + TURN)
        h.source.stop(now + TURN)
      } catch {
        // It had ended.
      }
    }
    this.handed = []
  }

  private hand(block: Block, number: number, when: number, first: number, long: number, comes: number, goes = 0): void {
    const [source, gain] = [this.context!.createBufferSource(), this.context!.createGain()]
    source.buffer = block.samples
    source.connect(gain).connect(this.context!.destination)
    if (comes) {
      gain.gain.setValueAtTime(0, when)
      gain.gain.linearRampToValueAtTime(1, when + comes)
    }
    if (goes && long > comes + goes) {
      gain.gain.setValueAtTime(1, when + long - goes)
      gain.gain.linearRampToValueAtTime(0, when + long)
    }
    source.start(when, first, long)
    this.handed.push({ block: number, key: block.key, source, gain, ends: when + long })
  }

  /** Hands over what will be heard soon; what an edit has changed is taken back first. */
  private hear(): void {
    const { view } = useStudio.getState()
    if (!view || this.context?.state !== 'running' || !this.blocks!.know(view)) return
    const now = this.context.currentTime
    this.handed = this.handed.filter((h) => h.ends > now)
    let turn = 0
    if (this.handed.some((h) => !this.blocks!.current(h.block, h.key))) {
      this.hush()
      this.done = this.played()
      turn = TURN
    }
    const heard = Math.ceil((now + 0.005 - this.begun) * RATE)
    if (this.done < heard) {
      // What came too late is not heard any more.
      if (this.done) turn = TURN
      this.done = Math.max(this.done, heard)
    }
    while (this.done < heard + HORIZON * RATE) {
      const slice = sliceAt(this.course, this.done)
      if (!slice) return
      if (this.blocks!.has(slice.block)) {
        const block = this.blocks!.at(slice.block)
        if (!block) break
        const when = this.begun + this.done / RATE
        this.hand(block, slice.block, when, slice.first / RATE, slice.length / RATE, turn)
      }
      turn = 0
      this.done += slice.length
    }
    for (let n = 0, at = this.done; n < FETCHED; n++) {
      const slice = sliceAt(this.course, at)
      if (!slice) return
      this.blocks!.at(slice.block)
      at += slice.length
    }
  }

  private tick = (): void => {
    const { view, playing, seek, play, frames, playhead } = useStudio.getState()
    if (!view || !playing) return this.stop()
    const [low, high] = view.project.loop ?? [0, view.length]
    const rate = rateOf(view.project.rate)
    const same =
      this.course.low === Math.round((low / rate) * RATE) && this.course.high === Math.round((high / rate) * RATE)
    // Somebody went elsewhere, changed what goes round or how long it is; or the sound's clock began to run.
    if (playhead !== this.last || !same || this.clock !== (this.context?.state ?? '')) this.begin()
    this.hear()
    const place = placeAt(this.course, this.played())
    if (place === null) {
      seek(view.length - 1)
      return play(false)
    }
    const at = Math.min(high - 1, Math.floor((place / RATE) * rate + 1e-6))
    seek(at)
    this.last = useStudio.getState().playhead
    const ahead = Array.from({ length: AHEAD }, (_, i) => at + i)
    // Round the corner, where it goes round in a loop.
    const next = ahead.map((f) => (f < high ? f : view.project.loop ? low + (f - high) : -1)).filter((f) => f >= 0)
    frames?.prefetch(next, 1000 / rate)
    frames?.unpack(next)
    this.timer = requestAnimationFrame(this.tick)
  }
}

/** The one player of the page. */
export const player = new Player()
