import { rateOf, useStudio } from '../shell/store'

/** How many frames ahead of the one that is heard are made ready. */
const AHEAD = 30

/** Plays the piece: the clock is the sound's, or the page's where there is none. */
export class Player {
  private context: AudioContext | null = null
  private buffer: AudioBuffer | null = null
  private bufferOf = ''
  private asked = ''
  private source: AudioBufferSourceNode | null = null
  private begun = 0
  private from = 0
  private timer = 0

  start(): void {
    const { view, playhead } = useStudio.getState()
    if (!view) return
    const [low, high] = view.project.loop ?? [0, view.length]
    this.from = playhead >= low && playhead < high - 1 ? playhead : low
    this.begun = performance.now()
    this.asked = ''
    this.tick()
  }

  stop(): void {
    cancelAnimationFrame(this.timer)
    this.timer = 0
    this.silence()
  }

  private silence(): void {
    try {
      this.source?.stop()
    } catch {
      // It had not begun.
    }
    this.source = null
  }

  /** Gets the sound of the piece as it is now, unless that is under way or there is none. */
  private async sound(): Promise<void> {
    const { view } = useStudio.getState()
    const heard = view && (Object.values(view.shots).some((s) => s.has_sound) || view.project.cues.length > 0)
    if (!view || this.asked === view.sound || !heard) return
    this.asked = view.sound
    this.context ??= new AudioContext({ sampleRate: 48000 })
    try {
      await this.context.resume()
      const response = await fetch(`/api/projects/${view.project.id}/sound.wav`)
      if (!response.ok) return
      const buffer = await this.context.decodeAudioData(await response.arrayBuffer())
      // What was edited meanwhile is being asked for already.
      if (this.asked !== view.sound) return
      this.buffer = buffer
      this.bufferOf = response.headers.get('X-Sound') ?? ''
      // The server was ahead of the page or behind it: asked once more if the page does not follow.
      if (this.bufferOf !== view.sound) this.asked = ''
    } catch {
      // No sound until it is played again; the picture goes on.
    }
  }

  /** Starts the sound where the picture is now. */
  private hear(): void {
    const { view } = useStudio.getState()
    if (!this.context || !this.buffer || !view) return
    this.source = this.context.createBufferSource()
    this.source.buffer = this.buffer
    this.source.connect(this.context.destination)
    const offset = this.at() / rateOf(view.project.rate)
    if (offset < this.buffer.duration) this.source.start(0, offset)
  }

  /** The frame, in parts, that it is time for. */
  private at(): number {
    const { view } = useStudio.getState()
    return this.from + ((performance.now() - this.begun) / 1000) * (view ? rateOf(view.project.rate) : 30)
  }

  private tick = (): void => {
    const { view, playing, seek, play, frames } = useStudio.getState()
    if (!view || !playing) return this.stop()
    // What was heard before an edit must not go on after it: silence until the new sound is here.
    if (this.bufferOf !== view.sound) {
      this.silence()
      void this.sound()
    } else if (!this.source) this.hear()
    const [low, high] = view.project.loop ?? [0, view.length]
    let at = Math.floor(this.at())
    if (at >= high) {
      if (!view.project.loop) {
        seek(view.length - 1)
        return play(false)
      }
      this.from = low
      this.begun = performance.now()
      at = low
      this.silence()
    }
    seek(at)
    const ahead = Array.from({ length: AHEAD }, (_, i) => at + i)
    // Round the corner, where it goes round in a loop.
    const next = ahead.map((f) => (f < high ? f : view.project.loop ? low + (f - high) : -1)).filter((f) => f >= 0)
    frames?.prefetch(next, 1000 / rateOf(view.project.rate))
    frames?.unpack(next)
    this.timer = requestAnimationFrame(this.tick)
  }
}
