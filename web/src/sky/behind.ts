import { useStudio } from '../store'

/** Says that something that was just added lies in front of who is there at that frame, and offers to put it behind. */
export function offerBehind(id: string, frame: number): void {
  const { view, say, edit } = useStudio.getState()
  const added = view?.project.layers.find((l) => l.id === id)
  if (!view || !added) return
  const beside = view.project.layers.filter((l) => l.group === added.group)
  const there = (layer: string) => {
    const { start, end, hold } = view.layers[layer] ?? {}
    return hold && start != null && end != null && start <= frame && frame < end
  }
  const lowest = beside.findIndex((l) => there(l.id))
  if (lowest < 0 || lowest > beside.indexOf(added)) return
  const behind = { kind: 'move layer' as const, layers: [id], group: added.group ?? null, to: lowest }
  say(`${added.name} lies in front of ${beside[lowest]!.name}.`, 'info', () => void edit(behind), 'Put it behind')
}
