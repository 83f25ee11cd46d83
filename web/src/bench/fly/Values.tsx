import { Box, Flex } from '@chakra-ui/react'
import { Crosshair, Link2, Link2Off } from 'lucide-react'
import { useMemo, useRef, useState } from 'react'
import { type Edit, type GroundItem, type Layer, type LayerView, newId } from '../../api/client'
import { Tool } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { KeyMark } from '../../parts/KeyMark'
import { SwitchRow } from '../../parts/SwitchRow'
import { useHeader, useOf, useStudio } from '../../store'

interface Row {
  channel: string
  index: number
  label: string
  unit: string
  by: number
  min?: number
  max?: number
  rest: number
  /** Shown only where it is asked for, or at work. */
  rare?: boolean
}

const ROWS: Row[] = [
  { channel: 'position', index: 0, label: 'Across', unit: 'px', by: 1, rest: 0 },
  { channel: 'position', index: 1, label: 'Down', unit: 'px', by: 1, rest: 0 },
  { channel: 'scale', index: 0, label: 'Scale', unit: '%', by: 100, min: 0, max: 5000, rest: 100 },
  { channel: 'width', index: 0, label: 'Width', unit: '%', by: 100, min: -5000, max: 5000, rest: 100, rare: true },
  { channel: 'height', index: 0, label: 'Height', unit: '%', by: 100, min: -5000, max: 5000, rest: 100, rare: true },
  { channel: 'rotation', index: 0, label: 'Turn', unit: '°', by: 1, rest: 0 },
  { channel: 'shear', index: 0, label: 'Shear', unit: '°', by: 1, min: -80, max: 80, rest: 0, rare: true },
  { channel: 'opacity', index: 0, label: 'Opacity', unit: '%', by: 100, min: 0, max: 100, rest: 100 },
  { channel: 'anchor', index: 0, label: 'Anchor, across', unit: 'px', by: 1, rest: 0, rare: true },
  { channel: 'anchor', index: 1, label: 'Anchor, down', unit: 'px', by: 1, rest: 0, rare: true },
]
const GROUND: Row[] = [
  { channel: 'framing.across', index: 0, label: 'Across', unit: '%', by: 100, min: -1000, max: 1000, rest: 0 },
  { channel: 'framing.down', index: 0, label: 'Down', unit: '%', by: 100, min: -1000, max: 1000, rest: 0 },
  { channel: 'framing.scale', index: 0, label: 'Size', unit: '%', by: 100, min: 1, max: 5000, rest: 100 },
  { channel: 'framing.turn', index: 0, label: 'Turn', unit: '°', by: 1, min: -3600, max: 3600, rest: 0 },
]

/** The numbers of a layer's pose at the playhead, each with its kite. */
export function LayerValues({ layer, info }: { layer: Layer; info: LayerView }) {
  const { edit, view, settled } = useOf('edit', 'view', 'settled')
  const [all, setAll] = useState(false)
  const [middle, setMiddle] = useState(false)
  const outline = useHeader()?.layers.find((o) => o.id === layer.id)
  const values = { ...restOf(layer), ...nearest(layer, info.keys, settled), ...outline?.values }
  const used = (r: Row) =>
    layer.keys.some((k) => k.channel === r.channel) ||
    (r.channel !== 'anchor' && Math.abs((values[r.channel]?.[0] ?? 0) * r.by - r.rest) > 1e-6)
  const rows = ROWS.filter((r) => all || !r.rare || used(r)).map((r) =>
    layer.apart && r.channel === 'position' ? { ...r, channel: r.index ? 'down' : 'across', index: 0 } : r,
  )
  // From the middle of the canvas rather than from its place at rest: so far is the anchor away from there.
  const { width, height } = view!.project
  const [x = 0, y = 0] = values.position ?? []
  const base: [number, number] =
    middle && outline ? [outline.anchor[0] - x - width / 2, outline.anchor[1] - y - height / 2] : [0, 0]
  return (
    <>
      <Rows
        rows={rows}
        values={values}
        owner={layer}
        keys={info.keys}
        locked={layer.locked}
        offset={(r) => (['position', 'across', 'down'].includes(r.channel) ? base[r.label === 'Down' ? 1 : 0] : 0)}
      />
      <Flex align="center" mt="0.5" color="soft" fontSize="12px">
        <Box as="button" cursor="pointer" flex="1" textAlign="left" onClick={() => setAll(!all)}>
          {all ? 'Fewer' : 'Width, shear, anchor …'}
        </Box>
        <Tool
          icon={Crosshair}
          size={24}
          label="From the middle of the canvas"
          hint={middle ? 'Position counts from the middle of the canvas' : 'Position counts from its place at rest'}
          on={middle}
          onClick={() => setMiddle(!middle)}
        />
        <Tool
          icon={layer.apart ? Link2Off : Link2}
          size={24}
          label={layer.apart ? 'Across and down together' : 'Across and down apart'}
          hint={
            layer.apart
              ? 'Across and down have keys of their own; together they make a path'
              : 'Gives across and down keys of their own'
          }
          on={layer.apart}
          disabled={layer.locked}
          onClick={() => void edit({ kind: 'keys apart', layer: layer.id, apart: !layer.apart })}
        />
      </Flex>
    </>
  )
}

/** How a piece of the ground lies on the canvas at the playhead, each number with its kite. */
export function GroundValues({ item }: { item: GroundItem }) {
  const view = useStudio((s) => s.view)
  const source = useHeader()?.source
  const { across = 0, down = 0, scale = 1, turn = 0 } = item.framing
  const rest = {
    'framing.across': [across],
    'framing.down': [down],
    'framing.scale': [scale],
    'framing.turn': [turn],
  }
  const values = { ...rest, ...(source?.item === item.id ? source.values : {}) }
  return <Rows rows={GROUND} values={values} owner={item} keys={view!.itemKeys[item.id] ?? {}} offset={() => 0} />
}

function Rows(p: {
  rows: Row[]
  values: Record<string, number[]>
  owner: Layer | GroundItem
  keys: Record<string, number>
  locked?: boolean
  /** What is added to what is shown of a row. */
  offset: (r: Row) => number
}) {
  const { edit, setDraft, settled, chooseKey, auto, toggleAuto } = useOf(
    'edit',
    'setDraft',
    'settled',
    'chooseKey',
    'auto',
    'toggleAuto',
  )
  const whose = 'arrangement' in p.owner ? { layer: p.owner.id } : { item: p.owner.id }
  const set = (row: Row, v: number): Edit => {
    const number = (v - p.offset(row)) / row.by
    const asked = {
      kind: 'set value' as const,
      ...whose,
      frame: useStudio.getState().playhead,
      key: false,
      shift: !auto,
    }
    // Each number of a position by itself: what was typed into the other may be on its way yet.
    if (row.channel === 'position') return { ...asked, channel: row.index ? 'down' : 'across', value: [number] }
    const value = [...(p.values[row.channel] ?? [])]
    value[row.index] = number
    return { ...asked, channel: row.channel, value }
  }
  const keyHere = (channel: string) => p.owner.keys.find((k) => k.channel === channel && p.keys[k.id] === settled)
  const toggleKey = (channel: string) => {
    const here = keyHere(channel)
    if (here) return void edit({ kind: 'remove key', ...whose, key: here.id })
    const key_id = newId()
    const value = p.values[channel] ?? []
    void edit({
      kind: 'set value',
      ...whose,
      channel,
      frame: useStudio.getState().playhead,
      value,
      key: true,
      shift: false,
      key_id,
    }).then((done) => done && chooseKey(key_id))
  }
  // A field is drawn again only if something about it has changed, its kite included.
  const toggle = useRef(toggleKey)
  toggle.current = toggleKey
  const here = p.rows.map((row) => `${row.channel}.${row.index}=${Boolean(keyHere(row.channel))}`).join()
  const kites = useMemo(
    () =>
      here.split(',').map((told) => {
        const [name = '', set] = told.split('=')
        const channel = name.slice(0, name.lastIndexOf('.'))
        return name.endsWith('.1') ? (
          <Box key={name} w="22px" />
        ) : (
          <KeyMark
            key={name}
            name={channel.split('.').at(-1)!}
            here={set === 'true'}
            onToggle={() => toggle.current(channel)}
          />
        )
      }),
    [here],
  )
  const fields = p.rows.map((row, i) => (
    <NumberField
      key={row.label}
      label={row.label}
      unit={row.unit}
      step={1}
      digits={1}
      min={row.min}
      max={row.max}
      initial={row.channel === 'anchor' ? undefined : row.rest + p.offset(row)}
      disabled={p.locked}
      value={(p.values[row.channel]?.[row.index] ?? 0) * row.by + p.offset(row)}
      onDraft={(v) => setDraft(set(row, v))}
      onCommit={(v) => void edit(set(row, v))}
      after={kites[i]}
    />
  ))
  return (
    <>
      {fields}
      <SwitchRow
        label="Keys by themselves"
        hint="With this off, what has keys is changed as a whole, all keys alike"
        on={auto}
        onChange={toggleAuto}
      />
    </>
  )
}

function restOf(layer: Layer): Record<string, number[]> {
  const { position, scale, width, height, rotation, shear, opacity } = layer.pose
  return {
    position,
    across: [position[0]],
    down: [position[1]],
    scale: [scale],
    width: [width],
    height: [height],
    rotation: [rotation],
    shear: [shear],
    opacity: [opacity],
    anchor: layer.anchor ?? [0, 0],
  }
}

/** Before the frame has come: the values of the nearest keys. */
function nearest(layer: Layer, frames: Record<string, number>, at: number): Record<string, number[]> {
  const found: Record<string, number[]> = {}
  const far = (id: string) => Math.abs((frames[id] ?? 0) - at)
  for (const key of [...layer.keys].sort((a, b) => far(b.id) - far(a.id))) found[key.channel] = key.value
  return found
}
