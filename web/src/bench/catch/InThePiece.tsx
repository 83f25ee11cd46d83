import { Box, Flex, chakra } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import type { Edit, GroundItem, ItemView, ShotView } from '../../api/client'
import { Act, Choice, Heading } from '../../parts/buttons'
import { ColourField } from '../../parts/ColourField'
import { NumberField } from '../../parts/fields'
import { memo } from 'react'
import { useOf } from '../../shell/store'

const SHAPES: [string, number, number][] = [
  ['9:16', 1080, 1920],
  ['4:5', 1080, 1350],
  ['1:1', 1080, 1080],
  ['16:9', 1920, 1080],
]
const RATES: [string, string][] = [
  ['24', '24'],
  ['25', '25'],
  ['29.97', '30000/1001'],
  ['30', '30'],
  ['50', '50'],
  ['60', '60'],
]

/** How a piece of footage lies in the ground, and what it lies on: trim, fit, canvas. */
export const InThePiece = memo(function InThePiece({
  item,
  place,
  shot,
}: {
  item: GroundItem
  place: ItemView
  shot: ShotView
}) {
  const { view, edit, setDraft } = useOf('view', 'edit', 'setDraft')
  const { width, height, rate, background } = view!.project
  const change = (changes: Partial<Extract<Edit, { kind: 'change ground' }>>): Edit => ({
    kind: 'change ground',
    item: item.id,
    ...changes,
  })
  const sizes = SHAPES.some(([, w, h]) => w === width && h === height)
    ? SHAPES
    : [[`${width} × ${height}`, width, height] as [string, number, number], ...SHAPES]
  const rates = RATES.some(([, r]) => r === rate) ? RATES : [[rate, rate] as [string, string], ...RATES]
  const canvas = (w: number, h: number, r: string) =>
    void edit({ kind: 'set canvas', width: w, height: h, rate: r, background })
  return (
    <>
      <Heading>In the piece</Heading>
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
            initial={shot.frames - 1}
            min={place.range[0]}
            max={place.footage ? shot.frames - 1 : undefined}
            onDraft={(last) => setDraft(change({ past: last + 1 }))}
            onCommit={(last) => void edit(change({ past: last + 1 }))}
          />
        </>
      )}
      <Box my="1.5">
        <Choice
          label="Framing"
          value={item.framing.mode}
          onChange={(mode) => void edit(change({ framing: { mode } }))}
          options={[
            { value: 'fill', label: 'Fill', hint: 'Fills the canvas; what stands over is cut off' },
            { value: 'fit', label: 'Whole', hint: 'Shows the whole frame; the rest of the canvas stays free' },
          ]}
        />
      </Box>
      <Act
        icon={Trash2}
        hint="Takes it out of the ground, with the cutouts held from it. The shot stays on the shelf"
        onClick={() => void edit({ kind: 'remove ground', item: item.id })}
      >
        Remove from ground
      </Act>
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
})

function Pick(p: { label: string; value: string; options: [string, string][]; onPick: (v: string) => void }) {
  return (
    <chakra.select
      aria-label={p.label}
      title={p.label}
      value={p.value}
      flex="1"
      minW="0"
      h="28px"
      px="1.5"
      bg="raised"
      border="1px solid {colors.rule}"
      borderRadius="soft"
      onChange={(e) => p.onPick(e.target.value)}
    >
      {p.options.map(([value, name]) => (
        <option key={value} value={value}>
          {name}
        </option>
      ))}
    </chakra.select>
  )
}
