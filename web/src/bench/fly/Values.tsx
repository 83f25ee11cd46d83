import { Box } from '@chakra-ui/react'
import { useMemo, useRef } from 'react'
import type { Edit, Layer, LayerView } from '../../api/client'
import { newId } from '../../api/client'
import { Heading } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { KeyMark } from '../../parts/KeyMark'
import { timecode, useOf } from '../../shell/store'

interface Row {
  channel: string
  index: number
  label: string
  unit: string
  by: number
  min?: number
  max?: number
  rest: number
}

const ROWS: Row[] = [
  { channel: 'position', index: 0, label: 'Across', unit: 'px', by: 1, rest: 0 },
  { channel: 'position', index: 1, label: 'Down', unit: 'px', by: 1, rest: 0 },
  { channel: 'scale', index: 0, label: 'Scale', unit: '%', by: 100, min: 0, max: 5000, rest: 100 },
  { channel: 'rotation', index: 0, label: 'Turn', unit: '°', by: 1, rest: 0 },
  { channel: 'opacity', index: 0, label: 'Opacity', unit: '%', by: 100, min: 0, max: 100, rest: 100 },
]
export const CHANNELS: [string, string][] = [
  ['position', 'Position'],
  ['scale', 'Scale'],
  ['rotation', 'Turn'],
  ['opacity', 'Opacity'],
]

/** The numbers of a layer's pose at the playhead, each with its kite. */
export function Values({ layer, info, rate }: { layer: Layer; info: LayerView; rate: string }) {
  const { edit, setDraft, playhead, chooseKey, frames } = useOf(
    'edit',
    'setDraft',
    'playhead',
    'chooseKey',
    'frames',
    'keysVersion',
    'readyCount',
  )
  const values = valuesAt(layer, info.keys, playhead, frames?.peek(playhead)?.header.layers)
  const set = (row: Row, v: number): Edit => {
    const value = [...(values[row.channel] ?? [])]
    value[row.index] = v / row.by
    return { kind: 'set value', layer: layer.id, channel: row.channel, frame: playhead, value }
  }
  const keyHere = (channel: string) => layer.keys.find((k) => k.channel === channel && info.keys[k.id] === playhead)
  const toggleKey = (channel: string) => {
    const here = keyHere(channel)
    if (here) return void edit({ kind: 'remove key', layer: layer.id, key: here.id })
    const key_id = newId()
    const value = values[channel] ?? []
    void edit({ kind: 'set value', layer: layer.id, channel, frame: playhead, value, key: true, key_id }).then(
      (done) => done && chooseKey(key_id),
    )
  }
  // A field is drawn again only if something about it has changed, its kite included.
  const toggle = useRef(toggleKey)
  toggle.current = toggleKey
  const here = ROWS.map((row) => Boolean(keyHere(row.channel))).join()
  const kites = useMemo(() => {
    const set = here.split(',')
    return ROWS.map((row, i) =>
      row.index ? (
        <Box key={row.label} w="22px" />
      ) : (
        <KeyMark
          key={row.label}
          name={row.channel}
          here={set[i] === 'true'}
          onToggle={() => toggle.current(row.channel)}
        />
      ),
    )
  }, [here])
  return (
    <>
      <Heading>At {timecode(playhead, rate)}</Heading>
      {ROWS.map((row, i) => (
        <NumberField
          key={row.label}
          label={row.label}
          unit={row.unit}
          step={1}
          digits={1}
          min={row.min}
          max={row.max}
          initial={row.rest}
          disabled={layer.locked}
          value={(values[row.channel]?.[row.index] ?? 0) * row.by}
          onDraft={(v) => setDraft(set(row, v))}
          onCommit={(v) => void edit(set(row, v))}
          after={kites[i]}
        />
      ))}
    </>
  )
}

/** The values the server gave with the frame on screen; before it came, those of the nearest key. */
function valuesAt(
  layer: Layer,
  frames: Record<string, number>,
  playhead: number,
  outlines: { id: string; values: Record<string, number[]> }[] | undefined,
): Record<string, number[]> {
  const { position, scale, rotation, opacity } = layer.pose
  const rest: Record<string, number[]> = { position, scale: [scale], rotation: [rotation], opacity: [opacity] }
  const given = outlines?.find((o) => o.id === layer.id)?.values
  if (given) return { ...rest, ...given }
  for (const [channel] of CHANNELS) {
    const own = layer.keys.filter((k) => k.channel === channel)
    own.sort((a, b) => Math.abs((frames[a.id] ?? 0) - playhead) - Math.abs((frames[b.id] ?? 0) - playhead))
    if (own[0]) rest[channel] = own[0].value
  }
  return rest
}
