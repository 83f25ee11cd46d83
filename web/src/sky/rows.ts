import type { Layer, View } from '../api/client'

/** A lane of the sky: a layer, how deep in groups it lies, and whether it is a group that shows its members. */
export interface Row {
  layer: Layer
  depth: number
  open: boolean
}

/** A group of more than so many is folded to begin with, as a card is. */
const OPEN = 3

/**
 * The lanes from the nearest to the farthest; below a group that is open lie its members. `turned`: groups that somebody
 * has folded that were open to begin with, or the other way round. What is `chosen` is always seen.
 */
export function rowsOf(view: View, turned: Set<string>, chosen: string | null = null): Row[] {
  const members = new Map<string | null, Layer[]>()
  for (const layer of view.project.layers) {
    const group = layer.group ?? null
    members.set(group, [...(members.get(group) ?? []), layer])
  }
  // The groups that what is chosen belongs to.
  const around = new Set<string>()
  let at = view.project.layers.find((l) => l.id === chosen)?.group
  while (at && !around.has(at)) {
    around.add(at)
    at = view.project.layers.find((l) => l.id === at)?.group
  }
  const rows: Row[] = []
  const add = (group: string | null, depth: number) => {
    for (const layer of [...(members.get(group) ?? [])].reverse()) {
      const inside = members.get(layer.id) ?? []
      const gathers = Boolean(view.layers[layer.id]?.gathers)
      const open = gathers && (inside.length <= OPEN !== turned.has(layer.id) || around.has(layer.id))
      rows.push({ layer, depth, open })
      if (open) add(layer.id, depth + 1)
    }
  }
  add(null, 0)
  return rows
}

/**
 * Where layers come to lie that are carried so many lanes down from a lane (or up): the group, and how many of its
 * layers lie below them then.
 */
export function dropAt(
  rows: Row[],
  moved: string[],
  from: number,
  by: number,
  gathers: (layer: string) => boolean,
): { group: string | null; to: number } {
  const left = rows.filter((r) => !moved.includes(r.layer.id))
  const beside = (group: string | null) => left.filter((r) => (r.layer.group ?? null) === group).reverse()
  const middle = from + by + 0.5
  const row = Math.floor(middle)
  const over = rows[row]
  if (over && !moved.includes(over.layer.id) && gathers(over.layer.id)) {
    // The middle of a group's own lane is the way into it.
    const part = middle - row
    if (part > 0.3 && part < 0.7) return { group: over.layer.id, to: beside(over.layer.id).length }
  }
  const edge = Math.round(from + by) + (by > 0 ? 1 : 0)
  const below = rows.slice(Math.max(0, edge)).find((r) => !moved.includes(r.layer.id))
  if (!below) return { group: null, to: 0 }
  const group = below.layer.group ?? null
  const siblings = beside(group).map((r) => r.layer.id)
  return { group, to: siblings.indexOf(below.layer.id) + 1 }
}
