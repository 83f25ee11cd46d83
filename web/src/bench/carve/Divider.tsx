import { Box, Center } from '@chakra-ui/react'
import { MoveHorizontal } from 'lucide-react'
import { useDrag } from '../../parts/useDrag'

interface Props {
  /** Where the line stands, as a share of the stage's width. */
  at: number
  width: number
  onMove: (at: number) => void
}

const STEP = 0.02

/** The line between the frame as filmed, to its left, and the view that is chosen. */
export function Divider({ at, width, onMove }: Props) {
  const move = (share: number) => onMove(Math.min(0.98, Math.max(0.02, share)))
  const drag = useDrag({
    start: (e) => {
      e.stopPropagation()
      return at
    },
    move: (dx, _dy, from, e) => {
      e.stopPropagation()
      move(from + dx / width)
    },
    end: (_moved, _from, e) => e.stopPropagation(),
  })
  return (
    <Box
      role="slider"
      tabIndex={0}
      aria-label="Between before and after"
      aria-valuenow={Math.round(at * 100)}
      aria-valuemin={2}
      aria-valuemax={98}
      title="Left of it as filmed, right of it as cut; drag it"
      position="absolute"
      top="0"
      bottom="0"
      left={`${Math.round(at * width) - 8}px`}
      w="16px"
      cursor="ew-resize"
      touchAction="none"
      onDoubleClick={(e) => e.stopPropagation()}
      {...drag}
      onKeyDown={(e) => {
        const by = e.key === 'ArrowLeft' ? -STEP : e.key === 'ArrowRight' ? STEP : 0
        if (!by) return
        e.preventDefault()
        e.stopPropagation()
        move(at + by)
      }}
    >
      <Box position="absolute" top="0" bottom="0" left="7px" w="2px" bg="#FBF8F2" boxShadow="0 0 0 1px #1E253066" />
      <Center
        position="absolute"
        top="62%"
        left="-5px"
        w="26px"
        h="26px"
        borderRadius="full"
        bg="#FBF8F2"
        color="#1E2530"
        boxShadow="0 0 0 1px #1E253066"
      >
        <MoveHorizontal size={15} />
      </Center>
    </Box>
  )
}
