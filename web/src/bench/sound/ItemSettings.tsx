import { Text } from '@chakra-ui/react'
import type { GroundItem } from '../../api/client'
import { Controls } from '../../parts/Controls'
import { NumberField } from '../../parts/fields'
import { SwitchRow } from '../../parts/SwitchRow'
import { useCatalog } from '../../parts/useCatalog'
import { useStudio } from '../../store'

/** What is heard of a piece of the ground, how loud it is, and what becomes of it while all stands still. */
const HEARD = ['heard', 'bed']

/** The values of the own sound of an item of the ground. */
export function ItemSettings({ item }: { item: GroundItem }) {
  const edit = useStudio((s) => s.edit)
  const kind = useCatalog()?.sources.find((s) => s.kind === item.source.kind)
  const loud = item.loudness
  const set = (changes: Record<string, unknown>) => void edit({ kind: 'change loudness', items: [item.id!], changes })
  const settings = kind && only(kind.settings as unknown as Schema)
  return (
    <>
      <NumberField
        label="Loudness"
        unit="dB"
        slider
        step={0.5}
        min={-60}
        max={24}
        initial={0}
        value={loud.gain}
        onCommit={(gain) => set({ gain })}
      />
      <NumberField
        label="Comes up over"
        unit="fr"
        min={0}
        max={1000}
        initial={0}
        value={loud.fade_in}
        onCommit={(fade_in) => set({ fade_in })}
      />
      <NumberField
        label="Goes down over"
        unit="fr"
        min={0}
        max={1000}
        initial={0}
        value={loud.fade_out}
        onCommit={(fade_out) => set({ fade_out })}
      />
      <SwitchRow label="Mute" on={loud.muted} onChange={(muted) => set({ muted })} />
      {settings && Object.keys(settings.properties).length > 0 && (
        <Controls
          schema={settings as never}
          values={item.source as unknown as Record<string, unknown>}
          onDraft={() => undefined}
          onCommit={(name, value) =>
            void edit({
              kind: 'change ground',
              item: item.id!,
              source: { ...item.source, [name]: value } as typeof item.source,
            })
          }
        />
      )}
      <Text color="soft" fontSize="12px" mt="1">
        Cuts alone are not heard. A line of loudness stays with its footage.
      </Text>
    </>
  )
}

interface Schema {
  properties: Record<string, unknown>
}

function only(schema: Schema): Schema {
  return {
    ...schema,
    properties: Object.fromEntries(Object.entries(schema.properties).filter(([k]) => HEARD.includes(k))),
  }
}
