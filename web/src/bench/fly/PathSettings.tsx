import type { Layer } from '../../api/client'
import { Fold } from '../../parts/Fold'
import { SwitchRow } from '../../parts/SwitchRow'
import { useOf } from '../../store'

/** How a layer goes along its motion path; where it has one. */
export function PathSettings({ layer }: { layer: Layer }) {
  const edit = useOf('edit').edit
  if (layer.apart || layer.keys.filter((k) => k.channel === 'position').length < 2) return null
  const set = (given: object) =>
    void edit({ kind: 'change layer', layer: layer.id, way: { ...layer.way, ...given }, clear: [] })
  return (
    <Fold name="path" title="Path">
      <SwitchRow
        label="One journey"
        hint="From the first key to the last in one go, eased as the first one says; those between give it its shape alone"
        on={layer.way.whole ?? false}
        disabled={layer.locked}
        onChange={(whole) => set({ whole })}
      />
      <SwitchRow
        label="Turns along"
        hint="It turns with its path, and is upright where it lands"
        on={layer.way.turns ?? false}
        disabled={layer.locked}
        onChange={(turns) => set({ turns })}
      />
    </Fold>
  )
}
