import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import type { Answer, MatteHeader } from '../src/api/live'
import { forgetRough, settleRough, showRough, useRough } from '../src/bench/carve/rough'
import { useStudio } from '../src/store'

type Answered = (header: Partial<MatteHeader>) => void
let asked: Answered[]

const stroke = { side: 'keep' as const, mark: { points: [[1, 2]] as [number, number][], width: 4 } }
const show = () => showRough('hold', 3, null, 'add', [stroke])
const settled = () => new Promise((resolve) => setTimeout(resolve, 5))

beforeEach(() => {
  asked = []
  const rough = () =>
    new Promise<Answer<MatteHeader>>((resolve) => {
      const answered: Answered = (header) =>
        resolve({
          header: { type: 'rough', seq: 1, skipped: false, trouble: null, box: [0, 0, 9, 9], size: [9, 9], ...header },
          blob: new Blob(),
        })
      asked.push(answered)
    })
  useStudio.setState({ live: { rough } as never })
  vi.stubGlobal('createImageBitmap', () => Promise.resolve({ width: 9 }))
  vi.stubGlobal('requestAnimationFrame', (call: () => void) => setTimeout(call))
  forgetRough()
})
afterEach(() => {
  useStudio.setState({ live: null })
  vi.unstubAllGlobals()
})

test('what strokes are about to do is shown, and the exact answer is asked for then', async () => {
  const shown = show()
  asked[0]!({ size: [18, 9] })
  await shown
  expect(useRough.getState().mask?.size).toEqual([18, 9])
})

test('a late answer is waited for a moment only', async () => {
  await show()
  expect(useRough.getState().mask).toBeNull()
})

test('an answer that comes after the exact one is of no use', async () => {
  void show()
  settleRough()
  asked[0]!({})
  await settled()
  expect(useRough.getState()).toEqual({ mask: null, settled: true })
  void show()
  forgetRough()
  asked[1]!({})
  await settled()
  expect(useRough.getState().mask).toBeNull()
})

test('of two strokes only what both do is shown', async () => {
  void show()
  void show()
  asked[1]!({ size: [2, 2] })
  await settled()
  asked[0]!({ size: [1, 1] })
  await settled()
  expect(useRough.getState().mask?.size).toEqual([2, 2])
})

test('strokes of no use change nothing', async () => {
  const shown = show()
  asked[0]!({ trouble: 'There are no marks yet.' })
  await shown
  expect(useRough.getState().mask).toBeNull()
})
