import { Flex, Switch, Text } from '@chakra-ui/react'
import type { Layer } from '../../api/client'
import { Fold } from '../../parts/Fold'
import { useOf } from '../../shell/store'

/** How a layer goes along its motion path; where it has one. */
export function PathSettings({ layer }: { layer: Layer }) {
  const edit = useOf('edit').edit
  if (layer.apart || layer.keys.filter((k) => k.channel === 'position').length < 2) return null
  const set = (given: object) =>
    void edit({ kind: 'change layer', layer: layer.id, way: { ...layer.way, ...given }, clear: [] })
  const row = (label: string, hint: string, on: boolean, change: (on: boolean) => void) => (
    <Flex align="center" minH="28px" gap="2" title={hint}>
      <Text flex="1">{label}</Text>
      <Switch.Root size="sm" checked={on} disabled={layer.locked} onCheckedChange={(e) => change(e.checked)}>
        <Switch.HiddenInput aria-label={label} />
        <Switch.Control bg={on ? 'selected' : 'rule'}>
          <Switch.Thumb bg="card" />
        </Switch.Control>
      </Switch.Root>
    </Flex>
  )
  return (
    <Fold name="path" title="Path">
      {row(
        'One journey',
        'From the first key to the last in one go, eased as the first one says; those between give it its shape alone',
        layer.way.whole ?? false,
        (whole) => set({ whole }),
      )}
      {row('Turns along', 'It turns with its path, and is upright where it lands', layer.way.turns ?? false, (turns) =>
        set({ turns }),
      )}
    </Fold>
  )
}
