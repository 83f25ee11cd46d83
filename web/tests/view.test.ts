import { describe, expect, it } from 'vitest'
import { merged, type Told } from '../src/api/view'

const base = {
  undo: null,
  redo: null,
  project: { id: 'p', name: 'Relay' },
  length: 24,
  sound: 'quiet',
  stale: [],
  ground_order: null,
  layer_order: null,
  ground: {},
  layers: {},
  shots: {},
  holds: {},
  stops: {},
  assets: {},
  tracks: {},
  items: {},
  places: {},
  item_keys: {},
  gone: {},
}
const told = (answer: object) => ({ ...base, ...answer }) as unknown as Told
const hold = { hold: { id: 'h', frame: 6, travel: { first: 2, past: 9 } }, take: [0, 24] }
const whole = told({
  base: null,
  revision: 3,
  ground_order: ['g'],
  layer_order: ['a', 'b'],
  ground: { g: { id: 'g' } },
  layers: { a: { id: 'a' }, b: { id: 'b' } },
  holds: { h: hold },
  stops: { 'h:4': { frame: 4, state: 'carried', pieces: [] }, 'h:5': { frame: 5, state: 'doubtful', pieces: [] } },
  items: { g: { start: 0, frames: [0, 1] } },
  places: { a: { start: 6 }, b: { start: 9 } },
})

describe('a view put together from what changed', () => {
  const view = merged(null, whole)!

  it('has everything in its order', () => {
    expect(view.project.layers.map((l) => l.id)).toEqual(['a', 'b'])
    expect(view.items[0]).toMatchObject({ id: 'g', start: 0 })
    expect(view.strips.h).toEqual({ 4: 'carried', 5: 'doubtful', 6: 'fixed' })
    expect(view.takes.h).toEqual([0, 24])
  })

  it('keeps the objects of what did not change', () => {
    const next = merged(view, told({ base: 3, revision: 4, layers: { a: { id: 'a', name: 'New' } } }))!
    expect(next.project.layers[0]).toMatchObject({ name: 'New' })
    expect(next.project.layers[1]).toBe(view.project.layers[1])
    expect(next.project.ground).toBe(view.project.ground)
    expect(next.holds).toBe(view.holds)
    expect(next.strips).toBe(view.strips)
    expect(next.layers).toBe(view.layers)
  })

  it('takes in another order and lets go of what is gone', () => {
    const answer = told({
      base: 3,
      revision: 4,
      layer_order: ['b'],
      gone: { layers: ['a'], places: ['a'], stops: ['h:5'] },
    })
    const next = merged(view, answer)!
    expect(next.project.layers).toEqual([view.project.layers[1]])
    expect(Object.keys(next.layers)).toEqual(['b'])
    expect(next.strips.h).toEqual({ 4: 'carried', 6: 'fixed' })
    expect(view.strips.h).toHaveProperty('5')
  })

  it('is not put together from changes to another revision', () => {
    expect(merged(view, told({ base: 2, revision: 4 }))).toBeNull()
    expect(merged(null, told({ base: 3, revision: 4 }))).toBeNull()
  })
})
