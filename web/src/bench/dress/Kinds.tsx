import { SimpleGrid } from '@chakra-ui/react'
import type { Edit, KindView, Layer } from '../../api/client'
import { newest } from '../../parts/finishes'
import { settingsOf } from '../../parts/schema'
import { Filling, Tile } from '../../parts/Tile'
import { useCatalog } from '../../parts/useCatalog'
import { useTrial } from '../../parts/useTrial'
import { useOf } from '../../store'

/** What can take each other's place in a layer, and what a family of them is called. */
export const FAMILIES: Record<string, string> = { backdrop: 'Backdrops', shape: 'Shapes', air: 'In the air' }

/**
 * All of a family, as they come: resting on one shows it in the picture, a press puts it in the place of what is there.
 * What had been changed of that stays so, where the other one has it too.
 */
export function Kinds({ owner, family }: { owner: Layer; family: string }) {
  const { edit } = useOf('edit')
  const { rest, leave } = useTrial(owner.id)
  const sources = useCatalog()?.sources ?? []
  const kinds = sources.filter((s) => s.looks === family)
  const own = sources.find((s) => s.kind === owner.source.kind)
  const set = (to: KindView) => (): Edit => {
    const now = newest(owner).source as unknown as Record<string, unknown>
    const changed = settingsOf(own?.settings ?? {}).filter(
      (s) => JSON.stringify(now[s.name]) !== JSON.stringify(s.initial),
    )
    const kept = settingsOf(to.settings)
      .filter((s) =>
        changed.some((c) => c.name === s.name && c.sort === s.sort && c.options.length === s.options.length),
      )
      .map((s) => [s.name, now[s.name]])
    return {
      kind: 'change layer',
      layer: owner.id,
      clear: [],
      source: { kind: to.kind, ...Object.fromEntries(kept) } as unknown as Layer['source'],
    }
  }
  return (
    <SimpleGrid minChildWidth="102px" gap="2" mt="2.5">
      {kinds.map((k) => (
        <Tile
          key={k.kind}
          label={k.title}
          hint={k.hint}
          chosen={k.kind === owner.source.kind}
          disabled={owner.locked}
          h="78px"
          picture={<Filling src={`/api/samples/${k.kind}.jpg`} />}
          onPick={() => k.kind !== owner.source.kind && void edit(set(k))}
          onRest={() => k.kind !== owner.source.kind && rest(set(k))}
          onLeave={leave}
        />
      ))}
    </SimpleGrid>
  )
}
