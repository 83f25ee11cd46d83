import { describe, expect, it } from 'vitest'
import { answer, newId, Refused, type View } from '../src/api/client'
import type { PlacedLayer } from '../src/api/live'
import { inside, toSource, within } from '../src/picture/handling'
import { previewSize, rateOf, shownAt, timecode } from '../src/store'
import { lanesOf } from '../src/ground/cues'
import { dropAt, type Row, rowsOf } from '../src/sky/rows'
import { rateWords, remainingWords } from '../src/parts/words'

describe('time on the page', () => {
  it('is written as the server writes it', () => {
    expect(timecode(0, '30')).toBe('00:00:00')
    expect(timecode(71, '30')).toBe('00:02:11')
    expect(timecode(1800, '30000/1001')).toBe('01:00:00')
  })

  it('knows what the footage shows', () => {
    const view = {
      items: [
        { id: 'a', shot: 's', start: 0, length: 3, frames: [4, 6, 8] },
        { id: 'b', shot: 't', start: 3, length: 2, frames: [0, 0] },
      ],
    } as unknown as View
    expect(shownAt(view, 1)).toMatchObject({ item: { id: 'a' }, shot: 's', frame: 6 })
    expect(shownAt(view, 4)).toMatchObject({ item: { id: 'b' }, shot: 't', frame: 0 })
    expect(shownAt(view, 5)).toBeNull()
    expect(rateOf('30000/1001')).toBeCloseTo(29.97, 3)
  })
})

describe('preview frames', () => {
  it.each([
    [1080, 1920, 540, 960],
    [720, 1280, 540, 960],
    [1920, 1080, 960, 540],
    [320, 180, 320, 180],
    [1080, 1350, 768, 960],
  ])('of %i×%i are %i×%i', (width, height, w, h) => {
    expect(previewSize(width, height, 'full')).toEqual({ w, h, exact: false })
  })

  it('are half as large, or as what is sent', () => {
    expect(previewSize(1080, 1920, 'half')).toEqual({ w: 270, h: 480, exact: false })
    expect(previewSize(1080, 1920, 'sent')).toEqual({ w: 1080, h: 1920, exact: true })
  })
})

describe('where a pointer is', () => {
  // A box of 20×40 source pixels, turned by a quarter and moved.
  const turned: PlacedLayer = {
    id: 'x',
    box: [10, 20, 30, 60],
    corners: [
      [100, 100],
      [100, 120],
      [60, 120],
      [60, 100],
    ],
    anchor: [80, 110],
    values: {},
    shows: 0,
    within: [1, 0, 0, 1],
  }

  it('is inside or outside, whichever way the corners go round', () => {
    expect(inside([80, 110], turned.corners)).toBe(true)
    expect(inside([80, 110], [...turned.corners].reverse())).toBe(true)
    expect(inside([101, 110], turned.corners)).toBe(false)
  })

  it('comes out in source pixels', () => {
    expect(toSource([100, 100], turned)).toEqual([10, 20])
    const [x, y] = toSource([80, 110], turned)
    expect(x).toBeCloseTo(20, 6)
    expect(y).toBeCloseTo(40, 6)
  })
})

describe('words', () => {
  it('for rates', () => {
    expect(rateWords('30')).toBe('30 fps')
    expect(rateWords('30000/1001')).toBe('29.97 fps')
  })

  it('for what remains', () => {
    expect(remainingWords(null)).toBe('working out how long')
    expect(remainingWords(0.4)).toBe('about a second left')
    expect(remainingWords(42)).toBe('about 42 s left')
    expect(remainingWords(130)).toBe('about 2 min left')
  })
})

describe('answers of the server', () => {
  it('are data, or a refusal with its sentence and revision', async () => {
    await expect(answer(Promise.resolve({ data: 5 }))).resolves.toBe(5)
    await expect(answer(Promise.resolve({ error: { message: 'No such shot.', revision: 4 } }))).rejects.toMatchObject({
      message: 'No such shot.',
      revision: 4,
    })
    await expect(answer(Promise.reject(new TypeError('net')))).rejects.toBeInstanceOf(Refused)
  })

  it('get ids like the server’s own', () => {
    const ids = new Set(Array.from({ length: 50 }, newId))
    expect(ids.size).toBe(50)
    for (const id of ids) expect(id).toMatch(/^[0-9a-f]{16}$/)
  })
})

describe('lanes of sounds', () => {
  it('put what overlaps below each other', () => {
    const rest = { seconds: 1, bpm: 0, beats: [], accents: [] }
    const place = (start: number, end: number) => ({ frame: start, start, end, ...rest })
    const cues = {
      a: place(0, 10),
      b: place(5, 8),
      c: place(9, 12),
      d: place(20, 21),
      e: { frame: null, start: 0, end: 0, ...rest },
    }
    const lanes = (of: Parameters<typeof lanesOf>[0]['cues'], wide: number) =>
      Object.fromEntries(Object.entries(lanesOf({ cues: of }, wide)).map(([id, { lane }]) => [id, lane]))
    expect(lanes(cues, 2)).toEqual({ a: 0, b: 1, c: 1, d: 0 })
    // Short ones keep room for their names.
    expect(lanes({ x: place(0, 1), y: place(3, 4) }, 5)).toEqual({ x: 0, y: 1 })
    // Where all lanes are taken, the one that is free the soonest; of what lies there before so much is seen.
    const many = { a: place(0, 50), b: place(1, 9), c: place(2, 40), d: place(3, 60), e: place(4, 20) }
    expect(lanesOf({ cues: many }, 2)).toEqual({
      a: { lane: 0, seen: Infinity },
      b: { lane: 1, seen: 3 },
      c: { lane: 2, seen: Infinity },
      d: { lane: 3, seen: Infinity },
      e: { lane: 1, seen: Infinity },
    })
  })
})

describe('lanes of the sky', () => {
  const layer = (id: string, group: string | null = null) => ({ id, name: id, group }) as unknown as Row['layer']
  const view = {
    project: {
      layers: [layer('far'), layer('inner', 'group'), layer('outer', 'group'), layer('group'), layer('near')],
    },
    layers: { group: { gathers: true }, far: {}, inner: {}, outer: {}, near: {} },
  } as unknown as View
  const gathers = (id: string) => id === 'group'

  it('show the members of groups that are open below them', () => {
    const names = (folded: string[]) => rowsOf(view, new Set(folded)).map((r) => `${r.depth}${r.layer.id}`)
    expect(names([])).toEqual(['0near', '0group', '1outer', '1inner', '0far'])
    expect(names(['group'])).toEqual(['0near', '0group', '0far'])
  })

  it('keep a group of many folded until it is opened, or one of it is chosen', () => {
    const many = {
      project: { layers: [...'abcd'].map((id) => layer(id, 'group')).concat(layer('group')) },
      layers: { group: { gathers: true } },
    } as unknown as View
    const names = (turned: string[], chosen: string | null) =>
      rowsOf(many, new Set(turned), chosen)
        .map((r) => r.layer.id)
        .join('')
    expect(names([], null)).toBe('group')
    expect(names(['group'], null)).toBe('groupdcba')
    expect(names([], 'b')).toBe('groupdcba')
  })

  it('tell where a layer comes to lie that is carried to another', () => {
    const rows = rowsOf(view, new Set())
    // Down by one lane: into the middle of the group's lane, which is the way into it.
    expect(dropAt(rows, ['near'], 0, 1, gathers)).toEqual({ group: 'group', to: 2 })
    // Onto the lanes of its members, and to the bottom.
    expect(dropAt(rows, ['near'], 0, 2, gathers)).toEqual({ group: 'group', to: 1 })
    expect(dropAt(rows, ['near'], 0, 4, gathers)).toEqual({ group: null, to: 0 })
    // Out of the group, to the top.
    expect(dropAt(rows, ['inner'], 3, -3, gathers)).toEqual({ group: null, to: 3 })
  })
})

describe('a movement within groups', () => {
  it('is undone by what they turn and scale', () => {
    const [x, y] = within([10, 0], [0, -2, 2, 0])
    expect([x, y]).toEqual([0, -5])
  })
})
