import type { Edit, Layer } from '../../api/client'
import { Heading } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { settingsOf } from '../../parts/schema'
import { useCatalog } from '../../parts/useCatalog'
import { useOf } from '../../shell/store'

/** The settings of what a layer shows; of a wash, where it works. */
export function SourceSettings({ layer, title }: { layer: Layer; title?: string }) {
  const { view, edit, setDraft, frames, playhead } = useOf(
    'view',
    'edit',
    'setDraft',
    'frames',
    'playhead',
    'readyCount',
  )
  const kind = useCatalog()?.sources.find((s) => s.kind === layer.source.kind)
  const source = layer.source as unknown as Record<string, unknown>
  const shot = typeof source.shot === 'string' ? source.shot : null
  const holds = Object.values(view!.holds)
    .filter((h) => h.shot === shot)
    .map((h): [string, string] => [h.id, h.name])
  const layers = view!.project.layers
    .filter((l) => l.id !== layer.id && l.source.kind !== 'wash')
    .map((l): [string, string] => [l.id, l.name])
  const set = (name: string, value: unknown): Edit => ({
    kind: 'change layer',
    layer: layer.id,
    clear: [],
    source: { ...source, [name]: value } as unknown as Layer['source'],
  })
  if (!kind || !settingsOf(kind.settings).some((s) => !s.only || s.only === 'sky')) return null
  return (
    <>
      <Heading>{title ?? kind.title}</Heading>
      <Controls
        schema={kind.settings}
        values={source}
        where="sky"
        disabled={layer.locked}
        frame={frames?.peek(playhead)?.header.layers.find((o) => o.id === layer.id)?.shows}
        holds={holds}
        layers={layers}
        onDraft={(name, value) => setDraft(set(name, value))}
        onCommit={(name, value) => void edit(set(name, value))}
      />
    </>
  )
}
