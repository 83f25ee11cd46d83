import { Box, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { answer, api } from '../../api/client'
import { useDrag } from '../../parts/useDrag'
import { useWritten } from '../../store'
import { roleColour } from '../../theme/system'
import {
  BEATS,
  type Beat,
  downOf,
  gainAt,
  HIGH,
  lineAt,
  lineWith,
  outline,
  shownOf,
  type Sounding,
  type Trial,
} from './wave'
import { Grips } from './WaveGrips'

/** Milliseconds within which a second press makes two of one. */
const TWICE = 240

/** A sound, large: what is heard of it, its line of loudness, its fades and beats, each to be dragged. */
export function WaveView(p: Sounding) {
  const box = useRef<HTMLDivElement>(null)
  const press = useRef(0)
  const [wide, setWide] = useState(0)
  const [trial, setTrial] = useState<Trial>({})
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
  /** Seconds for each pixel. */
  const per = (high - low) / Math.max(1, wide)
  const x = (second: number) => ((second - low) / (high - low)) * wide
  const secondAt = (px: number) => low + px * per
  const loud = (second: number) => gain + lineAt(line, second)
  const corners = [heard[0], ...line.map((c) => c.at).filter((t) => t > heard[0] && t < heard[1]), heard[1]]
  const path = corners.map((t, i) => `${i ? 'L' : 'M'}${x(t).toFixed(1)},${downOf(loud(t), HIGH).toFixed(1)}`).join('')

  const slip = useDrag({
    slack: 3,
    start: () => ({ by: 0 }),
    move: (dx, _dy, h) => {
      if (!p.onSlip) return
      h.by = dx * per
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
        <Drawn
          name={p.name}
          peaks={peaks ?? []}
          shown={{ heard, fades, path }}
          beats={beats ?? []}
          accents={accents ?? []}
          shift={trial.by ? x(low + trial.by) : 0}
          scale={{ x, wide }}
          now={(frame) => {
            const now = p.now(frame)
            return now !== null && now >= low && now <= high ? x(now) : null
          }}
        />
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
      <Grips
        sound={p}
        trial={{ gain, line, heard }}
        fades={fades}
        beats={beats ?? []}
        x={x}
        per={per}
        onTry={setTrial}
      />
      {p.seconds > 0 && (
        <Text position="absolute" right="6px" bottom="3px" fontSize="11px" color="soft" className="figures" aria-hidden>
          {(heard[1] - heard[0]).toFixed(2)} of {p.seconds.toFixed(2)} s
        </Text>
      )}
    </Box>
  )
}

/** The wave, what is heard of it and how loud, its beats and accents, and the playhead. */
function Drawn(p: {
  name: string
  peaks: number[]
  shown: { heard: [number, number]; fades: [number, number]; path: string }
  beats: Beat[]
  accents: number[]
  /** By how many pixels the wave lies elsewhere, while it is dragged. */
  shift: number
  scale: { x: (second: number) => number; wide: number }
  /** Where a frame of the piece is heard; none where it is not. */
  now: (frame: number) => number | null
}) {
  const { name, peaks, beats, accents, shift } = p
  const { heard, fades, path } = p.shown
  const { x, wide } = p.scale
  const cursor = useRef<SVGPathElement>(null)
  useWritten(
    (s) => p.now(s.playhead),
    (now) => {
      cursor.current!.style.visibility = now === null ? 'hidden' : 'visible'
      cursor.current!.style.transform = `translateX(${now ?? 0}px)`
    },
  )
  return (
    <svg width={wide} height={HIGH} style={{ display: 'block' }} role="img" aria-label={`The sound of ${name}`}>
      <path
        d={outline(peaks, wide, HIGH)}
        fill={roleColour('sound')}
        opacity="0.85"
        transform={shift ? `translate(${shift} 0)` : undefined}
      />
      {beats.map((b) => (
        <path
          key={`${b.number} ${b.second}`}
          d={`M${x(b.second).toFixed(1)},0V${HIGH}`}
          stroke={roleColour('ink')}
          strokeOpacity={b.bar ? 0.32 : 0.13}
        />
      ))}
      {accents.map((at) => (
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
  )
}

function fadePath([first, past]: [number, number], [comes, goes]: [number, number], x: (s: number) => number): string {
  const up = comes > 0 ? `M${x(first)},0L${x(first + comes)},0L${x(first)},${HIGH}Z` : ''
  const down = goes > 0 ? `M${x(past)},0L${x(past - goes)},0L${x(past)},${HIGH}Z` : ''
  return up + down
}
