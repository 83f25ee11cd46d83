import { Box, Flex, Text } from '@chakra-ui/react'
import { ClipboardPaste, Copy } from 'lucide-react'
import type { Edit, GroundItem, Layer, MotionView } from '../../api/client'
import { Act, Tool } from '../../parts/buttons'
import { useOf } from '../../store'
import { Curves } from './Curves'
import { KeyRow } from './KeyRow'
import { owned } from './lines'
import { copyKeys, pasteKeys } from '../../store/doing'

/** The curves of what is chosen, its chosen keys, and what can be done with all of them. */
export function Middle(p: { owners: (Layer | GroundItem)[]; layers: Layer[]; motion: MotionView | null }) {
  const { key, moreKeys, edit } = useOf('key', 'moreKeys', 'edit')
  const all = p.owners.flatMap((o) => o.keys.map((k) => k.id))
  const chosen = (key ? [key, ...moreKeys] : []).filter((id) => all.includes(id))
  const of = owned(p.owners, chosen.length > 1 ? chosen : all)
  const ids = p.layers.map((l) => l.id)
  const does = (made: Edit) => void edit(made)
  return (
    <>
      <Box flex="1" minH="120px">
        {all.length ? (
          <Curves owners={p.owners} motion={p.motion} />
        ) : (
          <Flex
            direction="column"
            h="100%"
            align="center"
            justify="center"
            textAlign="center"
            gap="1"
            color="soft"
            px="6"
          >
            <Text color="ink" fontFamily="heading" fontWeight="650" fontSize="17px">
              {p.owners.length ? 'Nothing moves yet' : 'The whole piece'}
            </Text>
            <Text maxW="44ch">
              {p.layers.length
                ? 'Press a move at the left and it comes in that way. Or go to a frame, press a kite at the right to set a key, go to another frame and change the value there.'
                : p.owners.length
                  ? 'Press a kite at the right to set a key on how the footage lies; or push it slowly from one framing to another.'
                  : 'What is put on at the left moves all that is seen. Choose a layer or a piece of the ground for what moves by itself.'}
            </Text>
          </Flex>
        )}
      </Box>
      {all.length > 0 && <KeyRow owners={p.owners} motion={p.motion} keys={chosen} />}
      <Flex gap="1.5" mt="2" wrap="wrap" align="center" flexShrink="0">
        {p.layers.length > 0 && (
          <Act hint="Leaves the way it came" onClick={() => does({ kind: 'mirror exit', layers: ids })}>
            Mirror as exit
          </Act>
        )}
        {of.length > 0 && (
          <>
            <Act hint="What came first comes last" onClick={() => does({ kind: 'reverse keys', of })}>
              Reverse
            </Act>
            <Act hint="From the first frame to the last" onClick={() => does({ kind: 'spread keys', of })}>
              Spread
            </Act>
            {p.layers.length > 1 && (
              <Act
                hint="One after the other, by three frames"
                onClick={() => does({ kind: 'stagger', layers: ids, frames: 3, by: 'order' })}
              >
                Stagger
              </Act>
            )}
            <Tool
              icon={Copy}
              size={28}
              label="Copy keys"
              hint="Copies the chosen keys, or all"
              onClick={() => copyKeys(p.owners, chosen)}
            />
          </>
        )}
        {p.layers.length > 0 && (
          <Tool
            icon={ClipboardPaste}
            size={28}
            label="Paste keys"
            hint="Puts copied keys on, whatever the length"
            onClick={() => void pasteKeys()}
          />
        )}
      </Flex>
    </>
  )
}
