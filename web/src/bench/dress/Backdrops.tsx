import { SimpleGrid } from '@chakra-ui/react'
import type { Edit, Layer } from '../../api/client'
import { Filling, Tile } from '../../parts/Tile'
import { useCatalog } from '../../parts/useCatalog'
import { useTrial } from '../../parts/useTrial'
import { useOf } from '../../shell/store'

/** All backdrops, as they come: resting on one shows it in the picture, a press puts it in the place of what is there. */
export function Backdrops({ owner }: { owner: Layer }) {
  const { edit } = useOf('edit')
  const { rest, leave } = useTrial(owner.id)
  const kinds = (useCatalog()?.sources ?? []).filter((s) => s.looks === 'backdrop')
  const set = (kind: string) => (): Edit => ({
    kind: 'change layer',
    layer: owner.id,
    clear: [],
    source: { kind } as Layer['source'],
  })
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
          picture={<Filling src={`/api/backdrops/${k.kind}.jpg`} />}
          onPick={() => k.kind !== owner.source.kind && void edit(set(k.kind))}
          onRest={() => k.kind !== owner.source.kind && rest(set(k.kind))}
          onLeave={leave}
        />
      ))}
    </SimpleGrid>
  )
}
