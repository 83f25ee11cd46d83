import { describe, expect, it, vi } from 'vitest'
import type { Answer, FrameHeader, Live } from '../src/api/live'
import { Frames } from '../src/store/frames'

function answer(key: string, frame: number, bytes = 10): Answer<FrameHeader> {
  const where = { layers: [], source: null, spans: {}, ground: {}, keys: {} }
  const header: FrameHeader = {
    type: 'frame',
    seq: 1,
    frame,
    key,
    revision: 1,
    skipped: false,
    trouble: null,
    ...where,
  }
  return { header, blob: new Blob([new Uint8Array(bytes)]) }
}

/** A stream that answers with the key that the server would have, when it is told to. */
function stream(keys: string[], bytes = 10) {
  const asked: number[] = []
  const waiting: (() => void)[] = []
  const live = {
    frame: vi.fn((frame: number) => {
      asked.push(frame)
      return new Promise<Answer<FrameHeader>>((resolve) =>
        waiting.push(() => resolve(answer(keys[frame]!, frame, bytes))),
      )
    }),
  }
  const reply = async () => {
    for (const go of waiting.splice(0)) go()
    await new Promise((r) => setTimeout(r))
  }
  return { live: live as unknown as Live, asked, reply }
}

describe('kept frames', () => {
  it('are asked for once', async () => {
    const { live, asked, reply } = stream(['a', 'b'])
    const frames = new Frames(live, 'piece')
    frames.learn(0, ['a', 'b'])
    const first = frames.get(1)
    await reply()
    await first
    expect((await frames.get(1)).header.key).toBe('b')
    expect(asked).toEqual([1])
    expect([frames.ready(0), frames.ready(1)]).toEqual([false, true])
  })

  it('are asked for once while they are on their way', async () => {
    const { live, asked, reply } = stream(['a', 'b'])
    const frames = new Frames(live, 'piece')
    frames.learn(0, ['a', 'b'])
    const shown = frames.get(0)
    frames.prefetch([0, 1])
    const again = frames.get(1)
    await reply()
    expect([(await shown).header.key, (await again).header.key]).toEqual(['a', 'b'])
    expect(asked).toEqual([0, 1])
  })

  it('are asked for again if what was on its way shows another state of the piece', async () => {
    const keys = ['b']
    const { live, asked, reply } = stream(keys)
    const frames = new Frames(live, 'piece')
    frames.learn(0, ['a'])
    frames.prefetch([0])
    const shown = frames.get(0)
    await reply()
    keys[0] = 'a'
    await reply()
    expect((await shown).header.key).toBe('a')
    expect(asked).toEqual([0, 0])
  })

  it('are each asked for while no keys are known', async () => {
    const { live, asked, reply } = stream(['a', 'b'])
    const frames = new Frames(live, 'piece')
    const both = Promise.all([frames.get(0), frames.get(1)])
    await reply()
    expect((await both).map((a) => a.header.key)).toEqual(['a', 'b'])
    expect(asked).toEqual([0, 1])
  })

  it('stay when an edit changes others, and come back with undo', async () => {
    const { live, reply } = stream(['a', 'b'])
    const frames = new Frames(live, 'piece')
    frames.learn(0, ['a', 'b'])
    const both = Promise.all([frames.get(0), frames.get(1)])
    await reply()
    await both
    frames.learn(0, ['a', 'x'])
    expect([frames.ready(0), frames.ready(1)]).toEqual([true, false])
    frames.learn(0, ['a', 'b'])
    expect([frames.ready(0), frames.ready(1)]).toEqual([true, true])
  })

  it('are shared by frames that look the same', async () => {
    const { live, asked, reply } = stream(['a', 'a'])
    const frames = new Frames(live, 'piece')
    frames.learn(0, ['a', 'a'])
    const first = frames.get(0)
    await reply()
    await first
    await frames.get(1)
    expect(asked).toEqual([0])
  })

  it('are not taken for another size', async () => {
    const { live, reply } = stream(['a'])
    const frames = new Frames(live, 'piece')
    frames.learn(0, ['a'])
    const first = frames.get(0)
    await reply()
    await first
    frames.w = 960
    expect(frames.ready(0)).toBe(false)
  })

  it('never come from a draft', async () => {
    const { live, reply } = stream(['a'])
    const frames = new Frames(live, 'piece')
    frames.learn(0, ['a'])
    const draft = frames.get(0, { kind: 'put at rest', layer: '0'.repeat(16) })
    await reply()
    await draft
    expect(frames.ready(0)).toBe(false)
  })

  it('go, the oldest first, when they are too many', async () => {
    const keys = ['a', 'b', 'c']
    const { live, reply } = stream(keys, 100_000_000)
    const frames = new Frames(live, 'piece')
    frames.learn(0, keys)
    for (const frame of [0, 1, 2]) {
      const one = frames.get(frame)
      await reply()
      await one
    }
    expect(keys.map((_, f) => frames.ready(f))).toEqual([false, true, true])
  })
})

describe('frames ahead', () => {
  it('are asked for six at a time, and tell when they are there', async () => {
    const keys = Array.from({ length: 12 }, (_, i) => `k${i}`)
    const { live, asked, reply } = stream(keys)
    const frames = new Frames(live, 'piece')
    frames.learn(0, keys)
    const ready = vi.fn()
    frames.onReady = ready
    const all = keys.map((_, i) => i)
    frames.prefetch(all)
    frames.prefetch(all)
    expect(asked).toEqual([0, 1, 2, 3, 4, 5])
    await reply()
    expect(ready).toHaveBeenCalledTimes(6)
    frames.prefetch(all)
    expect(asked).toEqual(all)
  })

  it('are unpacked ahead of being shown, and let go of behind it', async () => {
    const made: { close: ReturnType<typeof vi.fn> }[] = []
    vi.stubGlobal('createImageBitmap', async () => {
      made.push({ close: vi.fn() })
      return made.at(-1)
    })
    const keys = ['a', 'b', 'c']
    const { live, reply } = stream(keys)
    const frames = new Frames(live, 'piece')
    frames.learn(0, keys)
    frames.prefetch([0, 1])
    await reply()
    frames.unpack([0, 1, 2])
    expect(frames.picture(0)).toBeUndefined()
    await new Promise((r) => setTimeout(r))
    expect([frames.picture(0), frames.picture(1), frames.picture(2)]).toEqual([made[0], made[1], undefined])
    frames.unpack([1, 2])
    expect(frames.picture(0)).toBeUndefined()
    expect(made.map((m) => m.close.mock.calls.length)).toEqual([1, 0])
    vi.unstubAllGlobals()
  })

  it('beyond the end are left alone', () => {
    const { live, asked } = stream(['a'])
    const frames = new Frames(live, 'piece')
    frames.learn(0, ['a'])
    frames.prefetch([5, 6])
    expect(asked).toEqual([])
  })
})
