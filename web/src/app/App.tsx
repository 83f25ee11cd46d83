import { Box, Flex, VisuallyHidden } from '@chakra-ui/react'
import { useEffect, useState } from 'react'
import { Bench } from './Bench'
import { Hints } from '../parts/Hints'
import { useDrag } from '../parts/useDrag'
import { Picture } from '../picture/Picture'
import { Shelf } from '../shelf/Shelf'
import { Timeline } from '../sky/Timeline'
import { DropArea } from './DropArea'
import { Header } from './Header'
import { KeySheet } from './KeySheet'
import { Message } from './Message'
import { ProjectList } from './ProjectList'
import { Rescue } from './Rescue'
import { useShortcuts } from './shortcuts'
import { useAtWork } from './useAtWork'
import { useStudio } from '../store'

/** Everything: the project list, or a project's header, picture, bench, sky and ground. */
export function App() {
  const view = useStudio((s) => s.view)
  const open = useStudio((s) => s.open)
  const unreadable = useStudio((s) => s.unreadable)
  const [sheet, setSheet] = useState(false)
  useShortcuts(() => setSheet((s) => !s))
  useAtWork()
  useEffect(() => {
    const project = location.hash.slice(1)
    if (project) void open(project)
  }, [open])
  return (
    <Flex direction="column" h="100%">
      {view ? (
        <Workplace onSheet={() => setSheet(true)} />
      ) : unreadable ? (
        <Rescue project={unreadable} onSheet={() => setSheet(true)} />
      ) : (
        <ProjectList onSheet={() => setSheet(true)} />
      )}
      <KeySheet open={sheet} onClose={() => setSheet(false)} />
      <Message />
      <Hints />
    </Flex>
  )
}

/** What somebody has dragged it to, if they have. */
const remembered = (name: string): number | null => Number(localStorage.getItem(name)) || null

/** How large the window is. */
function useWindow(): [number, number] {
  const [size, setSize] = useState<[number, number]>([window.innerWidth, window.innerHeight])
  useEffect(() => {
    const sized = () => setSize([window.innerWidth, window.innerHeight])
    addEventListener('resize', sized)
    return () => removeEventListener('resize', sized)
  }, [])
  return size
}

/** Tall pieces: the picture from top to bottom at the left. Wide pieces: sky and ground across the whole width. */
function Workplace({ onSheet }: { onSheet: () => void }) {
  const project = useStudio((s) => s.view!.project)
  const importFiles = useStudio((s) => s.importFiles)
  const wide = project.width > project.height
  const [across, down] = useWindow()
  const [tallLeft, setTallLeft] = useState(() => remembered('split-tall'))
  const [wideLeft, setWideLeft] = useState(() => remembered('split-wide'))
  const [low, setLow] = useState(() => remembered('split-low'))
  const setAndKeep = (name: string, set: (x: number) => void) => (x: number) => {
    localStorage.setItem(name, String(x))
    set(x)
  }
  const moveLeft = wide ? setAndKeep('split-wide', setWideLeft) : setAndKeep('split-tall', setTallLeft)
  const moveLow = setAndKeep('split-low', setLow)
  // As large as the window has room for, until somebody has dragged it.
  const tallest = Math.round((down - 148) * 0.5625) + 26
  const left = wide ? (wideLeft ?? Math.max(560, Math.round(0.44 * across))) : (tallLeft ?? tallest)
  const width = Math.max(240, Math.min(left, across - 560))
  const height = Math.max(150, Math.min(low ?? Math.round(0.37 * down), down - 300))
  const heading = <VisuallyHidden as="h1">{project.name}</VisuallyHidden>
  const picture = <Picture />
  const bench = (
    <Flex minH="0" minW="0" flex="1">
      <Box flex="1" minW="0" minH="0" bg="card">
        <Bench />
      </Box>
      <Shelf />
    </Flex>
  )
  const timeline = <Timeline />
  const upright = <Divider upright at={width} onMove={moveLeft} />
  const level = <Divider at={height} from="end" onMove={moveLow} />
  return (
    <DropArea says="Let go to import" onFiles={(files) => void importFiles(files)}>
      <Header onSheet={onSheet} />
      {wide ? (
        <Flex as="main" direction="column" flex="1" minH="0">
          {heading}
          <Flex flex="1" minH="0">
            <Box w={`${width}px`} minW="0">
              {picture}
            </Box>
            {upright}
            {bench}
          </Flex>
          {level}
          <Box h={`${height}px`}>{timeline}</Box>
        </Flex>
      ) : (
        <Flex as="main" flex="1" minH="0">
          {heading}
          <Box w={`${width}px`} minW="0">
            {picture}
          </Box>
          {upright}
          <Flex direction="column" flex="1" minW="0">
            {bench}
            {level}
            <Box h={`${height}px`}>{timeline}</Box>
          </Flex>
        </Flex>
      )}
    </DropArea>
  )
}

/** The line between two parts of the page, to drag, or to move with the arrow keys. */
function Divider(p: { upright?: boolean; at: number; from?: 'end'; onMove: (x: number) => void }) {
  const sign = p.from === 'end' ? -1 : 1
  const drag = useDrag({
    start: () => p.at,
    move: (dx, dy, from) => p.onMove(from + sign * (p.upright ? dx : dy)),
  })
  return (
    <Box
      role="separator"
      aria-orientation={p.upright ? 'vertical' : 'horizontal'}
      aria-label={p.upright ? 'Width of the picture' : 'Height of sky and ground'}
      aria-valuenow={Math.round(p.at)}
      aria-valuemin={0}
      aria-valuemax={p.upright ? window.innerWidth : window.innerHeight}
      tabIndex={0}
      flexShrink="0"
      w={p.upright ? '5px' : undefined}
      h={p.upright ? undefined : '5px'}
      cursor={p.upright ? 'col-resize' : 'row-resize'}
      bg="rule"
      _hover={{ bg: 'selected' }}
      touchAction="none"
      {...drag}
      onKeyDown={(e) => {
        const more = p.upright ? 'ArrowRight' : 'ArrowUp'
        const less = p.upright ? 'ArrowLeft' : 'ArrowDown'
        if (e.key !== more && e.key !== less) return
        e.preventDefault()
        e.stopPropagation()
        p.onMove(p.at + (e.key === more ? 16 : -16))
      }}
    />
  )
}
