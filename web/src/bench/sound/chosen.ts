import type { GroundItem } from '../../api/client'
import type { View } from '../../api/view'
import { useOf } from '../../store'

/** The sound that is shaped: a cue, or the own sound of an item of the ground. */
export interface Chosen {
  name: string
  cue?: View['project']['cues'][number]
  item?: GroundItem
}

/** The cue that is chosen; else the item of the ground that is, or that is at the playhead, if it has sound. */
export function useSounding(): Chosen | null {
  const { view, cue, item, settled } = useOf('view', 'cue', 'item', 'settled')
  const found = view!.project.cues.find((c) => c.id === cue)
  if (found) return { name: found.name, cue: found }
  const place =
    view!.items.find((i) => i.id === item) ??
    view!.items.find((i) => i.start <= settled && settled < i.start + i.length)
  const own = view!.project.ground.find((g) => g.id === place?.id)
  if (!own || !place?.shot || !view!.shots[place.shot]?.has_sound) return null
  return { name: place.name, item: own }
}
