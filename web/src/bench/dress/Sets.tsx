import { Box, Flex, Text } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import { Tool } from '../../parts/buttons'
import { useCatalog } from '../../parts/useCatalog'
import { useOf } from '../../store'
import { named, type Owner } from '../../parts/finishes'

/** Finishes kept under a name: one press puts them on. */
export function Sets({ owner }: { owner: Owner | null }) {
  const { view, edit } = useOf('view', 'edit')
  const finishes = useCatalog()?.finishes ?? []
  const titles = (set: { finishes: { kind: string }[] }) =>
    set.finishes.map((f) => finishes.find((k) => k.kind === f.kind)?.title ?? f.kind).join(', ')
  const { sets } = view!.project
  if (!sets.length)
    return (
      <Text color="soft" fontSize="12px" mt="1">
        A chain kept under a name comes here, to be put on others with one press.
      </Text>
    )
  return sets.map((s) => (
    <Flex
      key={s.id}
      align="center"
      border="1px solid {colors.rule}"
      borderRadius="soft"
      bg="paper"
      pl="2"
      mt="1.5"
      data-set={s.name}
    >
      <Box
        as="button"
        flex="1"
        minW="0"
        py="1"
        textAlign="left"
        cursor={owner ? 'pointer' : 'default'}
        aria-disabled={!owner}
        aria-label={`Put ${s.name} on`}
        onClick={() => owner && void edit({ kind: 'put set', ...named(owner), set: s.id })}
      >
        <Text truncate fontWeight="600">
          {s.name}
        </Text>
        <Text truncate color="soft" fontSize="11.5px">
          {titles(s)}
        </Text>
      </Box>
      <Tool
        icon={Trash2}
        size={26}
        label={`Forget ${s.name}`}
        onClick={() => void edit({ kind: 'remove set', set: s.id })}
      />
    </Flex>
  ))
}
