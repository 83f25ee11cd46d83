import { Flex } from '@chakra-ui/react'
import type { Edit, Layer } from '../../api/client'
import { Choice } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { useOf } from '../../store'

type Blur = NonNullable<Layer['blur']>

/** Motion blur of a layer or a group, or (with neither) of all that has none of its own. */
export function Blurred({ layer }: { layer: Layer | null }) {
  const { view, edit, setDraft } = useOf('view', 'edit', 'setDraft')
  const piece = view!.project.blur
  const own = layer ? layer.blur : piece
  const set = (blur: Blur): Edit =>
    layer ? { kind: 'change layer', layer: layer.id, blur, clear: [] } : { kind: 'change piece', blur }
  const mode = own == null ? 'piece' : own.shutter ? 'on' : 'off'
  const shown = own ?? piece
  const even = (shutter: number): Blur => ({ shutter, phase: -shutter / 2 })
  const change = (v: string) => {
    if (v === 'piece') return void edit({ kind: 'change layer', layer: layer!.id, clear: ['blur'] })
    void edit(set(v === 'on' ? even(180) : { shutter: 0, phase: 0 }))
  }
  return (
    <>
      <Flex my="1">
        <Choice
          label="Motion blur"
          value={mode}
          onChange={change}
          options={[
            ...(layer ? [{ value: 'piece', label: 'As the piece', hint: 'What its group or the piece has' }] : []),
            { value: 'on', label: 'On' },
            { value: 'off', label: 'Off' },
          ]}
        />
      </Flex>
      {mode === 'on' && (
        <>
          <NumberField
            label="Shutter"
            unit="°"
            value={shown.shutter ?? 180}
            initial={180}
            min={0}
            max={720}
            step={5}
            onDraft={(v) => setDraft(set(even(v)))}
            onCommit={(v) => void edit(set(even(v)))}
          />
          <NumberField
            label="Phase"
            unit="°"
            value={shown.phase ?? -90}
            initial={-(shown.shutter ?? 180) / 2}
            min={-720}
            max={720}
            step={5}
            onDraft={(v) => setDraft(set({ ...shown, phase: v }))}
            onCommit={(v) => void edit(set({ ...shown, phase: v }))}
          />
        </>
      )}
    </>
  )
}
