import { Box, Flex, Text } from '@chakra-ui/react'
import {
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
  Wind,
} from 'lucide-react'
import { useState } from 'react'
import { type Matte, newId, type Piece, Refused } from '../../api/client'
import { Tool } from '../../parts/buttons'
import { withPieces } from '../../parts/clipboard'
import { NameField } from '../../parts/fields'
import { Grip } from '../../parts/Ordered'
import { useCutout, useOf } from '../../store'
import { outlined } from './find'
import { isShape } from './path'

const KIND_ICONS: Record<Piece['kind'], LucideIcon> = {
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
  piece: Piece
  chosen: boolean
  matte: Matte
  onChoose: () => void
  onCommit: (matte: Matte) => void
}

/** A piece of the matte in their list; the chosen one shows what can be done with it. */
export function PieceRow({ piece: x, chosen, matte, onChoose, onCommit }: Props) {
  const Icon = KIND_ICONS[x.kind]
  const change = (changes: Partial<Piece>) => onCommit(changed(matte, x.id, changes))
  return (
    <Box borderRadius="soft" bg={chosen ? 'selectedWash' : undefined} data-piece={x.name} data-kind={x.kind}>
      <Flex align="center" gap="1.5" minH="30px" cursor="pointer" opacity={x.visible ? 1 : 0.55} onClick={onChoose}>
        <Grip id={x.id} />
        <Box as="button" aria-label={`Choose ${x.name}`} aria-pressed={chosen} flexShrink="0" p="1" m="-1">
          <Icon size={14} />
        </Box>
        <Box flex="1" minW="0" display="grid">
          <NameField label="Piece name" value={x.name} onCommit={(name) => change({ name })} />
        </Box>
        <Text color="soft" fontSize="12px" pr="2" flexShrink="0" cursor="default">
          {x.combine}
        </Text>
      </Flex>
      {chosen && (
        <Flex pl="6" pb="1" gap="0.5">
          <Tool
            icon={x.visible ? Eye : EyeOff}
            size={24}
            label={x.visible ? 'Hide' : 'Show'}
            onClick={() => change({ visible: !x.visible })}
          />
          <Tool
            icon={Copy}
            size={24}
            label="Duplicate"
            onClick={() => onCommit(withPieces(matte, [{ ...x, id: newId() }]))}
          />
          {!isShape(x) && <ToPen piece={x} matte={matte} onCommit={onCommit} />}
          <Box flex="1" />
          <Tool
            icon={Trash2}
            size={24}
            label={`Remove ${x.name}`}
            onClick={() => onCommit({ ...matte, pieces: matte.pieces.filter((y) => y.id !== x.id) })}
          />
        </Flex>
      )}
    </Box>
  )
}

/** A matte with one of its pieces changed. */
export const changed = (matte: Matte, id: string, changes: Partial<Piece>): Matte => ({
  ...matte,
  pieces: matte.pieces.map((x) => (x.id === id ? ({ ...x, ...changes } as Piece) : x)),
})

/** Turns a found piece into paths: its outline, and its gaps, cut away. */
function ToPen({
  piece: x,
  matte,
  onCommit,
}: Pick<Props, 'matte' | 'onCommit'> & { piece: Exclude<Piece, { nodes: unknown }> }) {
  const { view, say } = useOf('view', 'say')
  const { hold } = useCutout()!
  const [drawing, setDrawing] = useState(false)
  const draw = async () => {
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
      onCommit({ ...matte, pieces: matte.pieces.flatMap((y) => (y.id === x.id ? own : [y])) })
    } catch (error) {
      say(error instanceof Refused ? error.message : 'That could not be drawn as a path.', 'trouble')
    } finally {
      setDrawing(false)
    }
  }
  return (
    <Tool
      icon={Spline}
      size={24}
      label="Turn into a pen path"
      hint="Turn into a pen path, to edit point by point"
      disabled={drawing}
      onClick={() => void draw()}
    />
  )
}
