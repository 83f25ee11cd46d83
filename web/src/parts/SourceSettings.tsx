import { Text } from '@chakra-ui/react'
import type { Edit, Layer } from '../api/client'
import { Heading } from './buttons'
import { Controls } from './Controls'
import { Fold } from './Fold'
import { can, newest } from './finishes'
import { settingsOf } from './schema'
import { useCatalog } from './useCatalog'
import { useKeyed } from './useKeyed'
import { useHeader, useOf } from '../store'

/** The settings of what a layer shows; of a wash, where it works. */
export function SourceSettings({ layer, title, without }: { layer: Layer; title?: string; without?: string[] }) {
  const { view, edit, setDraft } = useOf('view', 'edit', 'setDraft')
  const header = useHeader()
  const kind = useCatalog()?.sources.find((s) => s.kind === layer.source.kind)
  const source = layer.source as unknown as Record<string, unknown>
  const shot = typeof source.shot === 'string' ? source.shot : null
  const holds = Object.values(view!.holds)
    .filter((h) => h.shot === shot)
    .map((h): [string, string] => [h.id, h.name])
  const layers = view!.project.layers
    .filter((l) => l.id !== layer.id && !can(l, 'washes'))
    .map((l): [string, string] => [l.id, l.name])
  const rest = (name: string, value: unknown): Edit => ({
    kind: 'change layer',
    layer: layer.id,
    clear: [],
    source: { ...newest(layer).source, [name]: value } as unknown as Layer['source'],
  })
  const { values, put, kite } = useKeyed({
    owner: layer,
    prefix: 'source',
    schema: kind?.settings ?? {},
    own: source,
    frames: view!.layers[layer.id]?.keys ?? {},
    rest,
  })
  const settings = settingsOf(kind?.settings ?? {})
  if (!kind || !settings.some((s) => !s.only || s.only === 'sky')) return null
  const groups = [...new Set(settings.map((s) => s.group))]
  const missing = view!.layers[layer.id]?.missing ?? []
  const controls = (group: string | undefined) => (
    <Controls
      schema={kind.settings}
      values={values}
      where="sky"
      shows={(s) => s.group === group && !without?.includes(s.name)}
      disabled={layer.locked}
      frame={header?.layers.find((o) => o.id === layer.id)?.shows}
      freezes={view!.layers[layer.id]?.freezes}
      holds={holds}
      layers={layers}
      onDraft={(name, value) => setDraft(put(name, value)())}
      onCommit={(name, value) => void edit(put(name, value))}
      after={kite}
    />
  )
  return (
    <>
      <Heading>{title ?? kind.title}</Heading>
      {controls(undefined)}
      {missing.length > 0 && (
        <Text color="danger" fontSize="12.5px">
          No face here has {missing.map((c) => `“${c}”`).join(', ')}.
        </Text>
      )}
      {groups.map(
        (group, n) =>
          group && (
            <Fold key={group} name={`${kind.kind} ${group}`} title={group} closed={n > 1 && group !== 'Look'}>
              {controls(group)}
            </Fold>
          ),
      )}
    </>
  )
}
