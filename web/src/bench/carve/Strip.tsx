import { Box, Flex, Text } from '@chakra-ui/react'
import { Check, Eraser, Lock, LockOpen } from 'lucide-react'
import { useRef } from 'react'
import type { Hold, StopState, View } from '../../api/client'
import { Tool } from '../../parts/buttons'
import { useDrag } from '../../parts/useDrag'
import { useOf } from '../../store'
import { roleColour } from '../../theme/system'

type State = StopState

const WORDS: Record<State, string> = {
  fixed: 'fixed by hand',
  locked: 'locked',
  carried: 'carried',
  doubtful: 'carried, doubtful',
  stale: 'carried before a correction beside it',
}

/** The frames through which a matte travels: which are fixed, carried, doubtful, locked, and which still wait. */
export function Strip(p: {
  hold: Hold
  states: View['strips'][string]
  frame: number
  onFrame: (frame: number) => void
}) {
  const { hold, states, frame } = p
  const line = useRef<HTMLDivElement>(null)
  const travel = hold.travel!
  const count = travel.past - travel.first
  const state = states[frame]
  const own = hold.frame === frame
  const frameAt = (x: number) => {
    const r = line.current!.getBoundingClientRect()
    return travel.first + Math.max(0, Math.min(count - 1, Math.floor(((x - r.left) / r.width) * count)))
  }
  const drag = useDrag({
    start: (e) => {
      p.onFrame(frameAt(e.clientX))
      return true
    },
    move: (_dx, _dy, _from, e) => p.onFrame(frameAt(e.clientX)),
  })
  const step = (by: number) => p.onFrame(Math.max(travel.first, Math.min(travel.past - 1, frame + by)))
  /** The next frame in a direction that somebody should look at. */
  const doubtful = (by: number) => {
    for (let f = frame + by; f >= travel.first && f < travel.past; f += by)
      if (states[f] === 'doubtful' || states[f] === 'stale') return p.onFrame(f)
  }
  return (
    <Flex
      direction="column"
      bg="card"
      borderTop="1px solid {colors.rule}"
      px="3"
      pt="1"
      pb="2"
      gap="0.5"
      css={{ containerType: 'inline-size' }}
      data-testid="strip"
    >
      <Flex align="center" gap="2" h="26px">
        <Text className="figures" fontWeight="600" whiteSpace="nowrap" flexShrink="0">
          Frame {frame}
        </Text>
        <Text color="soft" truncate data-testid="strip-state">
          {own ? 'the held frame' : state ? WORDS[state] : 'no matte yet'}
        </Text>
        <Box flex="1" />
        <Legends />
        {!own && state && <StopTools state={state} hold={hold.id} frame={frame} />}
      </Flex>
      <Box
        ref={line}
        position="relative"
        h="22px"
        cursor="pointer"
        touchAction="none"
        tabIndex={0}
        role="slider"
        aria-label="Frame of the travelling matte"
        title="Go to a frame; what you draw or mark there corrects it and spreads to its neighbours. With the arrow keys too; N goes to the next doubtful one."
        aria-valuemin={travel.first}
        aria-valuemax={travel.past - 1}
        aria-valuenow={frame}
        aria-valuetext={`frame ${frame}, ${own ? 'the held frame' : state ? WORDS[state] : 'no matte yet'}`}
        {...drag}
        onKeyDown={(e) => {
          const by = e.shiftKey ? 10 : 1
          const keys: Record<string, () => void> = {
            ArrowLeft: () => step(-by),
            ArrowRight: () => step(by),
            Home: () => p.onFrame(travel.first),
            End: () => p.onFrame(travel.past - 1),
            n: () => doubtful(1),
            N: () => doubtful(-1),
          }
          const act = keys[e.key]
          if (!act) return
          e.preventDefault()
          e.stopPropagation()
          act()
        }}
      >
        <Stops hold={hold} states={states} />
        <Box
          position="absolute"
          top="-2px"
          bottom="-2px"
          left={`${((frame - travel.first + 0.5) / count) * 100}%`}
          w="2px"
          ml="-1px"
          bg="now"
          pointerEvents="none"
        />
      </Box>
    </Flex>
  )
}

/** What can be done with a frame that the matte travelled to. */
function StopTools({ state, hold, frame }: { state: State; hold: string; frame: number }) {
  const { edit } = useOf('edit')
  const change = (change: 'lock' | 'unlock' | 'fix' | 'forget') =>
    void edit({ kind: 'change stop', hold, frame, change })
  return (
    <>
      {state !== 'locked' && state !== 'fixed' && (
        <Tool
          size={26}
          icon={Check}
          label="Accept this frame"
          hint="Accept: nothing carries over it any more"
          onClick={() => change('fix')}
        />
      )}
      {
        <Tool
          size={26}
          icon={state === 'locked' ? LockOpen : Lock}
          label={state === 'locked' ? 'Unlock this frame' : 'Lock this frame'}
          on={state === 'locked'}
          onClick={() => change(state === 'locked' ? 'unlock' : 'lock')}
        />
      }
      {state !== 'locked' && (
        <Tool
          size={26}
          icon={Eraser}
          label="Forget this frame"
          hint="Forget this frame's matte, to carry it anew"
          onClick={() => change('forget')}
        />
      )}
    </>
  )
}

/** A stroke for each frame, by what its matte is. */
function Stops({ hold, states }: { hold: Hold; states: View['strips'][string] }) {
  const travel = hold.travel!
  const count = travel.past - travel.first
  return (
    <>
      <svg
        width="100%"
        height="22"
        viewBox={`0 0 ${count} 22`}
        preserveAspectRatio="none"
        style={{ display: 'block' }}
        aria-hidden
      >
        <rect x="0" y="9" width={count} height="4" fill={roleColour('rule')} />
        {Array.from({ length: count }, (_, k) => {
          const s = k + travel.first === hold.frame ? 'fixed' : states[k + travel.first]
          if (!s) return null
          const [y, h] = s === 'fixed' || s === 'locked' ? [3, 16] : s === 'carried' ? [7, 8] : [5, 12]
          const fill = roleColour(
            s === 'fixed' || s === 'locked' ? 'ink' : s === 'carried' ? 'selected' : s === 'stale' ? 'soft' : 'now',
          )
          return (
            <rect
              key={k}
              x={k + 0.08}
              y={y}
              width={0.84}
              height={h}
              fill={fill}
              opacity={s === 'stale' ? 0.45 : 1}
              data-stop={s}
            />
          )
        })}
      </svg>
      {Array.from({ length: count }, (_, k) =>
        states[k + travel.first] === 'locked' ? (
          <Box
            key={k}
            position="absolute"
            left={`${((k + 0.5) / count) * 100}%`}
            top="5px"
            ml="-5px"
            pointerEvents="none"
            color="card"
          >
            <Lock size={10} />
          </Box>
        ) : null,
      )}
    </>
  )
}

function Legends() {
  return (
    <Flex
      gap="2.5"
      color="soft"
      fontSize="11.5px"
      flexShrink="0"
      css={{ '@container (max-width: 470px)': { display: 'none' } }}
    >
      <Legend colour="ink" tall>
        fixed
      </Legend>
      <Legend colour="selected">carried</Legend>
      <Legend colour="now">doubtful</Legend>
      <Legend colour="soft" faint>
        out of date
      </Legend>
    </Flex>
  )
}

function Legend(p: { colour: 'ink' | 'selected' | 'now' | 'soft'; tall?: boolean; faint?: boolean; children: string }) {
  return (
    <Flex align="center" gap="1">
      <Box w="5px" h={p.tall ? '12px' : '8px'} bg={p.colour} opacity={p.faint ? 0.45 : 1} />
      <Text>{p.children}</Text>
    </Flex>
  )
}
