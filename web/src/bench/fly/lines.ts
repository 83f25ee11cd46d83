import type { GroundItem, Key, Layer, MotionView, OwnerMotion } from '../../api/client'

/** One number that changes over time, as it is drawn. */
export interface Line {
  id: string
  owner: string
  layer: boolean
  channel: string
  /** Which of the channel's numbers. */
  index: number
  label: string
  unit: string
  /** What its values are multiplied by to be shown. */
  by: number
  first: number
  step: number
  amount: number[]
  pace: number[]
  keys: { key: Key; frame: number }[]
  /** The lowest and the highest that is drawn of it, in its own measure. */
  range: [number, number]
  still: boolean
}

const NAMES: Record<string, { labels: string[]; unit: string; by: number }> = {
  position: { labels: ['across', 'down'], unit: 'px', by: 1 },
  across: { labels: ['across'], unit: 'px', by: 1 },
  down: { labels: ['down'], unit: 'px', by: 1 },
  scale: { labels: ['scale'], unit: '%', by: 100 },
  width: { labels: ['width'], unit: '%', by: 100 },
  height: { labels: ['height'], unit: '%', by: 100 },
  rotation: { labels: ['turn'], unit: '°', by: 1 },
  shear: { labels: ['shear'], unit: '°', by: 1 },
  anchor: { labels: ['anchor across', 'anchor down'], unit: 'px', by: 1 },
  opacity: { labels: ['opacity'], unit: '%', by: 100 },
  'framing.across': { labels: ['across'], unit: '%', by: 100 },
  'framing.down': { labels: ['down'], unit: '%', by: 100 },
  'framing.scale': { labels: ['size'], unit: '%', by: 100 },
  'framing.turn': { labels: ['turn'], unit: '°', by: 1 },
}

/** All numbers of some layers and ground items that have keys. */
export function linesOf(motion: MotionView | null, owners: (Layer | GroundItem)[], pace: boolean): Line[] {
  const found = new Map(owners.map((o) => [o.id, o]))
  return (motion?.owners ?? []).flatMap((m) => {
    const owner = found.get(m.id)
    if (!owner) return []
    const several = owners.length > 1 && 'name' in owner ? `${owner.name}: ` : ''
    return m.motion.curves.flatMap((curve) => {
      const named = NAMES[curve.channel]
      const title = curve.title.toLowerCase()
      // Three numbers are a colour.
      const colour = (curve.amount[0]?.length ?? 1) === 3
      const labels = named?.labels ?? (colour ? ['red', 'green', 'blue'].map((c) => `${title}, ${c}`) : [title])
      const all = labels.map((label, index) => line(m, owner, curve, index, `${several}${label}`, named, pace))
      // Of a value of two numbers, the one that never changes is not worth a line.
      const moving = all.filter((l) => !l.still)
      return moving.length ? moving : all.slice(0, 1)
    })
  })
}

function line(
  m: OwnerMotion,
  owner: Layer | GroundItem,
  curve: OwnerMotion['motion']['curves'][number],
  index: number,
  label: string,
  named: { unit: string; by: number } | undefined,
  pace: boolean,
): Line {
  const amount = curve.amount.map((v) => v[index] ?? 0)
  const speeds = curve.pace.map((v) => v[index] ?? 0)
  const drawn = pace ? speeds : amount
  const keys = owner.keys.filter((k) => k.channel === curve.channel && m.keys[k.id] !== undefined)
  const all = pace ? [...drawn, 0] : [...drawn, ...keys.map((k) => k.value[index] ?? 0)]
  const [low, high] = [Math.min(...all), Math.max(...all)]
  const still = high - low < 1e-6
  const room = still ? 1 : (high - low) * 0.12
  return {
    id: `${m.id}:${curve.channel}:${index}`,
    owner: m.id,
    layer: 'arrangement' in owner,
    channel: curve.channel,
    index,
    label,
    unit: named?.unit ?? '',
    by: named?.by ?? 1,
    first: m.motion.first,
    step: m.motion.step,
    amount,
    pace: speeds,
    keys: keys.map((key) => ({ key, frame: m.keys[key.id]! })).sort((a, b) => a.frame - b.frame),
    range: [low - room, high + room],
    still,
  }
}

/** The value of a line at a frame, in its own measure. */
export function valueAt(line: Line, frame: number, pace = false): number {
  const values = pace ? line.pace : line.amount
  const at = Math.max(0, Math.min(values.length - 1, (frame - line.first) / line.step))
  const [a = 0, b = a] = [values[Math.floor(at)], values[Math.ceil(at)]]
  return a + (b - a) * (at % 1)
}

/** So much for one of a channel's numbers, nothing for those before it. */
export const only = (index: number, by: number) => [...Array<number>(index).fill(0), by]

type Owned = { layer?: string; item?: string; keys: string[] }

/** Chosen keys by what they belong to, as edits of many keys name them. */
export function owned(owners: (Layer | GroundItem)[], keys: string[]): Owned[] {
  const chosen = new Set(keys)
  return owners.flatMap((o): Owned[] => {
    const own = o.keys.filter((k) => chosen.has(k.id)).map((k) => k.id)
    return own.length ? [{ [('arrangement' in o ? 'layer' : 'item') as 'layer']: o.id, keys: own }] : []
  })
}
