import { describe, expect, it } from 'vitest'
import { doesAt, KEYS, pressOf, sheet, withKey } from '../src/parts/keys'

const press = (key: string, held: Partial<Record<'ctrlKey' | 'altKey' | 'shiftKey' | 'metaKey', boolean>> = {}) =>
  pressOf({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...held })

describe('keys', () => {
  it('are written alike however they are pressed', () => {
    expect(press('z', { ctrlKey: true })).toBe('Ctrl+Z')
    expect(press('Z', { metaKey: true, shiftKey: true })).toBe('Ctrl+Shift+Z')
    expect(press(' ')).toBe('Space')
    expect(press('?', { shiftKey: true })).toBe('?')
    expect(press('ArrowUp', { altKey: true, shiftKey: true })).toBe('Alt+Shift+ArrowUp')
  })

  it('do one thing at a place', () => {
    const taken = new Map<string, string>()
    for (const [does, key] of Object.entries(KEYS)) {
      for (const p of key.press) {
        const place = `${'where' in key ? key.where : 'everywhere'} ${p}`
        expect(taken.get(place), place).toBeUndefined()
        taken.set(place, does)
      }
    }
    expect(doesAt('F', 'everywhere')).toBe('flag')
    expect(doesAt('P', 'everywhere')).toBeUndefined()
    expect(doesAt('P', 'carve')).toBe('pen')
  })

  it('stand in tooltips and on the sheet, each once', () => {
    expect(withKey('Undo move Leap 2', 'undo')).toBe('Undo move Leap 2 (Ctrl+Z)')
    const lines = sheet()
    expect(new Set(lines.map(([, line]) => line)).size).toBe(lines.length)
    expect(lines).toContainEqual(['J P O B L C', 'In Carve: points, pen, oval, box, lasso, cling line'])
    expect(lines).toContainEqual(['Ctrl+Z, Ctrl+Shift+Z', 'Undo, redo'])
  })
})
