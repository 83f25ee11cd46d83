import { expect, test } from 'vitest'
import { userEvent } from 'vitest/browser'
import { drawings, drawn, one, opened } from './page'
import { useStudio } from '../../src/store'

/** What is drawn, and when: while the piece plays, what follows time is written, and nothing draws itself. */

/** Waits until so many frames have gone by; the piece goes round in its loop. */
const passed = (frames: number): Promise<void> =>
  new Promise((done) => {
    const leave = useStudio.subscribe((s, before) => {
      frames -= Math.abs(s.playhead - before.playhead)
      if (frames > 0) return
      leave()
      done()
    })
  })

/** Waits until the page has come to rest. */
async function quiet(): Promise<void> {
  for (let before = -1; before !== drawings.count;) {
    before = drawings.count
    await new Promise((done) => setTimeout(done, 700))
  }
}

test.each(['Catch', 'Carve', 'Fly', 'Dress', 'Sound', 'Send'])('nothing draws itself in %s', async (bench) => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step(bench)
  ;(document.activeElement as HTMLElement).blur()
  await userEvent.keyboard('{Home}')
  await quiet()
  await userEvent.keyboard(' ')
  await passed(15)
  const before = drawings.count
  await passed(60)
  const after = drawings.count
  await userEvent.keyboard(' ')
  expect(after - before).toBe(0)
})

test('what follows time does: the clock, the line in the sky, the cursor of the curves', async () => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step('Fly')
  await maker.toFrame(64)
  const at = () => one('[data-testid=playhead]').getBoundingClientRect().x
  const [clock, mark] = [one('[data-testid=timecode]').textContent, at()]
  const panel = one('[aria-label="Across"]') as HTMLInputElement
  const across = panel.value
  ;(document.activeElement as HTMLElement).blur()
  await userEvent.keyboard(' ')
  await passed(20)
  expect(one('[data-testid=timecode]').textContent).not.toBe(clock)
  expect(at()).toBeGreaterThan(mark)
  expect(useStudio.getState().settled).toBe(64)
  expect(panel.value).toBe(across)
  await userEvent.keyboard(' ')
  await drawn()
  const { settled, playhead } = useStudio.getState()
  expect(settled).toBe(playhead)
  expect(settled).not.toBe(64)
})
