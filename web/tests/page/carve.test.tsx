import { expect, test } from 'vitest'
import { commands, page, userEvent } from 'vitest/browser'
import type { Found, Matte } from '../../src/api/client'
import { one, opened, type Maker } from './page'

/** Carving by hand: what the pen draws is what is asked for, in source pixels. */

type Point = [number, number]

/** Where a source pixel is on the page. */
function onStage(x: number, y: number): Point {
  const stage = one('[data-testid=carve]')
  const pan = JSON.parse(stage.dataset.pan!) as { x: number; y: number; scale: number }
  const box = stage.getBoundingClientRect()
  return [box.x + pan.x + x * pan.scale, box.y + pan.y + y * pan.scale]
}

/** The points of the piece that was drawn last, as the page asks for them; the server takes them over. */
async function drawn(maker: Maker): Promise<Point[] | null> {
  const edit = (await maker.edit()) as { kind: string; matte: Matte }
  expect(edit.kind).toBe('change matte')
  const piece = edit.matte.pieces.find((p) => p.name.startsWith('Pen'))
  return piece && 'nodes' in piece ? piece.nodes.map((n) => [n.x, n.y]) : null
}

const near = (found: Point[] | null, n: number, [x, y]: Point) => {
  expect(Math.abs(found![n]![0] - x)).toBeLessThan(2.5)
  expect(Math.abs(found![n]![1] - y)).toBeLessThan(2.5)
}

const without = (matte: Matte, id: string) => matte.pieces.filter((p) => p.id !== id)

async function carving(): Promise<Maker> {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step('Carve')
  await expect.element(page.getByTestId('carve')).toBeVisible()
  await maker.press('Whole frame')
  one('[data-testid=carve]').focus()
  await userEvent.keyboard('p')
  // From the middle: four points of a box, set with arrows and X, closed with Enter.
  for (const [key, times] of Object.entries({ ArrowLeft: 6, ArrowUp: 8, ArrowRight: 12, ArrowDown: 16 })) {
    await userEvent.keyboard('{Shift>}' + `{${key}}`.repeat(times) + '{/Shift}x')
  }
  await userEvent.keyboard('{Enter}')
  return maker
}

test('a shape is drawn by keys alone', async () => {
  const maker = await carving()
  expect(await drawn(maker)).toEqual([
    [300, 640],
    [300, 560],
    [420, 560],
    [420, 720],
  ])
})

test('its points are dragged, put in, bent and taken out', async () => {
  const maker = await carving()
  await drawn(maker)
  await maker.drag(onStage(420, 720), onStage(440, 760))
  near(await drawn(maker), 3, [440, 760])
  const [x, y] = onStage(360, 560)
  const stage = one('[data-testid=carve]').getBoundingClientRect()
  await userEvent.dblClick(page.getByTestId('carve'), { position: { x: x - stage.x, y: y - stage.y } })
  const five = await drawn(maker)
  expect(five).toHaveLength(5)
  near(five, 2, [360, 560])
  // An edge is bent where it is taken hold of; its points stay.
  await maker.drag(onStage(300, 600), onStage(270, 600))
  const bent = await drawn(maker)
  near(bent, 0, [300, 640])
  near(bent, 1, [300, 560])
  await userEvent.click(page.getByTestId('carve'), { position: { x: x - stage.x, y: y - stage.y } })
  await userEvent.keyboard('{Delete}')
  expect(await drawn(maker)).toHaveLength(4)
})

test('what is under the pointer stays there while the frame is drawn larger', async () => {
  await carving()
  const at = onStage(300, 600)
  await commands.mouse(at, { wheel: -120 }, { wheel: -120 }, { wheel: -120 })
  const scale = () => (JSON.parse(one('[data-testid=carve]').dataset.pan!) as { scale: number }).scale
  await expect.poll(scale).toBeGreaterThan(0.5)
  const after = onStage(300, 600)
  expect(Math.hypot(after[0] - at[0], after[1] - at[1])).toBeLessThan(4)
})

test('few marks that may mean two things offer both', async () => {
  const maker = await opened()
  await maker.choose('Leap 2')
  await maker.step('Carve')
  await expect.element(page.getByTestId('carve')).toBeVisible()
  await maker.press('Whole frame')
  const hold = maker.server.view.places[maker.server.layer('Leap 2').id]!.hold!
  const url = `POST /api/projects/${maker.server.project}/holds/${hold}`
  const raster = (n: number, width: number) => ({ file: String(n).repeat(64), box: [300, 500, 300 + width, 700] })
  type Asked = { frame: number; piece: string; combine: string; side: 'keep' | 'drop'; mark: object }
  const [asked, others]: [Asked[], object[]] = [[], []]
  maker.server.answers(`${url}/strokes`, (body) => {
    const { piece: id, side, mark } = body as Asked
    asked.push(body as Asked)
    const { matte } = maker.server.view.holds[hold]!.hold
    const soft = { soften_in: 0, soften_out: 0, combine: 'add', invert: false, opacity: 1, visible: true, grow: 0 }
    const found = { kind: 'marks', name: 'Marks', raster: raster(1, 200), base: null, doubt: null, keep: [], drop: [] }
    const known = matte.pieces.find((p) => p.id === id) ?? ({ id, ...soft, ...found } as unknown as Found)
    const next = { ...known, [side]: [...(known as Found)[side], mark] } as Found
    const edit = { kind: 'change matte', hold, matte: { ...matte, pieces: [...without(matte, id), next] } }
    return {
      view: maker.server.ask('POST', `/api/projects/${maker.server.project}/edits`, { edit }).body,
      warnings: [],
    }
  })
  maker.server.answers(`${url}/other-outlines`, (body) => {
    others.push(body as object)
    return [raster(2, 120)]
  })
  maker.server.answers(`${url}/look-ahead`, () => null)
  const last = async () => {
    const { matte } = (await maker.edit()) as unknown as { matte: Matte }
    return matte.pieces.at(-1) as Matte['pieces'][number] & { raster: { file: string } }
  }
  one('[data-testid=carve]').focus()
  await userEvent.keyboard('k')
  await maker.drag(onStage(350, 600), onStage(380, 620))
  expect((await last()).raster.file[0]).toBe('1')
  await userEvent.keyboard('d')
  await maker.drag(onStage(100, 100), onStage(150, 200))
  await last()
  const offered = page.getByRole('radiogroup', { name: 'What your marks may mean' })
  await expect.element(offered).toBeVisible()
  // The second corrects the piece that the first made; the page asks for nothing more than that.
  expect(asked.map((a) => [a.side, a.piece, a.combine])).toEqual([
    ['keep', asked[0]!.piece, 'add'],
    ['drop', asked[0]!.piece, 'add'],
  ])
  expect(others).toEqual([{ frame: asked[0]!.frame, piece: asked[0]!.piece }])
  await offered.getByRole('radio', { name: 'Outline 2' }).click()
  expect((await last()).raster.file[0]).toBe('2')
  await expect.element(offered.getByRole('radio', { name: 'Outline 2' })).toHaveAttribute('aria-checked', 'true')
  one('[data-testid=carve]').focus()
  await userEvent.keyboard('1')
  expect((await last()).raster.file[0]).toBe('1')
  await userEvent.keyboard('{Escape}')
  await expect.element(offered).not.toBeInTheDocument()
})
