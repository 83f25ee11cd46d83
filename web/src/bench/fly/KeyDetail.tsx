import { Box, Flex, Text } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import type { Edit, Key, Layer } from '../../api/client'
import { Choice, Heading, Tool } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { withKey } from '../../shell/keys'
import { useOf } from '../../shell/store'
import { EasingPanel } from '../../parts/EasingPanel'

/** One key: what it is tied to, and how it goes over to the next. */
export function KeyDetail(p: {
  layer: Layer
  k: Key
  frame: number
  info: { start?: number | null; landing?: number | null; end?: number | null }
}) {
  const { edit, setDraft } = useOf('edit', 'setDraft')
  const { k, layer, info } = p
  const change = (changes: Partial<Key>): Edit => ({ kind: 'set key', layer: layer.id, key: { ...k, ...changes } })
  return (
    <Flex gap="6" mt="3" wrap="wrap">
      <Box w="212px">
        <Heading
          aside={
            <Tool
              icon={Trash2}
              size={26}
              label="Remove key"
              hint={withKey('Remove key', 'remove')}
              onClick={() => void edit({ kind: 'remove key', layer: layer.id, key: k.id })}
            />
          }
        >
          This key
        </Heading>
        <Text color="soft" mb="1">
          Tied to the layer’s
        </Text>
        <Choice
          label="Tied to"
          value={k.tie}
          onChange={(tie) => void edit(change({ tie, offset: p.frame - (info[tie] ?? 0) }))}
          options={[
            { value: 'start', label: 'Start' },
            { value: 'landing', label: 'Landing' },
            { value: 'end', label: 'End' },
          ]}
        />
        <Box mt="2">
          <NumberField
            label="Frames from there"
            value={k.offset}
            initial={0}
            onDraft={(offset) => setDraft(change({ offset }))}
            onCommit={(offset) => void edit(change({ offset }))}
          />
        </Box>
        <Text color="soft" fontSize="12px" mt="1">
          However the layer is trimmed, the key keeps this distance.
        </Text>
      </Box>
      <EasingPanel
        easing={k.easing}
        onDraft={(easing) => setDraft(change({ easing }))}
        onCommit={(easing) => void edit(change({ easing }))}
      />
    </Flex>
  )
}
