import { Box, Flex, Text } from '@chakra-ui/react'
import {
  ArrowDown,
  ArrowUp,
  BoxSelect,
  Brush,
  CircleDashed,
  Copy,
  Diff,
  Eye,
  EyeOff,
  FileImage,
  Lasso,
  type LucideIcon,
  Magnet,
  PenTool,
  PersonStanding,
  Route,
  Spline,
  Trash2,
  Unlink,
  Wind,
} from 'lucide-react'
import { useState } from 'react'
import { type Matte, newId, type Piece, Refused } from '../../api/client'
import { Act, Choice, Heading, Tool } from '../../parts/buttons'
import { NameField, NumberField } from '../../parts/fields'
import { useCutout, useOf } from '../../store'
import { withPieces } from '../../parts/clipboard'
import { outlined } from './find'
import { isShape } from './path'
import { MatteMenu } from './MatteMenu'

const COMBINE: { value: Piece['combine']; label: string; hint: string }[] = [
  { value: 'add', label: 'Add', hint: 'The piece belongs to the subject' },
  { value: 'cut away', label: 'Cut away', hint: 'The piece is a gap in the subject' },
  { value: 'overlap', label: 'Overlap', hint: 'Only what lies within the piece stays' },
]

export const KIND_ICONS: Record<Piece['kind'], LucideIcon> = {
  pen: PenTool,
  oval: CircleDashed,
  box: BoxSelect,
  lasso: Lasso,
  cling: Magnet,
  marks: Brush,
  mover: Wind,
  person: PersonStanding,
  difference: Diff,
  picture: FileImage,
  carried: Route,
}

interface Props {
  matte: Matte
  shares: string[]
  piece: string | null
  combine: Piece['combine']
  brush: number | null
  onBrush: (width: number) => void
  onCombine: (c: Piece['combine']) => void
  onPiece: (id: string) => void
  onShow: (m: Matte) => void
  onCommit: (m: Matte) => void
  below: React.ReactNode
  children: React.ReactNode
}

/** The matte's pieces in their order, the chosen one's edge, and what happens to the whole. */
export function Pieces(p: Props) {
  const { matte } = p
  const { edit, view, say } = useOf('edit', 'view', 'say')
  const { layer, hold } = useCutout()!
  const [drawing, setDrawing] = useState(false)
  const chosen = matte.pieces.find((x) => x.id === p.piece)
  const change = (id: string, changes: Partial<Piece>): Matte => ({
    ...matte,
    pieces: matte.pieces.map((x) => (x.id === id ? ({ ...x, ...changes } as Piece) : x)),
  })
  const move = (id: string, by: number) => {
    const pieces = [...matte.pieces]
    const i = pieces.findIndex((x) => x.id === id)
    const [one] = pieces.splice(i, 1)
    pieces.splice(Math.max(0, i + by), 0, one!)
    p.onCommit({ ...matte, pieces })
  }
  const duplicate = (x: Piece) => p.onCommit(withPieces(matte, [{ ...x, id: newId() }]))
  const toPen = async (x: Piece) => {
    if (isShape(x)) return
    setDrawing(true)
    try {
      const shapes = await outlined(view!.project.id, hold.id, x)
      const own = shapes.map((s, i): Piece => ({
        ...s,
        id: i ? newId() : x.id,
        name: i ? `${x.name}: ${s.name.toLowerCase()}` : x.name,
        combine: s.combine === 'add' ? x.combine : 'cut away',
        opacity: s.combine === 'add' ? x.opacity : 1,
        visible: x.visible,
      }))
      p.onCommit({ ...matte, pieces: matte.pieces.flatMap((y) => (y.id === x.id ? own : [y])) })
    } catch (error) {
      say(error instanceof Refused ? error.message : 'That could not be drawn as a path.', 'trouble')
    } finally {
      setDrawing(false)
    }
  }
  const edge = (
    label: string,
    value: number,
    most: number,
    least: number,
    put: (v: number) => Matte,
    unit = 'px',
    step = 0.5,
    initial = 0,
    of?: string,
  ) => (
    <NumberField
      label={label}
      name={of && `${label} of ${of}`}
      unit={unit}
      slider
      step={step}
      min={least}
      max={most}
      initial={initial}
      value={value}
      onDraft={(v) => p.onShow(put(v))}
      onCommit={(v) => p.onCommit(put(v))}
    />
  )
  const names = p.shares.map((id) => view!.project.layers.find((l) => l.id === id)?.name).filter(Boolean)
  return (
    <Box w="254px" flexShrink="0" borderLeft="1px solid {colors.rule}" overflowY="auto" px="3" pb="3">
      <Heading aside={<MatteMenu matte={matte} piece={chosen ?? null} onCommit={p.onCommit} />}>Pieces</Heading>
      {matte.pieces.length === 0 && (
        <Text color="soft">Nothing here yet. Every pick, mark or shape you make becomes a piece.</Text>
      )}
      {matte.pieces.map((x, i) => {
        const Icon = KIND_ICONS[x.kind]
        return (
          <Box
            key={x.id}
            borderRadius="soft"
            bg={x.id === p.piece ? 'selectedWash' : undefined}
            data-piece={x.name}
            data-kind={x.kind}
          >
            <Flex
              align="center"
              gap="1.5"
              pl="2"
              minH="30px"
              cursor="pointer"
              opacity={x.visible ? 1 : 0.55}
              onClick={() => p.onPiece(x.id)}
            >
              <Box
                as="button"
                aria-label={`Choose ${x.name}`}
                aria-pressed={x.id === p.piece}
                flexShrink="0"
                p="1"
                m="-1"
              >
                <Icon size={14} />
              </Box>
              <Box flex="1" minW="0" display="grid">
                <NameField label="Piece name" value={x.name} onCommit={(name) => p.onCommit(change(x.id, { name }))} />
              </Box>
              <Text color="soft" fontSize="12px" pr="2" flexShrink="0" cursor="default">
                {x.combine}
              </Text>
            </Flex>
            {x.id === p.piece && (
              <Flex pl="6" pb="1" gap="0.5">
                <Tool icon={ArrowUp} size={24} label="Earlier" disabled={i === 0} onClick={() => move(x.id, -1)} />
                <Tool
                  icon={ArrowDown}
                  size={24}
                  label="Later"
                  disabled={i === matte.pieces.length - 1}
                  onClick={() => move(x.id, 1)}
                />
                <Tool
                  icon={x.visible ? Eye : EyeOff}
                  size={24}
                  label={x.visible ? 'Hide' : 'Show'}
                  onClick={() => p.onCommit(change(x.id, { visible: !x.visible }))}
                />
                <Tool icon={Copy} size={24} label="Duplicate" onClick={() => duplicate(x)} />
                {!isShape(x) && (
                  <Tool
                    icon={Spline}
                    size={24}
                    label="Turn into a pen path"
                    hint="Turn into a pen path, to edit point by point"
                    disabled={drawing}
                    onClick={() => void toPen(x)}
                  />
                )}
                <Box flex="1" />
                <Tool
                  icon={Trash2}
                  size={24}
                  label={`Remove ${x.name}`}
                  onClick={() => p.onCommit({ ...matte, pieces: matte.pieces.filter((y) => y.id !== x.id) })}
                />
              </Flex>
            )}
          </Box>
        )
      })}
      {p.brush !== null && (
        <Box mt="2">
          <NumberField
            label="Brush"
            unit="px"
            slider
            min={2}
            max={400}
            value={p.brush}
            onDraft={p.onBrush}
            onCommit={p.onBrush}
          />
        </Box>
      )}
      {p.children}
      <Heading>{chosen ? chosen.name : 'Next piece'}</Heading>
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
          {edge(
            'Opacity',
            chosen.opacity * 100,
            100,
            0,
            (v) => change(chosen.id, { opacity: v / 100 }),
            '%',
            1,
            100,
            chosen.name,
          )}
          {edge('Grow', chosen.grow, 20, -20, (grow) => change(chosen.id, { grow }), 'px', 0.5, 0, chosen.name)}
          {edge(
            'Soften in',
            chosen.soften_in,
            40,
            0,
            (v) => change(chosen.id, { soften_in: v }),
            'px',
            0.5,
            0,
            chosen.name,
          )}
          {edge(
            'Soften out',
            chosen.soften_out,
            40,
            0,
            (v) => change(chosen.id, { soften_out: v }),
            'px',
            0.5,
            0,
            chosen.name,
          )}
          <Check
            label="Invert"
            on={chosen.invert}
            onChange={() => p.onCommit(change(chosen.id, { invert: !chosen.invert }))}
          />
        </Box>
      )}
      <Heading>Edge of the whole</Heading>
      {edge('Grow', matte.grow, 20, -20, (grow) => ({ ...matte, grow }))}
      {edge('Soften in', matte.soften_in, 40, 0, (v) => ({ ...matte, soften_in: v }))}
      {edge('Soften out', matte.soften_out, 40, 0, (v) => ({ ...matte, soften_out: v }))}
      {edge('Smooth', matte.smooth, 20, 0, (smooth) => ({ ...matte, smooth }))}
      {edge('Fine edge', matte.fine_edge, 40, 0, (v) => ({ ...matte, fine_edge: v }), 'px', 1)}
      {edge('Clean fringe', matte.fringe * 100, 100, 0, (v) => ({ ...matte, fringe: v / 100 }), '%', 5, 80)}
      <Check label="Invert" on={matte.invert} onChange={() => p.onCommit({ ...matte, invert: !matte.invert })} />
      {p.below}
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

function Check(p: { label: string; on: boolean; onChange: () => void }) {
  return (
    <Flex as="label" align="center" justify="space-between" minH="28px">
      {p.label}
      <input type="checkbox" checked={p.on} onChange={p.onChange} />
    </Flex>
  )
}
