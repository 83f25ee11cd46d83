import { Flex } from '@chakra-ui/react'
import { PersonStanding, Wind } from 'lucide-react'
import { useRef } from 'react'
import { Act, Empty } from '../../parts/buttons'
import { useCutout, useStudio } from '../../store'
import { Carry, useSpreading } from './Carry'
import { Easel } from './Easel'
import { Pieces } from './Pieces'
import { Plate } from './Plate'
import { Rail } from './Rail'
import { Strip } from './Strip'
import { MARKING } from './tools'
import { useCarving } from './useCarving'

/** The held frame big, and the tools that cut its subject out. */
export function Carve() {
  const found = useCutout()
  const go = useStudio((s) => s.go)
  if (!found) {
    return (
      <Empty
        title="Carve the subject out"
        action={
          <Act main onClick={() => go('catch')}>
            Catch a frame
          </Act>
        }
      >
        Choose a cutout in the sky, or hold a frame first: the held frame comes up here, to draw around its subject.
      </Empty>
    )
  }
  return <CarveHold key={found.hold.id} />
}

function CarveHold() {
  const box = useRef<HTMLDivElement>(null)
  const carving = useCarving(box)
  const { hold, view, layer, matte, tool, marks, mend, choose } = carving
  const strip = view.strips[hold.id]
  useSpreading(hold.id, strip)
  return (
    <Flex h="100%" minH="0">
      <Rail
        tool={tool}
        busy={!!marks.busy}
        plate={!!hold.plate}
        onTool={choose}
        onPick={(kind) => void marks.choose(kind)}
      />
      <Flex direction="column" flex="1" minW="0" minH="0">
        <Easel box={box} carving={carving} />
        {hold.travel && <Strip hold={hold} states={strip ?? {}} frame={carving.at} onFrame={carving.toFrame} />}
      </Flex>
      <Pieces
        matte={matte}
        shares={view.layers[layer.id]?.shares ?? []}
        piece={carving.piece?.id ?? null}
        combine={carving.combine}
        brush={MARKING.has(tool) || tool === 'mend' ? marks.brush : null}
        onBrush={marks.setBrush}
        onCombine={carving.setCombine}
        onPiece={carving.choosePiece}
        onShow={carving.show}
        onCommit={(m) => void carving.commit(m)}
        below={<Plate mending={mend.mending} onMend={() => choose(tool === 'mend' ? 'points' : 'mend')} />}
      >
        {hold.matte.pieces.length > 0 || hold.travel ? (
          <Carry />
        ) : (
          <Flex gap="1.5" mt="2" wrap="wrap">
            <Act main icon={PersonStanding} disabled={!!marks.busy} onClick={() => void marks.choose('person')}>
              Find people
            </Act>
            <Act icon={Wind} disabled={!!marks.busy} onClick={() => void marks.choose('mover')}>
              Find what moves
            </Act>
          </Flex>
        )}
      </Pieces>
    </Flex>
  )
}
