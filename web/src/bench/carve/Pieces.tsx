import { Box, Text } from '@chakra-ui/react'
import { Unlink } from 'lucide-react'
import type { Matte, Piece } from '../../api/client'
import { Act, Choice, Heading } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { Ordered, Placed } from '../../parts/Ordered'
import { useCutout, useOf } from '../../store'
import { PieceEdge, WholeEdge } from './Edges'
import { MatteMenu } from './MatteMenu'
import { changed, PieceRow } from './PieceRow'

const COMBINE: { value: Piece['combine']; label: string; hint: string }[] = [
  { value: 'add', label: 'Add', hint: 'The piece belongs to the subject' },
  { value: 'cut away', label: 'Cut away', hint: 'The piece is a gap in the subject' },
  { value: 'overlap', label: 'Overlap', hint: 'Only what lies within the piece stays' },
]

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
  const chosen = matte.pieces.find((x) => x.id === p.piece)
  const move = (id: string, to: number) => {
    const rest = matte.pieces.filter((x) => x.id !== id)
    p.onCommit({
      ...matte,
      pieces: rest.toSpliced(
        to,
        0,
        matte.pieces.find((x) => x.id === id)!,
      ),
    })
  }
  return (
    <Box w="254px" flexShrink="0" borderLeft="1px solid {colors.rule}" overflowY="auto" px="3" pb="3">
      <Heading aside={<MatteMenu matte={matte} piece={chosen ?? null} onCommit={p.onCommit} />}>Pieces</Heading>
      {matte.pieces.length === 0 && (
        <Text color="soft">Nothing here yet. Every pick, mark or shape you make becomes a piece.</Text>
      )}
      <Ordered things={matte.pieces} onMove={move}>
        {matte.pieces.map((x) => (
          <Placed key={x.id} id={x.id}>
            <PieceRow
              piece={x}
              chosen={x.id === p.piece}
              matte={matte}
              onChoose={() => p.onPiece(x.id)}
              onCommit={p.onCommit}
            />
          </Placed>
        ))}
      </Ordered>
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
          if (chosen) p.onCommit(changed(matte, chosen.id, { combine }))
        }}
      />
      {chosen && <PieceEdge piece={chosen} matte={matte} onShow={p.onShow} onCommit={p.onCommit} />}
      <Heading>Edge of the whole</Heading>
      <WholeEdge matte={matte} onShow={p.onShow} onCommit={p.onCommit} />
      {p.below}
      <Shared with_={p.shares} />
    </Box>
  )
}

/** Which other layers show this hold as well, and how to part from them. */
function Shared({ with_ }: { with_: string[] }) {
  const { edit, view } = useOf('edit', 'view')
  const { layer } = useCutout()!
  const names = with_.map((id) => view!.project.layers.find((l) => l.id === id)?.name).filter(Boolean)
  if (!names.length) return null
  return (
    <Box mt="3" pt="2" borderTop="1px solid {colors.rule}">
      <Text color="soft" mb="2">
        This hold is shared with {names.join(', ')}: a change here changes {names.length > 1 ? 'them' : 'it'} too.
      </Text>
      <Act icon={Unlink} onClick={() => void edit({ kind: 'make separate', layer: layer.id })}>
        Make separate
      </Act>
    </Box>
  )
}
