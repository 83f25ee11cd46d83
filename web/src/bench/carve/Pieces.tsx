import { Box, Flex, Text } from '@chakra-ui/react'
import { ArrowDown, ArrowUp, Eye, EyeOff, PenTool, SquareDashed, Trash2, Unlink } from 'lucide-react'
import type { Matte, Piece } from '../../api/client'
import { Act, Choice, Heading, Tool } from '../../parts/buttons'
import { NameField, NumberField } from '../../parts/fields'
import { useLayer, useOf } from '../../shell/store'

const COMBINE: { value: Piece['combine']; label: string; hint: string }[] = [
  { value: 'add', label: 'Add', hint: 'The shape belongs to the subject' },
  { value: 'cut away', label: 'Cut away', hint: 'The shape is a gap in the subject' },
  { value: 'overlap', label: 'Overlap', hint: 'Only what lies within the shape stays' },
]

interface Props {
  matte: Matte
  shares: string[]
  piece: string | null
  combine: Piece['combine']
  onCombine: (c: Piece['combine']) => void
  onPiece: (id: string) => void
  onShow: (m: Matte) => void
  onCommit: (m: Matte) => void
}

/** The matte's pieces in their order, and what happens to its edge. */
export function Pieces(p: Props) {
  const { matte } = p
  const { edit, view } = useOf('edit', 'view')
  const { layer } = useLayer()!
  const chosen = matte.pieces.find((x) => x.id === p.piece)
  const change = (id: string, changes: Partial<Piece>): Matte => ({
    ...matte,
    pieces: matte.pieces.map((x) => (x.id === id ? { ...x, ...changes } : x)),
  })
  const move = (id: string, by: number) => {
    const pieces = [...matte.pieces]
    const i = pieces.findIndex((x) => x.id === id)
    const [one] = pieces.splice(i, 1)
    pieces.splice(Math.max(0, i + by), 0, one!)
    p.onCommit({ ...matte, pieces })
  }
  const names = p.shares.map((id) => view!.project.layers.find((l) => l.id === id)?.name).filter(Boolean)
  return (
    <Box w="236px" flexShrink="0" borderLeft="1px solid {colors.rule}" overflowY="auto" px="3" pb="3">
      <Heading>Pieces</Heading>
      {matte.pieces.length === 0 && <Text color="soft">Nothing drawn yet. Each shape you close becomes a piece here.</Text>}
      {matte.pieces.map((x, i) => (
        <Flex
          key={x.id}
          align="center"
          gap="1.5"
          pl="2"
          minH="30px"
          borderRadius="soft"
          cursor="pointer"
          bg={x.id === p.piece ? 'selectedWash' : undefined}
          opacity={x.visible ? 1 : 0.55}
          onClick={() => p.onPiece(x.id)}
          data-piece={x.name}
        >
          {x.combine === 'add' ? <PenTool size={14} /> : <SquareDashed size={14} />}
          <Box flex="1" minW="0">
            <NameField label="Piece name" value={x.name} onCommit={(name) => p.onCommit(change(x.id, { name }))} />
          </Box>
          {x.id === p.piece ? (
            <>
              <Tool icon={ArrowUp} size={22} label="Earlier" disabled={i === 0} onClick={() => move(x.id, -1)} />
              <Tool icon={ArrowDown} size={22} label="Later" disabled={i === matte.pieces.length - 1} onClick={() => move(x.id, 1)} />
              <Tool icon={x.visible ? Eye : EyeOff} size={22} label={x.visible ? 'Hide' : 'Show'} onClick={() => p.onCommit(change(x.id, { visible: !x.visible }))} />
              <Tool icon={Trash2} size={22} label={`Remove ${x.name}`} onClick={() => p.onCommit({ ...matte, pieces: matte.pieces.filter((y) => y.id !== x.id) })} />
            </>
          ) : (
            <Text color="soft" fontSize="12px" pr="2">
              {x.combine}
            </Text>
          )}
        </Flex>
      ))}
      <Heading>{chosen ? chosen.name : 'Next shape'}</Heading>
      <Choice
        label="How the piece joins"
        options={COMBINE}
        value={chosen?.combine ?? p.combine}
        onChange={(combine) => {
          p.onCombine(combine)
          if (chosen) p.onCommit(change(chosen.id, { combine }))
        }}
      />
      {chosen && (
        <Box mt="1">
          <NumberField
            label="Opacity"
            unit="%"
            slider
            min={0}
            max={100}
            initial={100}
            value={chosen.opacity * 100}
            onDraft={(v) => p.onShow(change(chosen.id, { opacity: v / 100 }))}
            onCommit={(v) => p.onCommit(change(chosen.id, { opacity: v / 100 }))}
          />
          <Flex as="label" align="center" justify="space-between" minH="28px">
            Invert
            <input
              type="checkbox"
              checked={chosen.invert}
              onChange={() => p.onCommit(change(chosen.id, { invert: !chosen.invert }))}
            />
          </Flex>
        </Box>
      )}
      <Heading>Edge of the whole</Heading>
      <NumberField
        label="Grow"
        unit="px"
        slider
        step={0.5}
        min={-20}
        max={20}
        initial={0}
        value={matte.grow}
        onDraft={(grow) => p.onShow({ ...matte, grow })}
        onCommit={(grow) => p.onCommit({ ...matte, grow })}
      />
      <NumberField
        label="Soften"
        unit="px"
        slider
        step={0.5}
        min={0}
        max={40}
        initial={0}
        value={matte.soften}
        onDraft={(soften) => p.onShow({ ...matte, soften })}
        onCommit={(soften) => p.onCommit({ ...matte, soften })}
      />
      <Flex as="label" align="center" justify="space-between" minH="28px">
        Invert
        <input type="checkbox" checked={matte.invert} onChange={() => p.onCommit({ ...matte, invert: !matte.invert })} />
      </Flex>
      {names.length > 0 && (
        <Box mt="3" pt="2" borderTop="1px solid {colors.rule}">
          <Text color="soft" mb="2">
            This hold is shared with {names.join(', ')}: a change here changes {names.length > 1 ? 'them' : 'it'} too.
          </Text>
          <Act icon={Unlink} onClick={() => void edit({ kind: 'make separate', layer: layer.id })}>
            Make separate
          </Act>
        </Box>
      )}
    </Box>
  )
}
