import type { Edit, Finish, GroundItem, Layer } from '../api/client'
import { useStudio } from '../store'

export type Owner = Layer | GroundItem

/** Whether a thing lies in the ground. */
export const lies = (owner: Owner): owner is GroundItem => !('arrangement' in owner)

/** What can be done with what a thing shows, as its source says. */
type Ability = 'gathers' | 'washes' | 'stands' | 'worded' | 'cut' | 'filmed' | 'penned' | 'located'

/** Whether its source can do that. It follows from the source alone. */
export function can(owner: Owner, what: Ability): boolean {
  const { view } = useStudio.getState()
  const told = lies(owner) ? view?.items.find((i) => i.id === owner.id) : view?.layers[owner.id]
  return told?.can.includes(what) ?? false
}

/** What finishes it can wear: those for an edge, or those for what covers the canvas. */
export const targetOf = (owner: Owner) => (lies(owner) || can(owner, 'washes') ? 'ground' : 'cutout')

/** How edits name a thing. */
export const named = (owner: Owner) => (lies(owner) ? { item: owner.id } : { layer: owner.id })

/** A layer or ground item as it is by now: an edit that waits for others goes by what they have made of it. */
export function newest(owner: Owner): Owner {
  const project = useStudio.getState().view?.project
  const all: Owner[] = (lies(owner) ? project?.ground : project?.layers) ?? []
  return all.find((x) => x.id === owner.id) ?? owner
}

/** The edit that makes other finishes of those there are when its turn comes. */
export function changing(owner: Owner, make: (finishes: Finish[]) => Finish[]) {
  return (): Edit => {
    const now = newest(owner)
    const finishes = make(now.finishes)
    return lies(now)
      ? { kind: 'change ground', item: now.id, finishes }
      : { kind: 'change layer', layer: now.id, finishes, clear: [] }
  }
}
