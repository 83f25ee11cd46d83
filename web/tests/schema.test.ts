import { describe, expect, it } from 'vitest'
import { numbersOf, settingsOf, valueOf } from '../src/parts/schema'

const schema = {
  $defs: { Bezier: { type: 'object', title: 'Bezier', properties: {} } },
  properties: {
    width: { type: 'number', title: 'Width', minimum: 0, maximum: 80, default: 6, unit: 'px', step: 0.5 },
    share: { type: 'number', minimum: 0, maximum: 1, default: 1, unit: '%', keyable: false },
    turn: { type: 'number', default: 0, unit: '°' },
    copies: { type: 'integer', minimum: 1, maximum: 9, default: 3 },
    double: { type: 'boolean', default: false, title: 'Double line' },
    side: { enum: ['inside', 'outside'], type: 'string', default: 'outside', words: { inside: { title: 'Within' } } },
    colour: { pattern: '^#[0-9a-fA-F]{6}$', type: 'string', default: '#FFFFFF' },
    centre: { type: 'array', default: [0, 0], unit: 'px' },
    curve: { discriminator: { mapping: { bezier: '#/$defs/Bezier' } }, default: { kind: 'bezier' } },
    seed: { type: 'integer', format: 'seed', default: 1, minimum: 0, maximum: 99999 },
  },
}

describe('controls from a JSON Schema', () => {
  const settings = Object.fromEntries(settingsOf(schema).map((s) => [s.name, s]))

  it('are of the sort that a setting asks for', () => {
    const sorts = Object.fromEntries(Object.entries(settings).map(([k, s]) => [k, s.sort]))
    expect(sorts).toEqual({
      width: 'number',
      share: 'number',
      turn: 'number',
      copies: 'whole',
      double: 'switch',
      side: 'choice',
      colour: 'colour',
      centre: 'point',
      curve: 'easing',
      seed: 'seed',
    })
  })

  it('have their limits, steps, units and words', () => {
    expect(settings.width).toMatchObject({ label: 'Width', min: 0, max: 80, step: 0.5, unit: 'px', initial: 6 })
    expect(settings.turn).toMatchObject({ min: -3600, max: 3600, step: 1 })
    expect(settings.copies!.step).toBe(1)
    expect(settings.side!.options.map((o) => o.title)).toEqual(['Within', 'Outside'])
  })

  it('have a kite where the setting can have keys', () => {
    const keyable = Object.values(settings).filter((s) => s.keyable)
    expect(keyable.map((s) => s.name)).toEqual(['width', 'turn', 'copies', 'double', 'side', 'colour'])
  })

  it('are numbers in a key, and what they were again', () => {
    const values = { width: 4.5, copies: 3, double: true, side: 'outside', colour: '#8C53A2' }
    for (const [name, value] of Object.entries(values))
      expect(valueOf(settings[name]!, numbersOf(settings[name]!, value))).toBe(value)
    expect(numbersOf(settings.side!, 'outside')).toEqual([1])
    expect(numbersOf(settings.colour!, '#FF0033')).toEqual([1, 0, 0.2])
    expect(valueOf(settings.colour!, [1.2, -0.1, 0.5])).toBe('#FF0080')
    expect(valueOf(settings.copies!, [2.6])).toBe(3)
  })

  it('are not made up for what nobody thought of', () => {
    expect(() => settingsOf({ properties: { odd: { type: 'null' } } })).toThrow('no control')
  })
})
