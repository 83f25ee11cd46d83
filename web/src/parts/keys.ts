/** Where a key works: everywhere, or only while the frame that is carved has the focus. */
type Where = 'everywhere' | 'carve'

interface Key {
  /** Presses as `pressOf` writes them. */
  press: string[]
  /** How it is written for a person, where that is not the first press. */
  shown?: string
  /** Its line on the sheet; keys with the same line share it. */
  line: string
  where?: Where
}

const carve = (press: string | string[], line: string, shown?: string): Key => ({
  press: [press].flat(),
  line: `In Carve: ${line}`,
  shown,
  where: 'carve',
})
const tools = (press: string) => carve(press, 'points, pen, oval, box, lasso, cling line')
const marks = (press: string) => carve(press, 'keep and drop marks, rub marks out; [ and ] change the brush')
const looks = (press: string) => carve(press, 'the scene while held, before and after, ghosts, loupe')

/** All keys there are, by what they do. What runs them, the tooltips and the sheet go by this table. */
export const KEYS = {
  play: { press: ['Space'], line: 'Play and stop' },
  back: { press: ['ArrowLeft', 'Shift+ArrowLeft'], shown: '←', line: 'One frame back or on; Shift for ten' },
  on: { press: ['ArrowRight', 'Shift+ArrowRight'], shown: '→', line: 'One frame back or on; Shift for ten' },
  first: { press: ['Home'], line: 'First and last frame' },
  last: { press: ['End'], line: 'First and last frame' },
  step: { press: ['1', '2', '3', '4', '5', '6'], shown: '1 … 6', line: 'Catch, Carve, Fly, Dress, Sound, Send' },
  flag: { press: ['F'], line: 'Flag the frame on screen' },
  momentBefore: { press: [','], line: 'The flagged frame before and after this one' },
  momentAfter: { press: ['.'], line: 'The flagged frame before and after this one' },
  hold: { press: ['H'], line: 'Hold the frame on screen' },
  split: { press: ['X'], line: 'Cut the ground in two at the playhead' },
  stand: { press: ['T'], line: 'Have everything stand still at the playhead' },
  shelf: { press: ['S'], line: 'Open and close the shelf' },
  remove: { press: ['Delete'], line: 'Remove what is selected: points, a key, layers, footage' },
  letGo: { press: ['Escape'], line: 'Let go: drop a path being drawn, clear the selection' },
  undo: { press: ['Ctrl+Z'], line: 'Undo, redo' },
  redo: { press: ['Ctrl+Shift+Z'], line: 'Undo, redo' },
  duplicate: { press: ['Ctrl+D'], line: 'Duplicate the layers, or what is chosen in the ground' },
  copy: {
    press: ['Ctrl+C'],
    line: 'Copy layers and put them down; with a key chosen: all its layer’s keys; in Carve: pieces',
  },
  paste: {
    press: ['Ctrl+V'],
    line: 'Copy layers and put them down; with a key chosen: all its layer’s keys; in Carve: pieces',
  },
  group: { press: ['N'], line: 'Make a group of the chosen layers' },
  guides: { press: ['Y'], line: 'Show and hide what the buttons of phone apps cover' },
  nudge: {
    press: ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown'].flatMap((a) => [`Alt+${a}`, `Alt+Shift+${a}`]),
    shown: 'Alt+arrows',
    line: 'Nudge the cutout by a pixel; Shift for ten',
  },
  points: tools('J'),
  pen: tools('P'),
  oval: tools('O'),
  box: tools('B'),
  lasso: tools('L'),
  cling: tools('C'),
  keep: marks('K'),
  drop: marks('D'),
  rubber: marks('E'),
  pan: carve('M', 'pan, mend the plate'),
  mend: carve('T', 'pan, mend the plate'),
  bare: looks('W'),
  divide: looks('A'),
  ghosts: looks('G'),
  loupe: looks('Z'),
  holdBefore: carve(',', 'the hold before and after this one'),
  holdAfter: carve('.', 'the hold before and after this one'),
  whole: carve('0', 'the whole frame, the subject'),
  subject: carve('9', 'the whole frame, the subject'),
  zoomIn: carve(['+', '='], 'zoom in and out, or the wheel'),
  zoomOut: carve('-', 'zoom in and out, or the wheel', '−'),
  sheet: { press: ['?'], line: 'This sheet' },
} satisfies Record<string, Key>

export type Does = keyof typeof KEYS

const entries = Object.entries(KEYS) as [Does, Key][]

/** A key that is pressed, with what is held besides: "Ctrl+Shift+Z", "Alt+ArrowLeft", "F". */
export function pressOf(e: {
  key: string
  ctrlKey: boolean
  metaKey: boolean
  altKey: boolean
  shiftKey: boolean
}): string {
  const named = e.key === ' ' ? 'Space' : e.key.length === 1 ? e.key.toUpperCase() : e.key
  const sign = e.key.length === 1 && e.key !== ' ' && e.key.toUpperCase() === e.key.toLowerCase()
  const held = [(e.ctrlKey || e.metaKey) && 'Ctrl', e.altKey && 'Alt', e.shiftKey && !sign && 'Shift']
  return [...held.filter(Boolean), named].join('+')
}

/** What a press does at a place, if anything. */
export function doesAt(press: string, where: Where): Does | undefined {
  return entries.find(([, key]) => (key.where ?? 'everywhere') === where && key.press.includes(press))?.[0]
}

/** How a key is written. */
function shown(does: Does): string {
  const key: Key = KEYS[does]
  return key.shown ?? key.press[0]!
}

/** What a control does, with its key behind it, for a tooltip. */
export function withKey(text: string, does: Does): string {
  return `${text} (${shown(does)})`
}

/** The sheet: the keys of each line, and what they do. */
export function sheet(): [string, string][] {
  const lines = new Map<string, string[]>()
  for (const [does, key] of entries) lines.set(key.line, [...(lines.get(key.line) ?? []), shown(does)])
  return [
    ...[...lines].map(([line, keys]): [string, string] => [
      keys.join(keys.every((k) => k.length === 1) ? ' ' : ', '),
      line,
    ]),
    ['Enter', 'In Carve: close the path; with the pen by keyboard, set a point'],
    ['Ctrl+wheel', 'In sky and ground: zoom time'],
    ['Ctrl, Shift, drag', 'In the sky: choose one more layer, all between, all in a box'],
    ['Space+drag', 'In Carve: pan'],
  ]
}

/** What two keys do, as a sentence. */
export function keyHint(one: Does, other: Does, what: string): string {
  return `${shown(one)} and ${shown(other)} ${what}.`
}
