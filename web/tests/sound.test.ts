import { describe, expect, it } from 'vitest'
import { downOf, gainAt, lineAt, lineWith, outline, shownOf } from '../src/bench/sound/wave'
import { beatsOf, begun, ended } from '../src/ground/cues'
import { levelsAt, LEVELS } from '../src/sounding/blocks'
import { placeAt, RATE, sliceAt } from '../src/sounding/course'
import type { View } from '../src/api/view'

describe('the way that playing takes', () => {
  const round = { from: 50_000, low: 20_000, high: 120_000, loops: true }

  it('goes on, and then round and round', () => {
    expect(placeAt(round, 0)).toBe(50_000)
    expect(placeAt(round, 69_999)).toBe(119_999)
    expect(placeAt(round, 70_000)).toBe(20_000)
    expect(placeAt(round, 170_000)).toBe(20_000)
    expect(placeAt({ ...round, loops: false }, 70_000)).toBeNull()
  })

  it('is made of parts of blocks that lie side by side without a gap', () => {
    let done = 0
    const places: number[] = []
    for (let n = 0; n < 9; n++) {
      const slice = sliceAt(round, done)!
      expect(slice.first + slice.length).toBeLessThanOrEqual(RATE)
      places.push(slice.block * RATE + slice.first, slice.block * RATE + slice.first + slice.length)
      done += slice.length
    }
    expect(places.slice(0, 8)).toEqual([50_000, 96_000, 96_000, 120_000, 20_000, 48_000, 48_000, 96_000])
    // What is played in so many slices is what has gone by.
    expect(placeAt(round, done)).toBe(places.at(-1) === 120_000 ? 20_000 : places.at(-1))
    expect(sliceAt({ ...round, loops: false }, 70_000)).toBeNull()
  })
})

describe('a line of loudness', () => {
  const line = [
    { at: 1, gain: -6 },
    { at: 3, gain: 0 },
  ]

  it('is straight between its corners and level beyond them', () => {
    expect([0, 1, 2, 3, 9].map((t) => lineAt(line, t))).toEqual([-6, -6, -3, 0, 0])
    expect(lineAt([], 4)).toBe(0)
  })

  it('keeps its corners in order and within the sound', () => {
    expect(lineWith(line, null, { at: 2, gain: 3 }, 5).map((c) => c.at)).toEqual([1, 2, 3])
    expect(lineWith(line, 0, { at: 4, gain: 1 }, 5)[0]!.at).toBe(2.999)
    expect(lineWith(line, 1, { at: 99, gain: 90 }, 5)[1]).toEqual({ at: 5, gain: 24 })
  })

  it('is drawn where it can be taken hold of', () => {
    expect(gainAt(downOf(-7.5, 148), 148)).toBe(-7.5)
    expect(downOf(40, 100)).toBe(0)
    expect(downOf(-80, 100)).toBe(100)
  })
})

describe('a wave', () => {
  it('shows a little more than what is heard, as far as there is any', () => {
    expect(shownOf([2, 4], 10)).toEqual([1.8, 4.2])
    expect(shownOf([0, 4], 4)).toEqual([0, 4])
  })

  it('is an outline around its middle', () => {
    expect(outline([], 100, 50)).toBe('')
    expect(outline([0, 1], 100, 50)).toBe('M0.0,24.6L100.0,1.6L100.0,48.4L0.0,25.4Z')
  })

  it('has levels for each part', () => {
    const levels = new Float32Array(3 * LEVELS)
    levels.set([0.1, 0.5], 0)
    levels.set([0, 0.7], LEVELS)
    const block = { key: '', samples: null as unknown as AudioBuffer, levels }
    const [footage, bed, hits] = levelsAt(block, RATE + 2500)
    expect(footage).toBeCloseTo(0.5)
    expect(bed).toBeCloseTo(0.7)
    expect(hits).toBe(0)
    expect(levelsAt(null, 0)).toEqual([0, 0, 0])
  })
})

describe('beats of the piece', () => {
  const beat = (frame: number) => ({ frame, number: 0, bar: false })
  const view = (parts: string[], muted = false) =>
    ({
      project: { cues: parts.map((part, n) => ({ id: String(n), part, muted })) },
      cues: { 0: { beats: [beat(9), beat(12)] }, 1: { beats: [beat(3)] } },
    }) as unknown as View

  it('are those of beds, or of what else there is', () => {
    expect(beatsOf(view(['bed', 'hits'])).map((b) => b.frame)).toEqual([9, 12])
    expect(beatsOf(view(['bed', 'bed'])).map((b) => b.frame)).toEqual([3, 9, 12])
    expect(beatsOf(view(['voice', 'hits'])).map((b) => b.frame)).toEqual([3, 9, 12])
    expect(beatsOf(view(['bed', 'bed'], true))).toEqual([])
  })
})

describe('a sound whose ends are moved', () => {
  const cue = {
    skip: 1,
    speed: 50,
    lasts: 8,
    tie: { to: 'start', offset: 30 },
  } as unknown as View['project']['cues'][0]
  const place = { frame: 30, start: 30, end: 270, seconds: 20, bpm: 0, beats: [], accents: [] }

  it('stays where it is heard', () => {
    // Half a second of its own is a second of the piece.
    expect(begun(cue, place, 30, 1.5)).toEqual({ skip: 1.5, tie: { to: 'start', offset: 60 }, lasts: 7 })
    expect(ended(cue, 3)).toEqual({ lasts: 4 })
    expect(ended(cue, 0)).toEqual({ lasts: 0.02 })
  })

  it('keeps its main moment on its frame as long as that is heard', () => {
    const hit = { ...cue, skip: 0, speed: 100, lasts: null } as typeof cue
    // It strikes half a second after it begins.
    const early = { ...place, frame: 45, start: 30 }
    expect(begun(hit, early, 30, 0.4).tie.offset).toBe(30)
    expect(begun(hit, early, 30, 0.7).tie.offset).toBe(36)
  })
})
