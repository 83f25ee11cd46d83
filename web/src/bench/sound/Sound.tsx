import { Box, Flex, Text } from '@chakra-ui/react'
import { useEffect, useState } from 'react'
import { Act, Choice, Empty } from '../../parts/buttons'
import { useStudio } from '../../store'
import { pickFiles } from '../../parts/pickFiles'
import { useSounding } from './chosen'
import { CueSettings } from './CueSettings'
import { Hits } from './Hits'
import { ItemSettings } from './ItemSettings'
import { Mixer } from './Mixer'
import { Shaped } from './Shaped'

/** Beside a wide picture the bench is narrow: the values are then below the sound that is shaped. */
const NARROW = '@container (max-width: 800px)'

/** Where sounds are chosen and heard (left), one is seen and shaped (middle), and has its values, or all are mixed
 * (right). */
export function Sound() {
  const length = useStudio((s) => s.view!.length)
  if (!length)
    return (
      <Empty
        title="Sound"
        action={
          <Act main onClick={() => pickFiles()}>
            Import a video
          </Act>
        }
      >
        Hits, music and voices are put on frames here, and stay with what happens there.
      </Empty>
    )
  return (
    <Flex h="100%" minH="0" css={{ containerType: 'inline-size' }}>
      <Box
        w="292px"
        flexShrink="0"
        borderRight="1px solid {colors.rule}"
        overflowY="auto"
        px="3"
        pb="3"
        css={{ [NARROW]: { width: '232px' } }}
      >
        <Hits />
      </Box>
      <Flex flex="1" minW="0" css={{ [NARROW]: { display: 'block', overflowY: 'auto' } }}>
        <Box flex="1" minW="0" overflowY="auto" px="3" pb="3" data-testid="shaped">
          <Shaped />
        </Box>
        <Box
          w="252px"
          flexShrink="0"
          borderLeft="1px solid {colors.rule}"
          overflowY="auto"
          px="3"
          pb="3"
          css={{ [NARROW]: { width: 'auto', borderLeft: 'none', borderTop: '1px solid {colors.rule}' } }}
        >
          <Values />
        </Box>
      </Flex>
    </Flex>
  )
}

const SIDES = [
  { value: 'one', label: 'This sound' },
  { value: 'mix', label: 'The mix' },
]

/** The values of the sound that is shaped, or of the mix. */
function Values() {
  const chosen = useSounding()
  const [side, setSide] = useState('mix')
  const cue = chosen?.cue?.id
  // Who chooses a sound wants to change it.
  useEffect(() => setSide(cue ? 'one' : 'mix'), [cue])
  return (
    <>
      <Box my="2">
        <Choice label="What the values are of" options={SIDES} value={side} onChange={setSide} />
      </Box>
      {side === 'mix' && <Mixer />}
      {side === 'one' && chosen?.cue && <CueSettings key={chosen.cue.id} cue={chosen.cue} />}
      {side === 'one' && chosen?.item && <ItemSettings item={chosen.item} />}
      {side === 'one' && !chosen && (
        <Text color="soft">Go to the frame where something happens and press a sound at the left.</Text>
      )}
    </>
  )
}
