import { expect, test } from 'vitest'
import { page, userEvent } from 'vitest/browser'
import recorded from '../recorded/leaps.json'
import type { Catalog, Finish } from '../../src/api/client'
import { middle, one, opened, settledBox, type Maker } from './page'
import type { Server } from './server'

/** The server of a program that got a new finish, with a setting of every sort. */
function withNewFinish(server: Server): void {
  const catalog = recorded.answers['GET /api/catalog'] as unknown as Catalog
  const added = recorded.new_finish as unknown as Catalog['finishes'][number]
  server.answers('GET /api/catalog', () => ({ ...catalog, finishes: [...catalog.finishes, added] }))
}

/** The settings that the page has last asked for. */
async function settings(maker: Maker): Promise<Record<string, unknown>> {
  const { finishes } = (await maker.edit()) as { finishes?: Finish[] }
  const all = finishes ?? maker.server.layer('Leap 1').finishes
  return all.at(-1)!.settings
}

test('a new finish has its controls without a change of the page', async () => {
  const maker = await opened(withNewFinish)
  await maker.choose('Leap 1')
  await maker.step('Dress')
  await page.getByRole('radiogroup', { name: 'Family of finishes' }).getByText('Tone', { exact: true }).click()
  await maker.press('Everything')
  expect(await settings(maker)).toMatchObject({})
  const chain = page.elementLocator(one('[data-finish=everything]'))

  await maker.field('Width', 12.5)
  expect(await settings(maker)).toMatchObject({ width: 12.5 })
  await maker.field('Copies', 4.6)
  expect(await settings(maker)).toMatchObject({ copies: 5 })
  await userEvent.click(one('[data-finish=everything] label:has([type=checkbox])'))
  expect(await settings(maker)).toMatchObject({ double: true })
  await chain.getByText('Inside').click()
  expect(await settings(maker)).toMatchObject({ side: 'inside' })
  await maker.field('Ink', '#FF8800')
  expect(await settings(maker)).toMatchObject({ ink: '#FF8800' })
  await maker.field('Centre, across', 7)
  expect(await settings(maker)).toMatchObject({ centre: [7, 0] })
  await maker.field('Centre, down', -3)
  expect(await settings(maker)).toMatchObject({ centre: [7, -3] })
  await maker.field('Tilt', 45)
  expect(await settings(maker)).toMatchObject({ tilt: 45 })
  await chain.getByRole('radio', { name: 'ease-in-out' }).click()
  expect(await settings(maker)).toMatchObject({ curve: { kind: 'bezier', x1: 0.42 } })
  await maker.press('Another seed')
  expect((await settings(maker)).seed).not.toBe(1)
  // Width, copies, double, side, ink and tilt can have keys.
  expect(chain.getByRole('button', { name: /^Set .* key$/ }).elements()).toHaveLength(6)
  const usual = { width: 5, copies: 3, double: false, side: 'outside', ink: '#102030', tilt: 0, seed: 1 }
  for (const [name, value] of Object.entries(usual)) {
    await chain.getByText(name[0]!.toUpperCase() + name.slice(1), { exact: true }).dblClick()
    expect(await settings(maker)).toMatchObject({ [name]: value })
  }
  expect(maker.server.edits).toEqual([])
})

test('a setting of the footage is set back by a double click', async () => {
  const maker = await opened()
  await maker.press('Footage Dune run')
  await maker.step('Dress')
  await page.getByRole('radiogroup', { name: 'Family of finishes' }).getByText('Lens', { exact: true }).click()
  await maker.press('Soft blur')
  expect(await maker.edit()).toMatchObject({ kind: 'change ground', finishes: [{ kind: 'soft-blur' }] })
  await maker.field('Radius', 40)
  await maker.edit()
  const radius = page.getByLabelText('Radius', { exact: true })
  await expect.element(radius).toHaveValue('40')
  await page.getByText('Radius', { exact: true }).dblClick()
  await maker.edit()
  await expect.element(radius).toHaveValue('14')
  await maker.press('Set radius key')
  expect(await maker.edit()).toMatchObject({ kind: 'set value', key: true, value: [14] })
})

test('a colour is picked', async () => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step('Dress')
  const field = page.getByLabelText('Colour', { exact: true })
  const before = (field.element() as HTMLInputElement).value
  await maker.press('Colour, picker')
  const { x, y, width } = await settledBox('[data-part=area]')
  await maker.drag([x + 20, y + 20], [x + width * 0.9, y + 30])
  const { finishes } = (await maker.edit()) as { finishes: Finish[] }
  const now = String(finishes[0]!.settings.colour)
  expect(now.toUpperCase()).not.toBe(before.toUpperCase())
  await expect.element(field).toHaveValue(now)
})

test('fields are typed, dragged, stepped and set back', async () => {
  const maker = await opened()
  await maker.choose('Leap 3')
  await maker.step('Fly')
  const turned = () => maker.server.layer('Leap 3').pose.rotation
  const field = page.getByLabelText('Turn', { exact: true })
  ;(field.element() as HTMLElement).focus()
  await userEvent.keyboard('{ArrowUp}')
  await maker.edit()
  await userEvent.keyboard('{Shift>}{ArrowUp}{/Shift}')
  expect(await maker.edit()).toMatchObject({ channel: 'rotation', value: [11], key: false })
  await maker.field('Turn', 'nonsense')
  await maker.settled()
  expect(maker.server.edits).toEqual([])
  await expect.element(field).toHaveValue('11')
  const label = page.getByText('Turn', { exact: true }).first()
  const [x, y] = middle(label.element())
  await maker.drag([x - 5, y], [x + 35, y])
  await maker.edit()
  expect(Math.abs(turned() - 31)).toBeLessThan(2.1)
  await label.dblClick()
  await maker.edit()
  expect(turned()).toBe(0)
})
