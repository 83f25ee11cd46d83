import { Box, Flex, Text } from '@chakra-ui/react'
import { CopyPlus, Crosshair, Trash2 } from 'lucide-react'
import { useMemo, useRef } from 'react'
import type { Channel, Edit, Key, Layer } from '../../api/client'
import { newId } from '../../api/client'
import { Act, Choice, Empty, Heading, Hint, Tool } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { timecode, useLayer, useOf, useStudio } from '../../shell/store'
import { Kite } from '../../sky/Lane'
import { EasingPanel } from './EasingPanel'

interface Row {
  channel: Channel
  index: number
  label: string
  unit: string
  by: number
  step: number
  min?: number
  max?: number
  rest: number
}

const ROWS: Row[] = [
  { channel: 'position', index: 0, label: 'Across', unit: 'px', by: 1, step: 1, rest: 0 },
  { channel: 'position', index: 1, label: 'Down', unit: 'px', by: 1, step: 1, rest: 0 },
  { channel: 'scale', index: 0, label: 'Scale', unit: '%', by: 100, step: 1, min: 0, max: 5000, rest: 100 },
  { channel: 'rotation', index: 0, label: 'Turn', unit: '°', by: 1, step: 1, rest: 0 },
  { channel: 'opacity', index: 0, label: 'Opacity', unit: '%', by: 100, step: 1, min: 0, max: 100, rest: 100 },
]
const ARRANGEMENTS: { value: Layer['arrangement']; label: string; hint: string }[] = [
  { value: 'trail', label: 'Trail', hint: 'The copy stays behind from its own frame on' },
  { value: 'ahead', label: 'Ahead', hint: 'The copy waits until the subject reaches it' },
]
const ALL_ARRANGEMENTS: typeof ARRANGEMENTS = [
  ...ARRANGEMENTS,
  { value: 'along', label: 'Along', hint: 'The cutout moves as the footage does, through the range of its matte' },
]
const CHANNELS: [Channel, string][] = [
  ['position', 'Position'],
  ['scale', 'Scale'],
  ['rotation', 'Turn'],
  ['opacity', 'Opacity'],
]

/** Where the cutout is, how it gets there, and by which curve. */
export function Fly() {
  const found = useLayer()
  const go = useStudio((s) => s.go)
  if (!found) {
    return (
      <Empty title="Fly the cutout" action={<Act main onClick={() => go('catch')}>Catch a frame</Act>}>
        Choose a cutout in the sky: drag it on the picture, set keys, and choose how it eases from one to the next.
      </Empty>
    )
  }
  return <FlyLayer />
}

function FlyLayer() {
  const { layer, hold, info, view } = useLayer()!
  const { edit, setDraft, playhead, seek, key: keyId, chooseKey, frames, keysVersion } = useOf('edit', 'setDraft', 'playhead', 'seek', 'key', 'chooseKey', 'frames', 'keysVersion')
  const values = valuesAt(layer, info.keys, playhead, frames?.peek(playhead)?.header.layers, keysVersion)
  const chosen = layer.keys.find((k) => k.id === keyId) ?? null
  const set = (row: Row, v: number): Edit => {
    const value = [...(values[row.channel] ?? [])]
    value[row.index] = v / row.by
    return { kind: 'set value', layer: layer.id, channel: row.channel, frame: playhead, value }
  }
  const keyHere = (channel: Channel) => layer.keys.find((k) => k.channel === channel && info.keys[k.id] === playhead)
  const toggleKey = (channel: Channel) => {
    const here = keyHere(channel)
    if (here) return void edit({ kind: 'remove key', layer: layer.id, key: here.id })
    const key = newKey(channel, values[channel] ?? [], playhead, info)
    void edit({ kind: 'set key', layer: layer.id, key }).then((done) => done && chooseKey(key.id))
  }
  // A field is drawn again only if something about it has changed, its kite included.
  const toggle = useRef(toggleKey)
  toggle.current = toggleKey
  const here = ROWS.map((row) => Boolean(keyHere(row.channel)))
  const kites = useMemo(
    () => ROWS.map((row, i) => (row.index ? <Box w="22px" /> : <KeyMark channel={row.channel} here={here[i]!} onToggle={() => toggle.current(row.channel)} />)),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [here.join()],
  )
  const out = info.start == null
  return (
    <Flex h="100%" minH="0">
      <Box w="262px" flexShrink="0" borderRight="1px solid {colors.rule}" overflowY="auto" px="4" pb="3">
        <Heading>Arrangement</Heading>
        <Choice
          label="Arrangement"
          value={layer.arrangement}
          onChange={(arrangement) => void edit({ kind: 'change layer', layer: layer.id, arrangement })}
          options={hold.travel ? ALL_ARRANGEMENTS : ARRANGEMENTS}
        />
        <Text color="soft" mt="2" className="figures">
          {out
            ? 'Its frame is not in the ground.'
            : layer.arrangement === 'trail'
              ? `From its own frame, ${timecode(info.landing!, view.project.rate)}, until ${timecode(info.end!, view.project.rate)}.`
              : layer.arrangement === 'along'
                ? `Runs along with the footage from ${timecode(info.start!, view.project.rate)} until ${timecode(info.end!, view.project.rate)}.`
                : `From ${timecode(info.start!, view.project.rate)} until its own frame, ${timecode(info.landing!, view.project.rate)}.`}
        </Text>
        <Heading>
          At {timecode(playhead, view.project.rate)}
        </Heading>
        {ROWS.map((row, i) => (
          <NumberField
            key={row.label}
            label={row.label}
            unit={row.unit}
            step={row.step}
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
        <Flex gap="2" mt="3" wrap="wrap">
          <Act
            icon={Crosshair}
            hint="Back onto its own frame: no keys, no offset, turn, scale or fade"
            disabled={layer.locked}
            onClick={() => void edit({ kind: 'put at rest', layer: layer.id })}
          >
            At rest
          </Act>
          <Act icon={CopyPlus} hint="A copy that shares its hold (Ctrl+D)" onClick={() => void edit({ kind: 'duplicate layer', layer: layer.id })}>
            Duplicate
          </Act>
          <Act icon={Trash2} hint="Remove the layer (Delete)" disabled={layer.locked} onClick={() => void edit({ kind: 'remove layer', layer: layer.id })}>
            Remove
          </Act>
        </Flex>
      </Box>
      <Flex direction="column" flex="1" minW="0" minH="0" overflowY="auto" px="4" pb="3">
        <Heading>Keys of {layer.name}</Heading>
        {out ? (
          <Text color="soft">Put its footage back into the ground to animate it.</Text>
        ) : (
          <KeyChart
            layer={layer}
            keys={info.keys}
            start={info.start!}
            end={info.end!}
            landing={info.landing!}
            playhead={playhead}
            chosen={keyId}
            onChoose={(id) => {
              chooseKey(id)
              seek(info.keys[id] ?? playhead)
            }}
          />
        )}
        {chosen ? (
          <KeyDetail key={chosen.id} layer={layer} k={chosen} frame={info.keys[chosen.id] ?? 0} info={info} />
        ) : (
          <Text color="soft" mt="3" maxW="60ch">
            {layer.keys.length
              ? 'Choose a key to tie it to the start, the landing or the end, and to shape the way to the next one.'
              : 'Nothing moves yet. Go to a frame, press a kite beside a value to set a key, go to another frame and change the value there.'}
          </Text>
        )}
      </Flex>
    </Flex>
  )
}

/** The kite beside a value: whether there is a key here, and how to set or remove it. */
function KeyMark({ channel, here, onToggle }: { channel: Channel; here: boolean; onToggle: () => void }) {
  return (
    <Hint text={here ? 'Remove the key here' : 'Set a key here'}>
      <Box
        as="button"
        aria-label={`${here ? 'Remove' : 'Set'} ${channel} key`}
        aria-pressed={here}
        w="22px"
        h="22px"
        display="grid"
        placeItems="center"
        cursor="pointer"
        opacity={here ? 1 : 0.32}
        onClick={onToggle}
      >
        <Kite size={12} />
      </Box>
    </Hint>
  )
}

/** The values the server gave with the frame on screen; before it came, those of the nearest key. */
function valuesAt(
  layer: Layer,
  frames: Record<string, number>,
  playhead: number,
  outlines: { id: string; values: Record<string, number[]> }[] | undefined,
  _version: number,
): Record<Channel, number[]> {
  const { position, scale, rotation, opacity } = layer.pose
  const rest: Record<Channel, number[]> = { position, scale: [scale], rotation: [rotation], opacity: [opacity] }
  const given = outlines?.find((o) => o.id === layer.id)?.values
  if (given) return { ...rest, ...given }
  for (const [channel] of CHANNELS) {
    const own = layer.keys.filter((k) => k.channel === channel)
    own.sort((a, b) => Math.abs((frames[a.id] ?? 0) - playhead) - Math.abs((frames[b.id] ?? 0) - playhead))
    if (own[0]) rest[channel] = own[0].value
  }
  return rest
}

function newKey(
  channel: Channel,
  value: number[],
  frame: number,
  info: { start?: number | null; landing?: number | null; end?: number | null },
): Key {
  const ties = (['landing', 'start', 'end'] as const).map((tie) => ({ tie, at: info[tie] ?? 0 }))
  const nearest = ties.reduce((a, b) => (Math.abs(frame - b.at) < Math.abs(frame - a.at) ? b : a))
  const easing: Key['easing'] = { kind: 'bezier', x1: 0.42, y1: 0, x2: 0.58, y2: 1 }
  return { id: newId(), channel, tie: nearest.tie, offset: frame - nearest.at, value, easing }
}

/** All keys over the layer's span, a line a channel. */
function KeyChart(p: {
  layer: Layer
  keys: Record<string, number>
  start: number
  end: number
  landing: number
  playhead: number
  chosen: string | null
  onChoose: (id: string) => void
}) {
  const frames = [...Object.values(p.keys), p.start, p.end]
  const [low, high] = [Math.min(...frames), Math.max(...frames)]
  const place = (f: number) => `${((f - low) / Math.max(1, high - low)) * 100}%`
  return (
    <Box position="relative" border="1px solid {colors.rule}" borderRadius="soft" bg="paper" pl="96px" pr="46px" flexShrink="0">
      <Box position="relative" h="20px" fontSize="11.5px" color="soft">
        {([['start', p.start], ['end', p.end]] as const).map(([name, f]) => (
          <Text key={name} position="absolute" left={place(f)} transform="translateX(-50%)" top="2px" whiteSpace="nowrap">
            {name === 'start' && p.start === p.landing ? 'start, landing' : name === 'end' && p.end === p.landing ? 'landing, end' : name}
          </Text>
        ))}
      </Box>
      {CHANNELS.map(([channel, label]) => (
        <Box key={channel} position="relative" h="27px" borderTop="1px solid {colors.rule}">
          <Text position="absolute" left="-86px" top="4px">
            {label}
          </Text>
          <Box position="absolute" left={place(p.start)} w={`calc(${place(p.end)} - ${place(p.start)})`} top="13px" h="1px" bg="rule" />
          {p.layer.keys
            .filter((k) => k.channel === channel)
            .map((k) => (
              <Box
                as="button"
                key={k.id}
                aria-label={`${label} key at frame ${p.keys[k.id]}`}
                aria-pressed={k.id === p.chosen}
                position="absolute"
                left={`calc(${place(p.keys[k.id] ?? low)} - 8px)`}
                top="3px"
                cursor="pointer"
                onClick={() => p.onChoose(k.id)}
              >
                <Kite chosen={k.id === p.chosen} size={16} />
              </Box>
            ))}
        </Box>
      ))}
      {p.playhead >= low && p.playhead <= high && (
        <Box position="absolute" top="18px" bottom="0" left="96px" right="46px" pointerEvents="none">
          <Box position="absolute" left={place(p.playhead)} top="0" bottom="0" w="1.5px" bg="now" />
        </Box>
      )}
    </Box>
  )
}

function KeyDetail(p: {
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
        <Heading aside={<Tool icon={Trash2} size={26} label="Remove key" hint="Remove key (Delete)" onClick={() => void edit({ kind: 'remove key', layer: layer.id, key: k.id })} />}>
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
      <EasingPanel easing={k.easing} onDraft={(easing) => setDraft(change({ easing }))} onCommit={(easing) => void edit(change({ easing }))} />
    </Flex>
  )
}
