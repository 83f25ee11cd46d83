import { expect, test } from 'vitest'
import { bytes, day } from '../src/parts/words'

test('room is told in units that fit', () => {
  expect([0, 999, 1000, 999_499, 999_500, 1_250_000, 48_000_000, 3_100_000_000].map(bytes)).toEqual([
    '0 bytes',
    '999 bytes',
    '1 kB',
    '999 kB',
    '1.0 MB',
    '1.3 MB',
    '48 MB',
    '3.1 GB',
  ])
})

test('a day is written out', () => {
  expect(day('2026-11-28T12:00:00Z')).toBe('28 Nov 2026')
})
