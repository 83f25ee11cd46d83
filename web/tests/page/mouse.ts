import '@vitest/browser-playwright'
import type { BrowserCommand } from 'vitest/node'

/** A step of the mouse: to a place of the page (in so many movements), down, up, or its wheel by so many pixels. */
export type Step = [number, number, number?] | 'down' | 'up' | { wheel: number }

declare module 'vitest/browser' {
  interface BrowserCommands {
    /** Moves and presses the real mouse. */
    mouse: (...steps: Step[]) => Promise<void>
  }
}

/** The real mouse, in the coordinates of the page that is tested, which lies in a frame. */
export const mouse: BrowserCommand<Step[]> = async ({ page, iframe }, ...steps) => {
  const around = await iframe.owner().boundingBox()
  const [left, top] = [around?.x ?? 0, around?.y ?? 0]
  for (const step of steps) {
    if (step === 'down') await page.mouse.down()
    else if (step === 'up') await page.mouse.up()
    else if ('wheel' in step) await page.mouse.wheel(0, step.wheel)
    else await page.mouse.move(left + step[0], top + step[1], { steps: step[2] ?? 1 })
  }
}
