import { Box, Flex, Text } from '@chakra-ui/react'
import { Copy, PaintBucket, Pause, SquareSplitHorizontal, Trash2 } from 'lucide-react'
import type { Edit, GroundItem, ItemView, ShotView } from '../../api/client'
import { Choice, Heading, Tool } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { ColourField } from '../../parts/ColourField'
import { NumberField } from '../../parts/fields'
import { Pick } from '../../parts/Pick'
import { SwitchRow } from '../../parts/SwitchRow'
import { useCatalog } from '../../parts/useCatalog'
import { memo } from 'react'
import { withKey } from '../../parts/keys'
import { useOf, useStudio } from '../../store'
import { standHere } from '../../store/doing'
import { can } from '../../parts/finishes'

const SHAPES: [string, number, number][] = [
  ['9:16', 1080, 1920],
  ['4:5', 1080, 1350],
  ['1:1', 1080, 1080],
  ['16:9', 1920, 1080],
  ['21:9', 2520, 1080],
]
const RATES: [string, string][] = [
  ['24', '24'],
  ['25', '25'],
  ['29.97', '30000/1001'],
  ['30', '30'],
  ['50', '50'],
  ['60', '60'],
]

/** What lies in the ground there, and what it lies on: trim, speed, sound, fade, framing; the canvas. */
export const InThePiece = memo(function InThePiece({
  item,
  place,
  shot,
}: {
  item: GroundItem
  place: ItemView
  shot?: ShotView
}) {
  const { view, more, edit, setDraft } = useOf('view', 'more', 'edit', 'setDraft')
  const schema = useCatalog()?.sources.find((s) => s.kind === item.source.kind)?.settings
  const change = (changes: Partial<Extract<Edit, { kind: 'change ground' }>>): Edit => ({
    kind: 'change ground',
    item: item.id,
    ...changes,
  })
  const source = (name: string, value: unknown) =>
    change({ source: { ...item.source, [name]: value } as GroundItem['source'] })
  const first = view!.project.ground[0]?.id === item.id
  const others = Object.values(view!.shots).filter((s) => s.id !== shot?.id)
  const holds = Object.values(view!.holds)
    .filter((h) => h.shot === shot?.id)
    .map((h): [string, string] => [h.id, h.name])
  return (
    <>
      <Text fontWeight="600" my="2" truncate>
        {place.name}
        {more.length > 0 && ` and ${more.length} more`}
      </Text>
      {place.range && (
        <>
          <NumberField
            label="First frame"
            value={place.range[0]}
            initial={0}
            min={0}
            max={place.range[1] - 1}
            onDraft={(first) => setDraft(change({ first }))}
            onCommit={(first) => void edit(change({ first }))}
          />
          <NumberField
            label="Last frame"
            value={place.range[1] - 1}
            initial={shot && shot.frames - 1}
            min={place.range[0]}
            max={place.footage && shot ? shot.frames - 1 : undefined}
            onDraft={(last) => setDraft(change({ past: last + 1 }))}
            onCommit={(last) => void edit(change({ past: last + 1 }))}
          />
        </>
      )}
      {schema && (
        <Controls
          schema={schema}
          values={item.source as unknown as Record<string, unknown>}
          where="ground"
          holds={holds}
          onDraft={(name, value) => setDraft(source(name, value))}
          onCommit={(name, value) => void edit(source(name, value))}
        />
      )}
      {!first && (
        <NumberField
          label="Fades over in"
          unit="fr"
          value={item.fade}
          initial={0}
          min={0}
          max={Math.min(600, place.length)}
          onDraft={(fade) => setDraft(change({ fade }))}
          onCommit={(fade) => void edit(change({ fade }))}
        />
      )}
      <Box my="1.5">
        <Choice
          label="Framing"
          value={item.framing.mode ?? 'fill'}
          onChange={(mode) => void edit(change({ framing: { ...item.framing, mode } }))}
          options={[
            { value: 'fill', label: 'Fill', hint: 'Fills the canvas; what stands over is cut off' },
            { value: 'fit', label: 'Whole', hint: 'Shows the whole frame; the rest of the canvas stays free' },
            {
              value: 'hand',
              label: 'By hand',
              hint: 'Drag it on the picture; its corners make it larger, and turn it',
            },
          ]}
        />
        <SwitchRow
          label="Mirrored"
          on={item.framing.mirrored ?? false}
          onChange={(mirrored) => void edit(change({ framing: { ...item.framing, mirrored } }))}
        />
        {item.framing.mode === 'hand' && <ByHand item={item} />}
      </Box>
      {can(item, 'filmed') && shot && others.length > 0 && (
        <Flex mb="1.5">
          <Pick
            label="The shot that is shown here"
            value={shot.id}
            options={[shot, ...others].map((s) => [s.id, s.name])}
            onPick={(to) => void edit({ kind: 'exchange ground', item: item.id, shot: to })}
          />
        </Flex>
      )}
      <ItemTools item={item} place={place} />
      <Canvas />
    </>
  )
})

/** What can be done with an item of the ground. */
function ItemTools({ item, place }: { item: GroundItem; place: ItemView }) {
  const { view, more, edit } = useOf('view', 'more', 'edit')
  const at = view!.items.findIndex((i) => i.id === item.id)
  return (
    <Flex gap="1.5" wrap="wrap">
      <Tool
        icon={SquareSplitHorizontal}
        label="Split"
        hint={withKey('Cut it in two at the playhead', 'split')}
        onClick={() => void edit({ kind: 'split ground', at: useStudio.getState().playhead })}
      />
      <Tool
        icon={Pause}
        label="Stand still here"
        hint={withKey('Have everything stand still at the playhead', 'stand')}
        disabled={!place.footage || can(item, 'stands')}
        onClick={() => void standHere(false)}
      />
      <Tool
        icon={Copy}
        label="Duplicate in the ground"
        hint={withKey('Put a copy right after it', 'duplicate')}
        onClick={() => void edit({ kind: 'duplicate ground', item: item.id })}
      />
      <Tool
        icon={PaintBucket}
        label="Add a colour after it"
        onClick={() => void edit({ kind: 'add colour', at: at + 1 })}
      />
      <Tool
        icon={Trash2}
        label="Remove from ground"
        hint={withKey(
          'Take it out, with the cutouts held from it; what comes after moves up. The shot stays on the shelf',
          'remove',
        )}
        onClick={() => void edit({ kind: 'remove ground', items: [item.id, ...more] })}
      />
    </Flex>
  )
}

/** The canvas of the piece: its size, its rate, what is seen where nothing lies. */
function Canvas() {
  const { view, edit, setDraft } = useOf('view', 'edit', 'setDraft')
  const { width, height, rate, background } = view!.project
  const sizes = SHAPES.some(([, w, h]) => w === width && h === height)
    ? SHAPES
    : [[`${width} × ${height}`, width, height] as [string, number, number], ...SHAPES]
  const rates = RATES.some(([, r]) => r === rate) ? RATES : [[rate, rate] as [string, string], ...RATES]
  const canvas = (w: number, h: number, r: string) =>
    void edit({ kind: 'set canvas', width: w, height: h, rate: r, background })
  return (
    <>
      <Heading>Canvas</Heading>
      <Flex gap="2">
        <Pick
          label="Canvas size"
          value={`${width}x${height}`}
          options={sizes.map(([name, w, h]) => [`${w}x${h}`, name])}
          onPick={(v) => {
            const [w, h] = v.split('x').map(Number)
            canvas(w!, h!, rate)
          }}
        />
        <Pick
          label="Frames a second"
          value={rate}
          options={rates.map(([name, r]) => [r, `${name} fps`])}
          onPick={(r) => canvas(width, height, r)}
        />
      </Flex>
      {(['Width', 'Height'] as const).map((side) => (
        <NumberField
          key={side}
          label={`Canvas ${side.toLowerCase()}`}
          unit="px"
          step={2}
          min={16}
          max={4096}
          value={side === 'Width' ? width : height}
          onCommit={(v) => {
            const even = Math.round(v / 2) * 2
            canvas(side === 'Width' ? even : width, side === 'Height' ? even : height, rate)
          }}
        />
      ))}
      <Box mt="1">
        <ColourField
          label="Background"
          value={background}
          onDraft={(colour) => setDraft({ kind: 'set canvas', width, height, rate, background: colour })}
          onCommit={(colour) => void edit({ kind: 'set canvas', width, height, rate, background: colour })}
        />
      </Box>
    </>
  )
}

/** A framing by hand in numbers: from the middle of the canvas, against where it fills it. */
function ByHand({ item }: { item: GroundItem }) {
  const { view, edit, setDraft } = useOf('view', 'edit', 'setDraft')
  const { width, height } = view!.project
  const framing = item.framing
  const change = (field: object): Edit => ({
    kind: 'change ground',
    item: item.id,
    framing: { ...framing, mode: 'hand', ...field },
  })
  const rows = [
    {
      label: 'Across',
      unit: 'px',
      value: (framing.across ?? 0) * width,
      rest: 0,
      to: (v: number) => ({ across: v / width }),
    },
    {
      label: 'Down',
      unit: 'px',
      value: (framing.down ?? 0) * height,
      rest: 0,
      to: (v: number) => ({ down: v / height }),
    },
    {
      label: 'Size',
      unit: '%',
      value: (framing.scale ?? 1) * 100,
      rest: 100,
      to: (v: number) => ({ scale: Math.max(0.01, v / 100) }),
    },
    { label: 'Turn', unit: '°', value: framing.turn ?? 0, rest: 0, to: (v: number) => ({ turn: v }) },
  ]
  return rows.map((r) => (
    <NumberField
      key={r.label}
      label={r.label}
      unit={r.unit}
      step={1}
      digits={1}
      value={r.value}
      initial={r.rest}
      onDraft={(v) => setDraft(change(r.to(v)))}
      onCommit={(v) => void edit(change(r.to(v)))}
    />
  ))
}
