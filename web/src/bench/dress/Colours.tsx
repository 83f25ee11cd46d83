import { Box, Flex, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Pipette } from 'lucide-react'
import { answer, api, type Layer } from '../../api/client'
import { Act } from '../../parts/buttons'
import { useOf } from '../../store'

/** The colours that are kept with the project, those of the clothes, and one picked from the picture. */
export function Colours({ layer }: { layer: Layer | null }) {
  const { view, edit, setPicking, picking } = useOf('view', 'edit', 'setPicking', 'picking')
  const { palette, id: project } = view!.project
  const clothes = useClothes(layer)
  const add = (colour: string) =>
    void edit(() => ({
      kind: 'set palette',
      colours: [...palette.filter((c) => c !== colour.toUpperCase()), colour].slice(-60),
    }))
  return (
    <Box data-project={project}>
      <Flex gap="1.5" wrap="wrap" mt="1">
        {palette.map((c) => (
          <Swatch
            key={c}
            colour={c}
            label={`${c}, in the palette. Press takes it out`}
            onPress={() => void edit({ kind: 'set palette', colours: palette.filter((x) => x !== c) })}
          />
        ))}
        {!palette.length && (
          <Text color="soft" fontSize="12px">
            Colours kept here are offered wherever one is chosen.
          </Text>
        )}
      </Flex>
      {clothes.length > 0 && (
        <>
          <Text color="soft" fontSize="12px" mt="2">
            From the clothes; press keeps one
          </Text>
          <Flex mt="1" borderRadius="soft" overflow="hidden" border="1px solid {colors.rule}">
            {clothes.map((c) => (
              <Box
                as="button"
                key={c}
                aria-label={`Keep ${c}`}
                title={`Keep ${c}`}
                flex="1"
                h="24px"
                cursor="pointer"
                bg={c}
                onClick={() => add(c)}
              />
            ))}
          </Flex>
        </>
      )}
      <Flex mt="2">
        <Act
          icon={Pipette}
          hint="The mean of a small disc of the picture"
          onClick={() => setPicking(picking ? null : { title: 'the palette', take: add })}
        >
          {picking ? 'Leave it' : 'Pick from the picture'}
        </Act>
      </Flex>
    </Box>
  )
}

/** Five colours of what a layer shows, once they are known. */
function useClothes(layer: Layer | null): string[] {
  const { view } = useOf('view')
  const project = view?.project.id ?? ''
  const found = useQuery({
    queryKey: ['clothes', project, layer?.id, layer?.source],
    queryFn: () =>
      answer(
        api.GET('/api/projects/{project}/layers/{layer}/clothes', { params: { path: { project, layer: layer!.id } } }),
      ),
    enabled: layer !== null,
    staleTime: Infinity,
  })
  return layer ? (found.data ?? []) : []
}

function Swatch(p: { colour: string; label: string; onPress: () => void }) {
  return (
    <Box
      as="button"
      aria-label={p.label}
      title={p.label}
      w="22px"
      h="22px"
      borderRadius="5px"
      border="1px solid {colors.rule}"
      cursor="pointer"
      bg={p.colour}
      onClick={p.onPress}
    />
  )
}
