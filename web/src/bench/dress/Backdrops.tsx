import { Box, SimpleGrid, Text } from '@chakra-ui/react'
import type { Edit, Layer } from '../../api/client'
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
    <SimpleGrid columns={3} gap="2" mt="2.5">
      {kinds.map((k) => (
        <Box
          as="button"
          key={k.kind}
          aria-label={k.title}
          aria-pressed={k.kind === owner.source.kind}
          aria-disabled={owner.locked}
          title={k.hint}
          border="1px solid"
          borderColor={k.kind === owner.source.kind ? 'selected' : 'rule'}
          borderRadius="soft"
          overflow="hidden"
          bg="card"
          cursor={owner.locked ? 'default' : 'pointer'}
          onClick={() => {
            leave()
            if (!owner.locked && k.kind !== owner.source.kind) void edit(set(k.kind))
          }}
          onPointerMove={() => owner.locked || k.kind === owner.source.kind || rest(set(k.kind))}
          onPointerLeave={leave}
        >
          <Box h="78px" bg="paper">
            <img
              src={`/api/backdrops/${k.kind}.jpg`}
              alt=""
              style={{ width: '100%', height: '100%', objectFit: 'cover', display: 'block' }}
            />
          </Box>
          <Text fontSize="12px" lineHeight="20px" textAlign="left" px="1.5" truncate>
            {k.title}
          </Text>
        </Box>
      ))}
    </SimpleGrid>
  )
}
