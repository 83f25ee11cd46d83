import { Flex, Text } from '@chakra-ui/react'
import { PenLine } from 'lucide-react'
import { useOf } from '../shell/store'
import { Act } from './buttons'

/** The way to draw a path anew on the picture; its points are moved there as well. */
export function PenField(p: { disabled?: boolean }) {
  const { drawing, setDrawing } = useOf('drawing', 'setDrawing')
  return (
    <Flex align="center" minH="30px" gap="2">
      <Text flex="1" color="soft" fontSize="12px">
        {drawing ? 'Draw, or set points; Enter ends.' : 'Drag its points in the picture.'}
      </Text>
      <Act icon={PenLine} disabled={p.disabled} onClick={() => setDrawing(!drawing)}>
        {drawing ? 'Leave it' : 'Draw'}
      </Act>
    </Flex>
  )
}
