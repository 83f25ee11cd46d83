import axe from 'axe-core'
import { expect, test } from 'vitest'
import { page, userEvent } from 'vitest/browser'
import { arrived, drawn, type Maker, one, opened } from './page'

/** Everybody can use it: by the rules of WCAG as far as a program can tell, by keyboard alone, without movement. */

/** What axe finds serious or critical, and finds again a moment later: a colour on its way to another is neither. */
async function faults(): Promise<string[]> {
  let found: string[] = []
  for (let look = 0; look < 3; look++) {
    const moving = document.getAnimations().filter((a) => a.effect?.getComputedTiming().iterations !== Infinity)
    await Promise.allSettled(moving.map((a) => a.finished))
    const { violations } = await axe.run(document, { resultTypes: ['violations'] })
    const now = violations
      .filter((v) => v.impact === 'serious' || v.impact === 'critical')
      .flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.html.replace(/ id="[^"]*"/g, '').slice(0, 300)}`))
    found = look === 0 ? now : found.filter((what) => now.includes(what))
    if (!found.length) break
    await new Promise((done) => setTimeout(done, 400))
  }
  return found
}

/** Every main view, one after the other, by its name. */
async function* views(maker: Maker): AsyncGenerator<string> {
  await expect.element(page.getByRole('button', { name: 'Open Gull Point relay' })).toBeVisible()
  yield 'projects'
  await userEvent.keyboard('?')
  await expect.element(page.getByRole('dialog')).toBeVisible()
  yield 'keys'
  await userEvent.keyboard('{Escape}')
  await expect.element(page.getByRole('dialog')).not.toBeInTheDocument()
  await maker.open()
  await maker.choose('Leap 2')
  for (const step of ['Catch', 'Carve', 'Fly', 'Dress', 'Sound', 'Send']) {
    await maker.step(step)
    await maker.settled()
    yield step
  }
  await maker.press('Make')
  await maker.press('Trail')
  yield 'Make'
  await maker.step('Send')
  await userEvent.keyboard('s')
  await expect.element(page.getByText('This project takes')).toBeVisible()
  yield 'shelf'
}

test.for(['day', 'night'])('no view breaks the rules by %s', { timeout: 60_000 }, async (theme) => {
  const maker = await arrived()
  if (theme === 'night') await maker.press('Night theme')
  const found: Record<string, string[]> = {}
  for await (const name of views(maker)) found[name] = await faults()
  expect(Object.keys(found)).toHaveLength(10)
  expect(Object.fromEntries(Object.entries(found).filter(([, what]) => what.length))).toEqual({})
})

test('every control is reached by keyboard and seen when it is', { timeout: 60_000 }, async () => {
  const stop = 'button, a[href], input, select, textarea, [tabindex]:not([tabindex="-1"])'
  // What the pointer is told to use, and the keyboard could not come to. The playhead goes by the arrows from anywhere.
  const pointerOnly = () =>
    [...document.querySelectorAll('*')]
      .filter((e) => e.getClientRects().length && getComputedStyle(e).cursor === 'pointer')
      .filter((e) => !(e.closest(stop) || e.querySelector(stop) || e.closest('[data-testid=ruler], label:has(input)')))
      // What is drawn on a sound's wave by hand stands beside it as numbers.
      .filter((e) => !e.closest(':has(> svg[aria-label^="The sound of"])'))
      .map((e) => e.outerHTML.slice(0, 160))
  const focused = () => {
    const e = document.activeElement
    if (!e || e === document.body) return null
    // A switch is an input that is not seen, and what is drawn of it.
    const shown = e.closest('label')?.querySelector('[data-part=control]') ?? e
    const [box, style] = [shown.getBoundingClientRect(), getComputedStyle(shown)]
    const ring = style.outlineStyle !== 'none' && parseFloat(style.outlineWidth) >= 1.5
    const inside = box.right > 0 && box.left < innerWidth && box.bottom > 0 && box.top < innerHeight
    const seen = box.width > 2 && box.height > 2 && inside
    return {
      e,
      fine: ring && seen,
      what: `${ring ? '' : 'no ring '}${seen ? '' : 'not seen '}${e.outerHTML.slice(0, 140)}`,
    }
  }
  const maker = await arrived()
  for await (const name of views(maker)) {
    if (name === 'keys') continue
    expect(pointerOnly(), name).toEqual([])
    const stops: Element[] = []
    const blind: string[] = []
    ;(document.activeElement as HTMLElement | null)?.blur()
    for (let n = 0; n < 200; n++) {
      await userEvent.keyboard('{Tab}')
      let now = focused()
      if (!now || now.e === stops[0]) break
      stops.push(now.e)
      if (!now.fine) {
        await drawn() // the ring comes with the next picture
        now = focused()
        if (now && !now.fine) blind.push(now.what)
      }
    }
    expect(blind, name).toEqual([])
    expect(stops.length, name).toBeGreaterThan(5)
    await userEvent.keyboard('{Escape}')
  }
})

test('of a few choices the tab key comes to the chosen one, and the arrows go through them', async () => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step('Fly')
  const sides = page.getByRole('radiogroup', { name: 'In, out or always' })
  const radio = (name: string) => sides.getByRole('radio', { name, exact: true })
  const stops = () => [...sides.element().querySelectorAll('[tabindex="0"]')].map((e) => e.textContent)
  expect(stops()).toEqual(['In'])
  const frame = one('[data-testid=picture] canvas').dataset.frame
  ;(radio('In').element() as HTMLElement).focus()
  await userEvent.keyboard('{ArrowRight}')
  await expect.element(radio('Out')).toHaveAttribute('aria-checked', 'true')
  expect(document.activeElement).toBe(radio('Out').element())
  expect(stops()).toEqual(['Out'])
  await userEvent.keyboard('{ArrowLeft}{ArrowLeft}')
  await expect.element(radio('Always')).toHaveAttribute('aria-checked', 'true')
  expect(one('[data-testid=picture] canvas').dataset.frame).toBe(frame) // which arrows move elsewhere
})

test('a cutout is chosen, moved and carved without a pointer', async () => {
  const maker = await opened()
  await userEvent.keyboard('3')
  const span = page.getByRole('button', { name: /^Leap 1: Trail/ })
  ;(span.element() as HTMLElement).focus()
  await userEvent.keyboard('{Enter}')
  await expect.element(span).toHaveAttribute('aria-pressed', 'true')
  await userEvent.keyboard('{PageUp}')
  const edit = await maker.edit()
  expect(edit.kind).toBe('move layer')
  expect(edit.layer ?? (edit.layers as string[])[0]).toBe(maker.server.layer('Leap 1').id)
  ;(span.element() as HTMLElement).focus()
  await userEvent.keyboard('{Enter}')
  await expect.element(page.getByTestId('carve')).toBeVisible()
})

test('nothing moves by itself for those who do not want that', async () => {
  await arrived()
  expect(matchMedia('(prefers-reduced-motion: reduce)').matches).toBe(true)
  await userEvent.keyboard('?')
  await expect.element(page.getByRole('dialog')).toBeVisible()
  const long = [...document.querySelectorAll('*')].filter((e) => {
    const s = getComputedStyle(e)
    return `${s.transitionDuration},${s.animationDuration}`.split(',').some((x) => parseFloat(x) > 0.011)
  })
  expect(long.map((e) => e.outerHTML.slice(0, 100))).toEqual([])
})
