import { expect, test } from 'vitest'
import { commands, page, userEvent } from 'vitest/browser'
import type { Finish } from '../../src/api/client'
import { arrived, middle, one, opened, type Maker } from './page'
import { Refusal } from './server'

/** What hands do with layers, finishes and projects: what the page asks the server for, and what it shows of that. */

const kinds = (edit: Record<string, unknown>) => (edit.finishes as Finish[]).map((f) => f.kind)
const layer = (maker: Maker, name: string) => maker.server.layer(name)

test('a chain is put in order, looked at alone and kept', async () => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step('Dress')
  await page.getByRole('radiogroup', { name: 'Family of finishes' }).getByText('Drawing', { exact: true }).click()
  await maker.press('Ink')
  expect(kinds(await maker.edit())).toEqual(['outline', 'ink'])
  await expect.poll(() => document.querySelectorAll('[data-finish=ink]').length).toBe(1)
  // By its grip to the first place; by keys back.
  const first = one('[data-finish=outline]').getBoundingClientRect()
  const grip = page.getByRole('button', { name: 'Move Ink', exact: true })
  const [x, y] = middle(grip.element())
  await maker.drag([x, y], [x, first.y + 4])
  expect(kinds(await maker.edit())).toEqual(['ink', 'outline'])
  ;(grip.element() as HTMLElement).focus()
  await userEvent.keyboard('{ArrowDown}')
  expect(kinds(await maker.edit())).toEqual(['outline', 'ink'])
  await maker.press('Only Ink')
  expect(((await maker.edit()).finishes as Finish[]).map((f) => f.visible)).toEqual([false, true])
  await maker.press('All finishes with Ink')
  expect(((await maker.edit()).finishes as Finish[]).map((f) => f.visible)).toEqual([true, true])
  await maker.press('Keep these as a set')
  await maker.field('Name of the set', 'Poster')
  expect(await maker.edit()).toEqual({ kind: 'keep set', layer: layer(maker, 'Leap 2').id, called: 'Poster' })
  await page.getByLabelText('Put these finishes on others').selectOptions('Leap 3')
  const to = [layer(maker, 'Leap 3').id]
  expect(await maker.edit()).toEqual({ kind: 'dress like', layer: layer(maker, 'Leap 2').id, to })
})

test('a layer is looked at alone, hidden, locked and named where it stands', async () => {
  const maker = await opened()
  const lane = page.elementLocator(one('[data-layer="Leap 2"]'))
  const { id } = layer(maker, 'Leap 2')
  await lane.hover()
  await lane.getByRole('button', { name: 'Look at Leap 2 alone' }).click()
  expect(await maker.edit()).toMatchObject({ kind: 'change layer', layer: id, solo: true })
  await lane.getByRole('button', { name: 'Look at more than Leap 2' }).click()
  expect(await maker.edit()).toMatchObject({ layer: id, solo: false })
  await lane.getByRole('button', { name: 'Hide Leap 2' }).click()
  expect(await maker.edit()).toMatchObject({ layer: id, visible: false })
  await lane.getByRole('button', { name: 'Show Leap 2' }).click()
  expect(await maker.edit()).toMatchObject({ layer: id, visible: true })
  await lane.getByRole('button', { name: 'Lock Leap 2' }).click()
  expect(await maker.edit()).toMatchObject({ layer: id, locked: true })
  await lane.getByRole('button', { name: 'Unlock Leap 2' }).click()
  await maker.edit()
  await lane.getByRole('button', { name: /^Layer name: Leap 2/ }).dblClick()
  await maker.field('Layer name', 'Second leap')
  expect(await maker.edit()).toMatchObject({ layer: id, name: 'Second leap' })
  await expect.poll(() => document.querySelectorAll('[data-layer="Second leap"]').length).toBe(1)
})

test('a cutout is drawn larger, turned and moved by its handles on the picture', async () => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.toFrame(70)
  await expect.poll(() => document.querySelectorAll('[data-testid=handles] [data-grip=anchor]').length).toBe(1)
  const grip = (name: string, n = 0) =>
    middle(document.querySelectorAll(`[data-testid=handles] [data-grip=${name}]`)[n]!)
  const [ax, ay] = grip('anchor')
  // A corner drawn half as far again from the anchor makes it half as large again.
  const [x, y] = grip('scale')
  await maker.drag([x, y], [ax + (x - ax) * 1.5, ay + (y - ay) * 1.5])
  const grown = await maker.edit()
  expect(grown).toMatchObject({ kind: 'set value', layer: layer(maker, 'Leap 2').id, channel: 'scale', frame: 70 })
  expect((grown.value as number[])[0]).toBeCloseTo(1.5, 1)
  // Outside a corner it turns; by a quarter, with Shift in steps of fifteen degrees.
  const [tx, ty] = grip('turn', 1)
  await userEvent.keyboard('{Shift>}')
  await maker.drag([tx, ty], [ax - (ty - ay), ay + (tx - ax)])
  await userEvent.keyboard('{/Shift}')
  expect(await maker.edit()).toMatchObject({ channel: 'rotation', value: [90] })
  // Alt and arrows nudge.
  await userEvent.keyboard('{Alt>}{ArrowRight}{/Alt}')
  expect(await maker.edit()).toMatchObject({ kind: 'set value', channel: 'position', value: [1, 0] })
})

test("a span's end is dragged, and only where it is let go of", async () => {
  const maker = await opened()
  const end = page.getByRole('slider', { name: 'End of Leap 3' })
  const [x, y] = middle(end.element())
  await commands.mouse([x, y], 'down', [x - 60, y, 8])
  await maker.settled()
  expect(maker.server.edits).toEqual([])
  await commands.mouse('up')
  const edit = await maker.edit()
  expect(edit).toMatchObject({ kind: 'change layer', layer: layer(maker, 'Leap 3').id })
  const { end: was, start } = maker.server.view.places[layer(maker, 'Leap 3').id]!
  expect(edit.until).toBeGreaterThan(start!)
  expect(edit.until).toBeLessThan(was! - 5)
})

test('the night theme stays', async () => {
  const maker = await arrived()
  await maker.press('Night theme')
  expect(document.documentElement.className).toBe('dark')
  expect(Object.values({ ...localStorage })).toContain('dark')
  await maker.press('Day theme')
  expect(document.documentElement.className).not.toBe('dark')
})

test('a project is duplicated, deleted, restored and deleted for good', async () => {
  const maker = await arrived((server) => {
    const [own] = server.known('GET /api/projects') as [{ id: string; name: string }]
    const two = { ...own, id: 'f'.repeat(16), name: 'Gull Point relay 2' }
    let [listed, deleted] = [[own] as object[], [] as object[]]
    server.answers('GET /api/projects', () => listed)
    server.answers('GET /api/deleted-projects', () => deleted)
    server.answers(`POST /api/projects/${own.id}/duplicate`, () => ((listed = [own, two]), server.view))
    server.answers(
      `DELETE /api/projects/${two.id}`,
      () => (([listed, deleted] = [[own], [{ ...two, deleted: '2026-11-28T12:00:00Z' }]]), {}),
    )
    server.answers(`POST /api/projects/${two.id}/restore`, () => (([listed, deleted] = [[own, two], []]), {}))
    server.answers(`DELETE /api/deleted-projects/${two.id}`, () => ((deleted = []), {}))
  })
  await maker.press('Duplicate Gull Point relay')
  await maker.press('Delete Gull Point relay 2')
  await maker.press('Deleted (1)')
  await maker.press('Restore Gull Point relay 2')
  await expect.element(page.getByRole('button', { name: 'Deleted (1)' })).not.toBeInTheDocument()
  await maker.press('Delete Gull Point relay 2')
  await maker.press('Delete for good: Gull Point relay 2')
  await expect.element(page.getByRole('button', { name: 'Deleted (1)' })).not.toBeInTheDocument()
  await expect.element(page.getByRole('button', { name: 'Open Gull Point relay 2' })).not.toBeInTheDocument()
})

test('what is refused is said, and the page shows what there is', async () => {
  const maker = await opened((server) => {
    server.answers(
      `POST /api/projects/${server.project}/edits`,
      () => new Refusal('Leap 2 is locked. Unlock it first.'),
    )
  })
  await maker.choose('Leap 2')
  await maker.step('Fly')
  await maker.field('Turn', 30)
  await expect.element(page.getByText('Leap 2 is locked. Unlock it first.')).toBeVisible()
  await expect.element(page.getByLabelText('Turn', { exact: true })).toHaveValue('0')
})

test('layers cannot be sent while none is chosen', async () => {
  const maker = await opened((server) => {
    server.answers(
      `POST /api/projects/${server.project}/exports`,
      () => new Refusal('Choose layers again: none is there.'),
    )
  })
  await maker.step('Send')
  await page.getByText('Layers', { exact: true }).click()
  await userEvent.keyboard('{Escape}')
  await expect.element(page.getByText('Choose a layer or a group in the sky.')).toBeVisible()
  await page.getByRole('button', { name: 'Send', exact: true }).last().click()
  await expect.element(page.getByText('Choose layers again', { exact: false }).first()).toBeVisible()
})

/** Drags an element over others by the browser's own dragging, and lets go over the last of them. */
function carry(from: Element, ...over: { on: Element; x: number; y: number }[]): void {
  const dataTransfer = new DataTransfer()
  const happens = (what: string, on: Element, x = 0, y = 0) =>
    on.dispatchEvent(
      new DragEvent(what, {
        bubbles: true,
        cancelable: true,
        dataTransfer,
        clientX: x,
        clientY: y,
        relatedTarget: null,
      }),
    )
  happens('dragstart', from)
  for (const { on, x, y } of over) happens('dragover', on, x, y)
  const last = over.at(-1)!
  happens('drop', last.on, last.x, last.y)
  happens('dragend', from)
}

test('what lies on the shelf is dragged to where it goes, or put at the playhead', async () => {
  const music = { id: 'ab'.repeat(8), kind: 'sound', name: 'Tune', file: 'cd'.repeat(32), seconds: 20 }
  const maker = await opened(
    (server) => (server.view.assets = { [music.id]: { ...music, width: 0, height: 0 } as never }),
  )
  await userEvent.keyboard('s')
  const shot = document.querySelector('[data-shot]')
  const tune = one('[data-asset="Tune"]')
  const id = Object.values(maker.server.view.shots).find((s) => s.name === shot!.getAttribute('data-shot'))!.id
  const sky = one('[data-testid=sky]')
  const ground = one('[data-ground]')
  const box = ground.getBoundingClientRect()
  const length = maker.server.view.length
  const [lane, place] = [one('[data-layer="Leap 2"] [data-span]').getBoundingClientRect(), maker.server.view.places]
  const { start, end } = place[layer(maker, 'Leap 2').id] as unknown as { start: number; end: number }
  const x = (frame: number) => lane.x + (frame - start) * (lane.width / (end - start))

  carry(shot!, { on: ground, x: x(length - 2), y: box.y + 40 })
  expect(await maker.edit()).toEqual({ kind: 'add ground', shot: id, at: 1 })
  carry(shot!, { on: ground, x: x(2), y: box.y + 40 })
  expect(await maker.edit()).toEqual({ kind: 'add ground', shot: id, at: 0 })

  carry(shot!, { on: sky, x: x(50), y: lane.y + 10 })
  const put = await maker.edit()
  expect(put).toMatchObject({ kind: 'add layer', above: layer(maker, 'Leap 2').id, source: { kind: 'take', shot: id } })
  expect(Math.abs((put.at as number) - 50)).toBeLessThan(8)

  carry(tune, { on: sky, x: x(50), y: lane.y + 10 })
  expect(await maker.edit()).toMatchObject({ kind: 'add cue', tie: { item: null, layer: null } })

  await maker.toFrame(31)
  await userEvent.dblClick(tune.querySelector('svg')!)
  expect(await maker.edit()).toMatchObject({ kind: 'add cue', tie: { offset: 31 } })
  await userEvent.dblClick(shot!.querySelector('p')!)
  expect(await maker.edit()).toMatchObject({ kind: 'add ground', shot: id })
})

test('a picture that covers somebody is put behind them at one press', async () => {
  const logo = {
    id: 'ab'.repeat(8),
    kind: 'picture',
    name: 'Logo',
    file: 'cd'.repeat(32),
    width: 90,
    height: 60,
    seconds: 0,
  }
  const maker = await opened((server) => (server.view.assets = { [logo.id]: logo as never }))
  await userEvent.keyboard('s')
  const [first] = maker.server.view.layer_order!
  const { name } = maker.server.view.layers[first!]!
  await maker.toFrame(maker.server.view.places[first!]!.start! + 1)
  await userEvent.dblClick(one('[data-asset="Logo"] p'))
  const { layer } = (await maker.edit()) as { layer: string }
  await expect.element(page.getByText(`Added lies in front of ${name}.`)).toBeVisible()
  await maker.press('Put it behind')
  expect(await maker.edit()).toEqual({ kind: 'move layer', layers: [layer], group: null, to: 0 })
})

test('while it is dragged it is shown where it would go', async () => {
  await opened()
  await userEvent.keyboard('s')
  const shot = document.querySelector('[data-shot]')!
  const [ground, sky] = [one('[data-ground]'), one('[data-testid=sky]')]
  const dataTransfer = new DataTransfer()
  const happens = (what: string, on: Element) =>
    on.dispatchEvent(
      new DragEvent(what, {
        bubbles: true,
        cancelable: true,
        dataTransfer,
        clientX: 700,
        clientY: sky.getBoundingClientRect().y + 20,
      }),
    )
  happens('dragstart', shot)
  for (const on of [sky, ground]) {
    happens('dragover', on)
    await expect.poll(() => on.contains(document.querySelector('[data-testid=landing]'))).toBe(true)
    expect(one('[data-testid=landing]').textContent).toBe(shot.getAttribute('data-shot'))
  }
  happens('dragend', shot)
  await expect.poll(() => document.querySelectorAll('[data-testid=landing]').length).toBe(0)
})

test('files that are dropped on the list become a new piece', async () => {
  const asked: unknown[] = []
  const maker = await arrived((server) => {
    server.answers('POST /api/projects', (body) => (asked.push(body), server.view))
  })
  const dataTransfer = new DataTransfer()
  dataTransfer.items.add(new File([new Uint8Array(4)], 'Dune run, take 3.mov'))
  const main = document.querySelector('main')!
  for (const what of ['dragover', 'drop'])
    main.dispatchEvent(new DragEvent(what, { bubbles: true, cancelable: true, dataTransfer }))
  await expect.element(page.getByTestId('picture')).toBeVisible()
  expect(asked).toEqual([{ name: 'Dune run, take 3' }])
  expect(maker.server.edits).toEqual([])
})

test('what the pointer rests on says what it does, one at a time, within the window', async () => {
  await opened()
  const tips = () => document.querySelectorAll('[role=tooltip]')
  await userEvent.hover(page.getByRole('button', { name: 'Shelf' }))
  await expect.poll(() => tips().length).toBe(1)
  expect(one('[role=tooltip]').textContent).toContain('helf')
  expect(document.querySelectorAll('[aria-describedby=hint]').length).toBe(1)
  await userEvent.hover(page.getByRole('button', { name: 'Night theme' }))
  await expect.poll(() => tips()[0]?.textContent).toContain('ight')
  const box = one('[role=tooltip]').getBoundingClientRect()
  expect(box.right).toBeLessThanOrEqual(innerWidth)
  expect(tips().length).toBe(1)
  await userEvent.keyboard('{Escape}')
  await expect.poll(() => tips().length).toBe(0)
})
