import type { Matte } from '../../api/client'
import type { Point } from './path'

/** What every tool is given to work with. */
export interface Table {
  matte: Matte
  /** Screen pixels for each source pixel. */
  scale: number
  /** Whether two source points are closer than so many screen pixels. */
  near: (a: Point, b: Point, px: number) => boolean
  /** Shows a matte without making it an edit. */
  show: (matte: Matte) => void
  commit: (matte: Matte) => Promise<boolean>
}

export interface Press {
  shift: boolean
  alt: boolean
}

/** A tool in the hand: what it does when pressed, moved, let go, double-clicked, or sent a key (true if it used it). */
export interface Hand {
  down: (p: Point, press: Press) => void
  move: (p: Point, press: Press) => void
  up: (p: Point, press: Press) => void
  double?: (p: Point) => void
  key?: (key: string, dx: number, dy: number) => boolean
}
