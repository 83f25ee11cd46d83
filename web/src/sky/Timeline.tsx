import { Box, Flex } from '@chakra-ui/react'
import { useVirtualizer, type Virtualizer } from '@tanstack/react-virtual'
import { Magnet, Maximize2, ZoomIn, ZoomOut } from 'lucide-react'
import { useEffect, useMemo, useRef } from 'react'
import { GroundLane } from '../ground/GroundLane'
import { GROUND } from '../ground/place'
import { Empty, Tool } from '../parts/buttons'
import { useOf } from '../store'
import { AddMenu } from './AddMenu'
import { Lane } from './Lane'
import { ABOVE, LABEL, LANE, RULER } from '../ground/measures'
import { Ruler } from './Ruler'
import { Landing, Line, Over, Playhead, Snapped } from './Over'
import { type Row, rowsOf } from './rows'
import { Boxed, useBoxing } from './useBoxing'
import { useDropped } from './useDropped'
import { useTimeScale } from './useTimeScale'

/** Sky and ground on one measure of time: the layers' lanes above, the footage below, and the lines between. */
export function Timeline() {
  const {
    view: shown,
    folded,
    snap,
    toggleSnap,
    layer: chosen,
  } = useOf('view', 'folded', 'snap', 'toggleSnap', 'layer')
  const view = shown!
  const scroller = useRef<HTMLDivElement>(null)
  const length = Math.max(1, view.length)
  const { room, per, zoomed, scale, all } = useTimeScale(scroller, length)
  const rows = useMemo(() => rowsOf(view, folded, chosen), [view, folded, chosen])
  const lanes = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LANE,
    scrollMargin: ABOVE,
    // Times and ground lie over the lanes.
    scrollPaddingStart: ABOVE,
    scrollPaddingEnd: GROUND + 10,
    overscan: 8,
    getItemKey: (n) => rows[n]!.layer.id,
  })

  useBroughtIn(
    lanes,
    rows.findIndex((r) => r.layer.id === chosen),
    chosen,
  )
  const { place, box, boxing } = useBoxing(scroller, rows, per)
  const dropped = useDropped(rows, per, place)

  if (view.length === 0) {
    return (
      <Box ref={scroller} h="100%" bg="skyTop" {...dropped}>
        <Empty title="Sky and ground">
          Footage lies on the ground here, in order. Cutouts fly above it, each on a line to its own frame.
        </Empty>
      </Box>
    )
  }
  const wide = LABEL + length * per + 40
  const skyHeight = Math.max(rows.length, 1) * LANE + 10
  return (
    <Box position="relative" h="100%" bg="skyTop">
      <Flex position="absolute" left="6px" top="1px" zIndex="6" bg="skyTop">
        <AddMenu />
        <Tool icon={ZoomOut} label="Zoom time out" size={26} disabled={!zoomed} onClick={() => scale(0.66)} />
        <Tool icon={ZoomIn} label="Zoom time in" size={26} onClick={() => scale(1.5)} />
        <Tool icon={Maximize2} label="Show all" size={26} disabled={!zoomed} onClick={all} />
        <Tool
          icon={Magnet}
          label="Snap"
          hint="What is dragged in time snaps to cuts, moments, beats, ends of spans, the playhead and whole seconds"
          size={26}
          on={snap}
          onClick={toggleSnap}
        />
      </Flex>
      <Box ref={scroller} h="100%" overflow="auto" data-testid="timeline" {...dropped}>
        <Flex direction="column" position="relative" w={`${Math.max(wide, room)}px`} minH="100%">
          <Ruler per={per} />
          <Box
            position="relative"
            flex="1"
            minH={`${skyHeight}px`}
            touchAction="none"
            userSelect="none"
            data-testid="sky"
            {...boxing}
          >
            {rows.length === 0 && (
              <Flex pl={`${LABEL}px`} h={`${LANE}px`} pt="4px" align="center" color="soft">
                The sky is empty. Hold a frame (H) and its cutout flies here.
              </Flex>
            )}
            {lanes.getVirtualItems().map(({ index, key, start }) => (
              <Box key={key} position="absolute" left="0" right="0" top="0" style={{ top: start - RULER }}>
                <Lane row={rows[index]!} number={index} rows={rows} per={per} />
              </Box>
            ))}
            <Landing per={per} />
            {box && <Boxed box={box} />}
          </Box>
          <GroundLane per={per} />
          <Lines rows={rows} shown={lanes.getVirtualItems().map((l) => l.index)} per={per} to={RULER + skyHeight + 2} />
          <Over zIndex={5}>
            <Snapped per={per} />
            <Playhead per={per} />
          </Over>
        </Flex>
      </Box>
    </Box>
  )
}

/** The lines from cutouts to their frames in the ground. */
function Lines(p: { rows: Row[]; shown: number[]; per: number; to: number }) {
  const { view } = useOf('view')
  return (
    <Over zIndex={3}>
      {p.shown.map((index) => {
        const { layer } = p.rows[index]!
        const landing = view!.layers[layer.id]?.hold && view!.layers[layer.id]?.landing
        if (typeof landing !== 'number') return null
        return <Line key={layer.id} layer={layer.id} number={index} x={LABEL + landing * p.per} to={p.to} />
      })}
    </Over>
  )
}

/** What is chosen elsewhere, or has just been put in, is seen here as well. */
function useBroughtIn(lanes: Virtualizer<HTMLDivElement, Element>, index: number, chosen: string | null) {
  const toChosen = useRef(lanes)
  toChosen.current = lanes
  useEffect(() => {
    if (index >= 0) toChosen.current.scrollToIndex(index, { align: 'auto' })
    // Only as something else is chosen: whoever has scrolled away stays there.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [chosen])
}
