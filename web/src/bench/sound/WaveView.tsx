import { Box, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import { answer, api } from '../../api/client'
import { Kite } from '../../parts/Kite'
import { useDrag } from '../../parts/useDrag'
import { useWritten } from '../../store'
import { roleColour } from '../../theme/system'
import { type Corner, downOf, gainAt, lineAt, lineWith, outline, shownOf } from './wave'

const [HIGH, BEATS] = [148, 16]
/** Milliseconds within which a second press makes two of one. */
const TWICE = 240

export interface Sounding {
  name: string
  /** What is drawn: a cue's sound or a shot's. */
  of: { cue?: string; shot?: string }
  /** What changes when that sounds otherwise. */
  version: string
  seconds: number
  /** What is heard of it, and how long it comes up and goes down, in its own seconds. */
  heard: [number, number]
  fades: [number, number]
  gain: number
  line: Corner[]
  /** The second that is heard at a frame of the piece; none where it is not. */
  now: (frame: number) => number | null
  beats?: { second: number; number: number; bar: boolean }[]
  /** Where something stands out. */
  accents?: number[]
  /** A second as the project says it. */
  clock: (second: number) => string
  onGain: (gain: number) => void
  onLine: (line: Corner[]) => void
  onFade: (end: 'in' | 'out', seconds: number) => void
  onTrim?: (end: 'start' | 'end', second: number) => void
  onSlip?: (by: number) => void
  onBeat?: (number: number, second: number, alone: boolean) => void
  onSeek: (second: number) => void
}

/** A sound, large: what is heard of it, its line of loudness, its fades and beats, each to be dragged. */
export function WaveView(p: Sounding) {
  const box = useRef<HTMLDivElement>(null)
  const press = useRef(0)
  const [wide, setWide] = useState(0)
  /** What is being dragged, as it would be. */
  const [trial, setTrial] = useState<Partial<Pick<Sounding, 'gain' | 'line' | 'heard' | 'fades'>> & { by?: number }>({})
  useEffect(() => {
    const watch = new ResizeObserver(([e]) => setWide(Math.floor(e!.contentRect.width)))
    watch.observe(box.current!)
    return () => watch.disconnect()
  }, [])
  // What was tried is over once the project says what became of it.
  useEffect(() => setTrial({}), [p.gain, p.line, p.heard, p.fades])

  const [low, high] = shownOf(p.heard, p.seconds)
  const points = Math.max(50, Math.min(1500, wide))
  const { data: peaks } = useQuery({
    queryKey: ['wave', p.of.cue ?? p.of.shot, p.version, low, high, points],
    enabled: wide > 0,
    placeholderData: (before) => before,
    queryFn: () =>
      answer(
        api.GET('/api/projects/{project}/wave', {
          params: { path: { project: location.hash.slice(1) }, query: { ...p.of, first: low, past: high, points } },
        }),
      ),
  })
  const { gain, line, heard, fades } = { ...p, ...trial }
  // In a later round of music that goes round they are where they were in the first.
  const beats = p.beats?.filter((b) => b.second >= low && b.second <= high)
  const accents = p.accents?.filter((at) => at >= low && at <= high)
  const x = (second: number) => ((second - low) / (high - low)) * wide
  const secondAt = (px: number) => low + (px / Math.max(1, wide)) * (high - low)
  const loud = (second: number) => gain + lineAt(line, second)
  const corners = [heard[0], ...line.map((c) => c.at).filter((t) => t > heard[0] && t < heard[1]), heard[1]]
  const path = corners.map((t, i) => `${i ? 'L' : 'M'}${x(t).toFixed(1)},${downOf(loud(t), HIGH).toFixed(1)}`).join('')

  const cursor = useRef<SVGPathElement>(null)
  useWritten(
    (s) => p.now(s.playhead),
    (now) => {
      const seen = now !== null && now >= low && now <= high
      cursor.current!.style.visibility = seen ? 'visible' : 'hidden'
      cursor.current!.style.transform = `translateX(${seen ? x(now) : 0}px)`
    },
  )

  const slip = useDrag({
    slack: 3,
    start: () => ({ by: 0 }),
    move: (dx, _dy, h) => {
      if (!p.onSlip) return
      h.by = (dx / Math.max(1, wide)) * (high - low)
      setTrial({ by: h.by })
    },
    end: (moved, h, e) => {
      if (moved && p.onSlip) return p.onSlip(-h.by)
      if (moved) return
      const second = secondAt(e.clientX - box.current!.getBoundingClientRect().left)
      clearTimeout(press.current)
      press.current = window.setTimeout(() => p.onSeek(second), TWICE)
    },
  })
  const whole = useDrag({
    slack: 2,
    start: () => ({ gain: p.gain }),
    move: (_dx, dy, h) => {
      h.gain = Math.max(-60, Math.min(24, gainAt(downOf(p.gain, HIGH) + dy, HIGH)))
      setTrial({ gain: h.gain })
    },
    end: (moved, h) => moved && p.onGain(h.gain),
  })
  return (
    <Box ref={box} position="relative" h={`${HIGH + BEATS}px`} userSelect="none" data-testid="wave">
      <Box
        position="absolute"
        inset={`${BEATS}px 0 0 0`}
        bg="raised"
        border="1px solid {colors.rule}"
        borderRadius="soft"
        overflow="hidden"
        cursor={p.onSlip ? 'grab' : 'pointer'}
        touchAction="none"
        title={p.onSlip ? 'Drag to hear another part of it; double-click for a corner in the line' : undefined}
        {...slip}
        onDoubleClick={(e) => {
          clearTimeout(press.current)
          const at = secondAt(e.clientX - box.current!.getBoundingClientRect().left)
          const down = e.clientY - box.current!.getBoundingClientRect().top - BEATS
          p.onLine(lineWith(p.line, null, { at, gain: gainAt(down, HIGH) - p.gain }, p.seconds))
        }}
      >
        <svg width={wide} height={HIGH} style={{ display: 'block' }} role="img" aria-label={`The sound of ${p.name}`}>
          <path
            d={outline(peaks ?? [], wide, HIGH)}
            fill={roleColour('sound')}
            opacity="0.85"
            transform={trial.by ? `translate(${x(low + trial.by)} 0)` : undefined}
          />
          {beats?.map((b) => (
            <path
              key={`${b.number} ${b.second}`}
              d={`M${x(b.second).toFixed(1)},0V${HIGH}`}
              stroke={roleColour('ink')}
              strokeOpacity={b.bar ? 0.32 : 0.13}
            />
          ))}
          {accents?.map((at) => (
            <circle key={at} cx={x(at)} cy={HIGH - 5} r="2" fill={roleColour('key')} />
          ))}
          <path d={fadePath(heard, fades, x)} fill={roleColour('paper')} opacity="0.72" />
          <rect x={0} width={Math.max(0, x(heard[0]))} height={HIGH} fill={roleColour('paper')} opacity="0.8" />
          <rect
            x={x(heard[1])}
            width={Math.max(0, wide - x(heard[1]))}
            height={HIGH}
            fill={roleColour('paper')}
            opacity="0.8"
          />
          <path d={path} fill="none" stroke={roleColour('keyInk')} strokeWidth="1.6" />
          <path ref={cursor} d={`M0,0V${HIGH}`} stroke={roleColour('now')} strokeWidth="2" />
        </svg>
      </Box>
      <Box
        position="absolute"
        left={`${Math.max(0, x(heard[0]))}px`}
        w={`${Math.max(4, x(heard[1]) - x(heard[0]))}px`}
        top={`${BEATS + downOf(loud(heard[0]), HIGH) - 5}px`}
        h="10px"
        display={line.length ? 'none' : 'block'}
        role="slider"
        aria-label={`Loudness of ${p.name}`}
        aria-valuenow={gain}
        title={`${gain} dB. Drag it up or down; double-click for a corner`}
        cursor="ns-resize"
        touchAction="none"
        {...whole}
        onDoubleClick={(e) => {
          const at = secondAt(e.clientX - box.current!.getBoundingClientRect().left)
          p.onLine(lineWith(p.line, null, { at, gain: 0 }, p.seconds))
        }}
      />
      {line.map((corner, n) => (
        <CornerKite
          key={n}
          x={x(corner.at)}
          y={BEATS + downOf(gain + corner.gain, HIGH)}
          label={`Corner at ${p.clock(corner.at)}, ${corner.gain} dB`}
          corner={corner}
          move={(dx, dy, from) => {
            const to = {
              at: from.at + (dx / Math.max(1, wide)) * (high - low),
              gain: gainAt(downOf(gain + from.gain, HIGH) + dy, HIGH) - gain,
            }
            const next = lineWith(p.line, n, to, p.seconds)
            setTrial({ line: next })
            return next
          }}
          done={p.onLine}
          remove={() => p.onLine(p.line.filter((_, i) => i !== n))}
        />
      ))}
      {(['in', 'out'] as const).map((end, n) => (
        <Grip
          key={end}
          label={end === 'in' ? 'Comes up' : 'Goes down'}
          title={end === 'in' ? 'Drag: so long it comes up' : 'Drag: so long it goes down'}
          x={end === 'in' ? x(heard[0] + fades[0]) : x(heard[1] - fades[1])}
          y={BEATS + 1}
          move={(dx) => {
            const by = (dx / Math.max(1, wide)) * (high - low)
            const most = heard[1] - heard[0]
            const to = Math.max(0, Math.min(most, p.fades[n]! + (end === 'in' ? by : -by)))
            setTrial({ fades: end === 'in' ? [to, p.fades[1]] : [p.fades[0], to] })
            return to
          }}
          done={(to) => p.onFade(end, to)}
        >
          <Box w="10px" h="10px" borderRadius="2px" bg="card" border="2px solid {colors.keyInk}" />
        </Grip>
      ))}
      {p.onTrim &&
        (['start', 'end'] as const).map((end, n) => (
          <Grip
            key={end}
            label={end === 'start' ? `Where ${p.name} begins` : `Where ${p.name} ends`}
            title="Drag to hear more or less of it"
            x={x(heard[n]!)}
            y={BEATS + HIGH / 2 - 22}
            move={(dx) => {
              const by = (dx / Math.max(1, wide)) * (high - low)
              const to =
                end === 'start'
                  ? Math.max(0, Math.min(p.heard[1] - 0.02, p.heard[0] + by))
                  : Math.max(p.heard[0] + 0.02, Math.min(p.seconds, p.heard[1] + by))
              setTrial({ heard: end === 'start' ? [to, p.heard[1]] : [p.heard[0], to] })
              return to
            }}
            done={(to) => p.onTrim!(end, to)}
          >
            <Box w="7px" h="44px" borderRadius="3px" bg="selected" />
          </Grip>
        ))}
      {beats?.map((b) => (
        <Grip
          key={`${b.number} ${b.second}`}
          label={`${b.bar ? 'Bar' : 'Beat'} at ${p.clock(b.second)}`}
          title="A beat: drag it, and all of them move along; with Shift it alone"
          x={x(b.second)}
          y={0}
          move={(dx, shift) => {
            const to = b.second + (dx / Math.max(1, wide)) * (high - low)
            return { to, shift }
          }}
          done={({ to, shift }) => p.onBeat?.(b.number, Math.max(0, to), shift)}
        >
          <Box w={b.bar ? '5px' : '3px'} h={b.bar ? '14px' : '9px'} borderRadius="1px" bg={b.bar ? 'ink' : 'soft'} />
        </Grip>
      ))}
      {p.seconds > 0 && (
        <Text position="absolute" right="6px" bottom="3px" fontSize="11px" color="soft" className="figures" aria-hidden>
          {(heard[1] - heard[0]).toFixed(2)} of {p.seconds.toFixed(2)} s
        </Text>
      )}
    </Box>
  )
}

function fadePath([first, past]: [number, number], [comes, goes]: [number, number], x: (s: number) => number): string {
  const up = comes > 0 ? `M${x(first)},0L${x(first + comes)},0L${x(first)},${HIGH}Z` : ''
  const down = goes > 0 ? `M${x(past)},0L${x(past - goes)},0L${x(past)},${HIGH}Z` : ''
  return up + down
}

/** Something small that is dragged along: what it would come to is worked out as it goes, and told when it is let go. */
function Grip<T>(p: {
  label: string
  title: string
  x: number
  y: number
  move: (dx: number, shift: boolean) => T
  done: (to: T) => void
  children: ReactNode
}) {
  const [by, setBy] = useState(0)
  const drag = useDrag<{ to: T | null }>({
    start: (e) => {
      e.stopPropagation()
      return { to: null }
    },
    move: (dx, _dy, h, e) => {
      h.to = p.move(dx, e.shiftKey)
      setBy(dx)
    },
    end: (moved, h) => {
      setBy(0)
      if (moved && h.to !== null) p.done(h.to)
    },
  })
  const x = p.y === 0 ? p.x + by : p.x
  return (
    <Box
      as="button"
      aria-label={p.label}
      title={p.title}
      position="absolute"
      left={`${x}px`}
      top={`${p.y}px`}
      transform="translateX(-50%)"
      px="3px"
      cursor="ew-resize"
      touchAction="none"
      onDoubleClick={(e) => e.stopPropagation()}
      {...drag}
    >
      {p.children}
    </Box>
  )
}

function CornerKite(p: {
  x: number
  y: number
  label: string
  corner: Corner
  move: (dx: number, dy: number, from: Corner) => Corner[]
  done: (line: Corner[]) => void
  remove: () => void
}) {
  const drag = useDrag<{ from: Corner; line: Corner[] | null }>({
    start: (e) => {
      e.stopPropagation()
      return { from: p.corner, line: null }
    },
    move: (dx, dy, h) => {
      h.line = p.move(dx, dy, h.from)
    },
    end: (moved, h) => moved && h.line && p.done(h.line),
  })
  return (
    <Box
      as="button"
      aria-label={p.label}
      title={`${p.label}. Drag it; Delete or a double click takes it away`}
      position="absolute"
      left={`${p.x - 7}px`}
      top={`${p.y - 8}px`}
      cursor="move"
      touchAction="none"
      {...drag}
      onDoubleClick={(e) => {
        e.stopPropagation()
        p.remove()
      }}
      onKeyDown={(e) => {
        if (e.key !== 'Delete') return
        e.preventDefault()
        e.stopPropagation()
        p.remove()
      }}
    >
      <Kite />
    </Box>
  )
}
