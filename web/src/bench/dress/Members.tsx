import { Box, Flex, Text } from '@chakra-ui/react'
import type { Edit, Layer } from '../../api/client'
import { Heading } from '../../parts/buttons'
import { can, newest } from '../../parts/finishes'
import { WordsField } from '../../parts/LetterFields'
import { useCatalog } from '../../parts/useCatalog'
import { useOf } from '../../store'

/** What a group is made of, to go to; the words among it can be typed here. */
export function Members({ group }: { group: Layer }) {
  const { view, edit, setDraft, chooseLayer } = useOf('view', 'edit', 'setDraft', 'chooseLayer')
  const sources = useCatalog()?.sources ?? []
  const members = view!.project.layers.filter((l) => l.group === group.id).reverse()
  const typed = (layer: Layer, words: string): Edit => ({
    kind: 'change layer',
    layer: layer.id,
    clear: [],
    source: { ...newest(layer).source, words } as Layer['source'],
  })
  const lettering = members.filter((l) => can(l, 'worded')).reverse()
  return (
    <>
      {lettering.length > 0 && <Heading>Words in it</Heading>}
      {lettering.map((l) => (
        <WordsField
          key={l.id}
          name={`Words of ${l.name}`}
          value={(l.source as Extract<Layer['source'], { kind: 'lettering' }>).words ?? ''}
          disabled={l.locked || group.locked}
          onDraft={(words) => setDraft(typed(l, words))}
          onCommit={(words) => void edit(() => typed(l, words))}
        />
      ))}
      <Heading>Made of</Heading>
      <Flex gap="1.5" wrap="wrap">
        {members.map((l) => (
          <Box
            as="button"
            key={l.id}
            title={`Go to ${l.name}`}
            border="1px solid {colors.rule}"
            borderRadius="soft"
            bg="card"
            px="2"
            h="28px"
            fontSize="12.5px"
            cursor="pointer"
            _hover={{ borderColor: 'selected' }}
            onClick={() => chooseLayer(l.id)}
          >
            {l.name}{' '}
            <Text as="span" color="soft">
              {(sources.find((s) => s.kind === l.source.kind)?.title ?? '').toLowerCase()}
            </Text>
          </Box>
        ))}
      </Flex>
    </>
  )
}
