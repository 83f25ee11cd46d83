import { Box, Flex, Text } from '@chakra-ui/react'
import { Eye, EyeOff, Plus, Trash2 } from 'lucide-react'
import { type Edit, type Finish, type FinishView, newId } from '../../api/client'
import { Act, Empty, Heading, Tool } from '../../parts/buttons'
import { useLayer, useOf } from '../../shell/store'
import { useCatalog } from '../fly/EasingPanel'
import { SchemaFields } from './SchemaFields'

/** The chain of finishes on the selected cutout, or on the selected piece of footage. */
export function Dress() {
  const found = useLayer()
  const { view, item: itemId, chooseItem } = useOf('view', 'item', 'chooseItem')
  const item = view!.project.ground.find((g) => g.id === itemId)
  const first = view!.project.ground[0]
  if (item) {
    const change = (finishes: Finish[]): Edit => ({ kind: 'change ground', item: item.id, finishes })
    return <Chain key={item.id} target="ground" name={view!.shots[item.shot]?.name ?? 'Footage'} finishes={item.finishes} change={change} />
  }
  if (found) {
    const change = (finishes: Finish[]): Edit => ({ kind: 'change layer', layer: found.layer.id, finishes })
    return (
      <Chain
        key={found.layer.id}
        target="cutout"
        name={found.layer.name}
        finishes={found.layer.finishes}
        change={change}
        aside={first && <Act onClick={() => chooseItem(first.id)}>Dress the footage</Act>}
      />
    )
  }
  return (
    <Empty
      title="Dress it"
      action={first && <Act main onClick={() => chooseItem(first.id)}>Dress the footage</Act>}
    >
      Choose a cutout in the sky to outline it, or footage in the ground to blur it out of the way.
    </Empty>
  )
}

function Chain(p: {
  target: string
  name: string
  finishes: Finish[]
  change: (f: Finish[]) => Edit
  aside?: React.ReactNode
}) {
  const { edit, setDraft } = useOf('edit', 'setDraft')
  const catalog = useCatalog()
  const known = (catalog?.finishes ?? []).filter((f) => f.target === p.target)
  const with_ = (id: string, changes: Partial<Finish>) => p.finishes.map((f) => (f.id === id ? { ...f, ...changes } : f))
  const add = (f: FinishView) =>
    void edit(p.change([...p.finishes, { id: newId(), kind: f.kind, settings: {}, visible: true }]))
  return (
    <Flex h="100%" minH="0">
      <Box w="220px" flexShrink="0" borderRight="1px solid {colors.rule}" px="4" pb="3" overflowY="auto">
        <Heading>Finishes for {p.target === 'cutout' ? 'cutouts' : 'footage'}</Heading>
        <Flex direction="column" align="flex-start" gap="2">
          {known.map((f) => (
            <Act key={f.kind} icon={Plus} onClick={() => add(f)}>
              {f.title}
            </Act>
          ))}
        </Flex>
        {p.aside && <Box mt="5">{p.aside}</Box>}
      </Box>
      <Box flex="1" minW="0" px="4" pb="3" overflowY="auto">
        <Heading>On {p.name}, in this order</Heading>
        {p.finishes.length === 0 && (
          <Text color="soft">As filmed. Put a finish on from the left; the picture shows it at once.</Text>
        )}
        {p.finishes.map((f) => {
          const kind = known.find((k) => k.kind === f.kind)
          return (
            <Box key={f.id} border="1px solid {colors.rule}" borderRadius="soft" bg="paper" px="3" py="1.5" mb="2" maxW="440px" opacity={f.visible ? 1 : 0.6} data-finish={f.kind}>
              <Flex align="center">
                <Text flex="1" fontWeight="650">
                  {kind?.title ?? f.kind}
                </Text>
                <Tool
                  icon={f.visible ? Eye : EyeOff}
                  size={26}
                  label={`${f.visible ? 'Switch off' : 'Switch on'} ${kind?.title}`}
                  onClick={() => void edit(p.change(with_(f.id, { visible: !f.visible })))}
                />
                <Tool
                  icon={Trash2}
                  size={26}
                  label={`Remove ${kind?.title}`}
                  onClick={() => void edit(p.change(p.finishes.filter((g) => g.id !== f.id)))}
                />
              </Flex>
              {kind && (
                <SchemaFields
                  schema={kind.settings}
                  values={f.settings}
                  onDraft={(settings) => setDraft(p.change(with_(f.id, { settings })))}
                  onCommit={(settings) => void edit(p.change(with_(f.id, { settings })))}
                />
              )}
            </Box>
          )
        })}
      </Box>
    </Flex>
  )
}
