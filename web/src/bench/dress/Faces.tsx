import { Box, SimpleGrid, Text } from '@chakra-ui/react'
import type { Edit, Layer } from '../../api/client'
import { newest } from '../../parts/finishes'
import { useCatalog } from '../../parts/useCatalog'
import { useTrial } from '../../parts/useTrial'
import { useOf } from '../../shell/store'

/** The words of a layer in every face: resting on one shows it in the picture, a press takes it. */
export function Faces({ owner }: { owner: Layer }) {
  const { view, edit } = useOf('view', 'edit')
  const { rest, leave } = useTrial(owner.id)
  const faces = useCatalog()?.faces ?? []
  const source = owner.source as Extract<Layer['source'], { kind: 'lettering' }>
  const set = (face: string) => (): Edit => ({
    kind: 'change layer',
    layer: owner.id,
    clear: [],
    source: { ...newest(owner).source, face, axes: {} } as Layer['source'],
  })
  const words = encodeURIComponent(`${source.words} ${source.case}`.slice(0, 40))
  return (
    <SimpleGrid columns={2} gap="2" mt="2.5">
      {faces.map((f) => {
        const picture = `url("/api/projects/${view!.project.id}/layers/${owner.id}/faces/${f.id}.png?w=${words}")`
        const mask = `${picture} center / contain no-repeat`
        return (
          <Box
            as="button"
            key={f.id}
            aria-label={f.title}
            aria-pressed={f.id === source.face}
            aria-disabled={owner.locked}
            title={`${f.title}, ${f.sort}`}
            border="1px solid"
            borderColor={f.id === source.face ? 'selected' : 'rule'}
            borderRadius="soft"
            overflow="hidden"
            bg="card"
            cursor={owner.locked ? 'default' : 'pointer'}
            textAlign="left"
            onClick={() => {
              leave()
              if (!owner.locked && f.id !== source.face) void edit(set(f.id))
            }}
            onPointerMove={() => owner.locked || f.id === source.face || rest(set(f.id))}
            onPointerLeave={leave}
          >
            <Box h="52px" bg="paper">
              <Box h="100%" bg="ink" style={{ mask, WebkitMask: mask }} />
            </Box>
            <Text fontSize="12px" lineHeight="20px" px="1.5" truncate>
              {f.title}{' '}
              <Text as="span" color="soft">
                {f.sort}
              </Text>
            </Text>
          </Box>
        )
      })}
    </SimpleGrid>
  )
}
