import type { FocusEvent, KeyboardEvent, MouseEvent } from 'react'

const BACK = new Set(['ArrowLeft', 'ArrowUp'])
const ON = new Set(['ArrowRight', 'ArrowDown'])

/**
 * The arrows of a group of radios: they go to the one before or after and choose it, from the last
 * on to the first (WAI-ARIA Authoring Practices, radio group).
 */
function byArrows(e: KeyboardEvent<HTMLElement>): void {
  if (!(BACK.has(e.key) || ON.has(e.key)) || e.ctrlKey || e.metaKey || e.altKey) return
  const all = [...e.currentTarget.querySelectorAll<HTMLElement>('[role=radio]:not([aria-disabled=true])')]
  const at = all.indexOf(document.activeElement as HTMLElement)
  // Whoever has pressed one with the pointer goes on stepping through frames with the arrows.
  if (at < 0 || e.currentTarget.dataset.pointed) return
  e.preventDefault()
  e.stopPropagation()
  const next = all.at((at + (ON.has(e.key) ? 1 : -1)) % all.length)!
  next.focus()
  next.click()
}

/** What a group of radios does. */
export const radios = {
  onKeyDown: byArrows,
  onClick: (e: MouseEvent<HTMLElement>) => {
    if (e.detail > 0) e.currentTarget.dataset.pointed = 'yes'
  },
  onBlur: (e: FocusEvent<HTMLElement>) => {
    if (!e.currentTarget.contains(e.relatedTarget)) delete e.currentTarget.dataset.pointed
  },
}

/** Whether the tab key comes to the `n`-th radio of a group, of which one is `chosen` (−1: none). */
export const tabStop = (n: number, chosen: number): 0 | -1 => (n === Math.max(0, chosen) ? 0 : -1)
