import { Flex } from '@chakra-ui/react'
import { Flag, Pause, Scissors } from 'lucide-react'
import type { ItemView, ShotView } from '../../api/client'
import { Act } from '../../parts/buttons'
import { withKey } from '../../parts/keys'
import { useStudio } from '../../store'
import { useHere } from './here'
import { flagHere, holdHere, standHere } from '../../store/doing'

/** What to do with the frame on screen alone. */
export function ThisFrame({ item, shot }: { item: ItemView; shot: ShotView }) {
  const here = useHere(item)
  const flagged = shot.moments.some((m) => m.frame === here)
  const source = useStudio((s) => s.view!.project.ground.find((g) => g.id === item.id)?.source.kind)
  return (
    <Flex gap="1" direction="column" align="flex-start">
      <Act
        icon={Scissors}
        hint={withKey('Hold this frame and carve its subject out', 'hold')}
        onClick={() => void holdHere()}
      >
        Hold this frame
      </Act>
      <Act
        icon={Flag}
        disabled={flagged}
        hint={withKey('Flag this frame as a moment', 'flag')}
        onClick={() => void flagHere()}
      >
        Flag this frame
      </Act>
      <Act
        icon={Pause}
        disabled={!item.footage || source === 'standstill'}
        hint="Everything stops here for a second, and a cutout of this frame lies on top"
        onClick={() => void standHere(true)}
      >
        Stand still
      </Act>
    </Flex>
  )
}
