import { expect, test } from 'vitest'
import { page } from 'vitest/browser'
import { opened } from './page'

/** Fly: what one press asks for, of one layer or of several. */

test('several come one after the other and are put in line', async () => {
  const maker = await opened()
  const ids = (...names: string[]) => names.map((name) => maker.server.layer(name).id)
  await maker.choose('Leap 2')
  await maker.step('Fly')
  await maker.choose('Leap 1', 'Control')
  await maker.choose('Leap 3', 'Control')
  await maker.field('One after the other', 4)
  await maker.press('Fade')
  const put = await maker.edit()
  expect(put).toMatchObject({ kind: 'put move', side: 'in', move: { kind: 'fade' }, stagger: 4 })
  expect(new Set(put.layers as string[])).toEqual(new Set(ids('Leap 1', 'Leap 2', 'Leap 3')))
  await maker.press('Top edges in line')
  const lined = await maker.edit()
  expect(JSON.stringify(lined)).toContain('top')
  expect(new Set(lined.layers as string[])).toEqual(new Set(put.layers as string[]))
  await maker.press('Hide all')
  expect(await maker.edit()).toMatchObject({ kind: 'several' })
})

test('a behaviour is put on, set, and turned into keys', async () => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step('Fly')
  await page.getByRole('radiogroup', { name: 'In, out or always' }).getByText('Always').click()
  await maker.press('Sway')
  const worn = async () => ((await maker.edit()).behaviours as Record<string, unknown>[])[0]
  expect(await worn()).toMatchObject({ kind: 'sway' })
  await maker.field('Angle', 12)
  expect(await worn()).toMatchObject({ settings: { angle: 12 } })
  await maker.field('Comes in over', 6)
  expect(await worn()).toMatchObject({ settings: { angle: 12 }, fade_in: 6 })
  await maker.press('Into keys')
  expect((await maker.edit()).kind).toMatch(/key/)
})

test('a value gets a key by its kite, and loses it by the same', async () => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step('Fly')
  await maker.toFrame(70)
  await maker.press('Set scale key')
  const { id } = maker.server.layer('Leap 2')
  const set = { kind: 'set value', layer: id, channel: 'scale', frame: 70, value: [1], key: true }
  expect(await maker.edit()).toMatchObject(set)
})

test('two numbers typed one right after the other both stay', async () => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step('Fly')
  const { id } = maker.server.layer('Leap 2')
  const asked = { kind: 'set value', layer: id, key: false }
  // Neither says anything of the other, which the page may not have heard of yet.
  await maker.field('Across', 40)
  expect(await maker.edit()).toMatchObject({ ...asked, channel: 'across', value: [40] })
  await maker.field('Down', -30)
  expect(await maker.edit()).toMatchObject({ ...asked, channel: 'down', value: [-30] })
})
