import { serve, type Server } from './server'
import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { expect } from 'vitest'
import { commands, page, userEvent } from 'vitest/browser'
import { Profiler } from 'react'
import { createRoot, type Root } from 'react-dom/client'
import { App } from '../../src/app/App'
import { useStudio } from '../../src/store'
import { applyTheme, system } from '../../src/theme/system'

let root: Root | null = null
const unused = useStudio.getInitialState()

/** How many times something of the page was drawn. */
export const drawings = { count: 0 }

/** A maker at the page, with mouse and keyboard, over a server that knows the demo's first scene. */
export class Maker {
  constructor(readonly server: Server) {}

  /** Opens the project from the list. */
  async open(): Promise<void> {
    await page.getByRole('button', { name: 'Open Gull Point relay' }).click()
    await expect.element(page.getByTestId('picture')).toBeVisible()
  }

  async step(name: string): Promise<void> {
    await page.getByLabelText('Steps').getByRole('button', { name }).click()
  }

  /** Chooses a layer by its span in the sky. */
  async choose(layer: string, modifier?: 'Control' | 'Shift'): Promise<void> {
    const span = one(`[data-layer="${layer}"] [data-span]`)
    if (modifier) await userEvent.keyboard(`{${modifier}>}`)
    await userEvent.click(span)
    if (modifier) await userEvent.keyboard(`{/${modifier}}`)
  }

  /** Types a number or a word into a field. */
  async field(label: string, value: number | string): Promise<void> {
    await page.getByLabelText(label, { exact: true }).fill(String(value))
    await userEvent.keyboard('{Enter}')
  }

  async press(name: string | RegExp, role: 'button' | 'radio' = 'button'): Promise<void> {
    await page
      .getByRole(role, { name, exact: typeof name === 'string' })
      .first()
      .click()
  }

  /** Drags with the mouse, in twelve movements. */
  async drag(from: [number, number], to: [number, number]): Promise<void> {
    await commands.mouse(from, 'down', [...to, 12], 'up')
  }

  /** Steps to a frame with the keyboard. */
  async toFrame(frame: number): Promise<void> {
    await userEvent.keyboard('{Home}')
    await userEvent.keyboard('{Shift>}' + '{ArrowRight}'.repeat(Math.floor(frame / 10)) + '{/Shift}')
    if (frame % 10) await userEvent.keyboard('{ArrowRight}'.repeat(frame % 10))
    await expect.poll(() => one('[data-testid=picture] canvas').dataset.frame).toBe(String(frame))
  }

  /** The edit that the page asks for next, of those that a test has not seen yet. */
  async edit(): Promise<Record<string, unknown>> {
    await expect.poll(() => this.server.edits.length, { timeout: 5000 }).toBeGreaterThan(0)
    await this.settled()
    return this.server.edits.shift()!
  }

  /** Waits until all is saved. */
  async settled(): Promise<void> {
    await expect.poll(() => document.documentElement.dataset.saving).toBe('no')
  }
}

/** Waits until the page has been drawn as it is now. */
export const drawn = (): Promise<unknown> =>
  new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))

/** The one element that a selector finds. */
export function one(selector: string): HTMLElement {
  const found = document.querySelectorAll<HTMLElement>(selector)
  if (found.length !== 1) throw new Error(`${found.length} of ${selector}`)
  return found[0]!
}

/** Where the one element that a selector finds lies, once it has come to rest there: what opens finds its place late. */
export async function settledBox(selector: string): Promise<DOMRect> {
  await expect.poll(() => document.querySelectorAll(selector).length).toBe(1)
  let [before, same] = ['', 0]
  while (same < 3) {
    await drawn()
    const now = JSON.stringify(one(selector).getBoundingClientRect())
    ;[before, same] = [now, now === before ? same + 1 : 0]
  }
  return one(selector).getBoundingClientRect()
}

/** The middle of an element, on the page. */
export function middle(of: Element): [number, number] {
  of.scrollIntoView({ block: 'nearest' })
  const box = of.getBoundingClientRect()
  return [box.x + box.width / 2, box.y + box.height / 2]
}

/** The page as it is when somebody comes to it who was never there. */
export async function arrived(change: (server: Server) => void = () => undefined): Promise<Maker> {
  localStorage.clear()
  history.replaceState(null, '', location.pathname + location.search)
  const server = serve()
  change(server)
  useStudio.setState(unused, true)
  applyTheme('light')
  Object.assign(document.documentElement.dataset, { saving: 'no', version: '0' })
  document.body.style.margin = '0'
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false } } })
  root?.unmount()
  document.body.replaceChildren()
  const place = document.body.appendChild(document.createElement('div'))
  place.style.height = '100vh'
  root = createRoot(place)
  root.render(
    <Profiler id="page" onRender={() => drawings.count++}>
      <ChakraProvider value={system}>
        <QueryClientProvider client={queries}>
          <App />
        </QueryClientProvider>
      </ChakraProvider>
    </Profiler>,
  )
  await expect.element(page.getByRole('button', { name: 'Open Gull Point relay' })).toBeVisible()
  return new Maker(server)
}

/** The page with the demo's first scene open. */
export async function opened(change?: (server: Server) => void): Promise<Maker> {
  const maker = await arrived(change)
  await maker.open()
  return maker
}
