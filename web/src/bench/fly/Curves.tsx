import { Box, Flex, Text } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import type { GroundItem, Layer, MotionView } from '../../api/client'
import { Choice } from '../../parts/buttons'
import { useStudio } from '../../store'
import { chartOf, pointed } from './chart'
import { ChosenEnds, CurveHandles, CurveKeys, Lassoed } from './CurveKeys'
import { CurveLines, Ruled } from './CurveLines'
import type { Line } from './lines'
import { useCurveHand } from './useCurveHand'

/**
 * All that has keys as curves over the frames, each to its own measure: *amount*, how much, or *pace*, how fast. Keys are
 * dragged in time and value, their handles bend the curve; a rectangle chooses keys, its ends draw them out.
 */
export function Curves({ owners, motion }: { owners: (Layer | GroundItem)[]; motion: MotionView | null }) {
  const [shown, setShown] = useState<'amount' | 'pace'>('amount')
  const [focus, setFocus] = useState<string | null>(null)
  const [frame, setFrame] = useState<DOMRect | null>(null)
  const box = useRef<HTMLDivElement>(null)
  const svg = useRef<SVGSVGElement>(null)
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setFrame(entry!.contentRect))
    if (box.current) watch.observe(box.current)
    return () => watch.disconnect()
  }, [])
  const pace = shown === 'pace'
  const [w, h] = [Math.max(120, frame?.width ?? 300), Math.max(90, frame?.height ?? 200)]
  const chart = chartOf(motion, owners, pace, w, h)
  const front = chart.lines.find((l) => l.id === focus) ?? chart.lines.find((l) => !l.still) ?? chart.lines[0]
  const { drag, rectangle, chosen } = useCurveHand(svg, owners, chart, front, setFocus)
  // Of keys that lie on one another, those of the line in front are taken hold of.
  const places = chart.places.toSorted((a, b) => Number(a.line.id === front?.id) - Number(b.line.id === front?.id))
  return (
    <Flex direction="column" h="100%" minH="0">
      <Flex align="center" justify="space-between" mb="1.5" gap="2">
        <Choice
          label="What the curves show"
          value={shown}
          onChange={setShown}
          options={[
            { value: 'amount', label: 'Amount', hint: 'How much at each frame' },
            { value: 'pace', label: 'Pace', hint: 'How fast that changes, a second' },
          ]}
        />
        <Text color="soft" fontSize="12px" truncate className="figures">
          {front && <Pointed line={front} pace={pace} />}
        </Text>
      </Flex>
      <Box
        ref={box}
        flex="1"
        minH="96px"
        bg="paper"
        border="1px solid {colors.rule}"
        borderRadius="soft"
        overflow="hidden"
      >
        <svg
          ref={svg}
          width={w}
          height={h}
          style={{ display: 'block', touchAction: 'none', userSelect: 'none' }}
          data-testid="curves"
          {...drag}
        >
          <rect width={w} height={h} fill="transparent" />
          <Ruled chart={chart} />
          <CurveLines chart={chart} front={front} onFront={setFocus} />
          <ChosenEnds chart={chart} chosen={chosen} />
          {!pace && front && chosen.length === 1 && <CurveHandles chart={chart} front={front} id={chosen[0]!} />}
          <CurveKeys places={places} chosen={chosen} />
          {rectangle && <Lassoed rectangle={rectangle} />}
        </svg>
      </Box>
    </Flex>
  )
}

/** What the line in front is at the playhead, in words. */
function Pointed({ line, pace }: { line: Line; pace: boolean }) {
  const settled = useStudio((s) => s.settled)
  return pointed(line, settled, pace)
}
