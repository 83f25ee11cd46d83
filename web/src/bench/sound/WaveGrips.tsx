import { Box } from '@chakra-ui/react'
import { type ReactNode, useState } from 'react'
import { Kite } from '../../parts/Kite'
import { useDrag } from '../../parts/useDrag'
import { BEATS, type Beat, type Corner, downOf, gainAt, HIGH, lineWith, type Sounding, type Trial } from './wave'

interface Gripped {
  sound: Sounding
  /** What is shown of it, as it is tried. */
  trial: { gain: number; line: Corner[]; heard: [number, number] }
  fades: [number, number]
  beats: Beat[]
  x: (second: number) => number
  /** Seconds for each pixel. */
  per: number
  onTry: (trial: Trial) => void
}

/** All that is taken hold of. */
export function Grips(p: Gripped) {
  return (
    <>
      <Corners {...p} />
      <Fades {...p} />
      {p.sound.onTrim && <Trims {...p} />}
      <BeatMarks {...p} />
    </>
  )
}

function Corners({ sound, trial: { gain, line }, x, per, onTry }: Gripped) {
  return line.map((corner, n) => (
    <CornerKite
      key={n}
      x={x(corner.at)}
      y={BEATS + downOf(gain + corner.gain, HIGH)}
      label={`Corner at ${sound.clock(corner.at)}, ${corner.gain} dB`}
      corner={corner}
      move={(dx, dy, from) => {
        const to = {
          at: from.at + dx * per,
          gain: gainAt(downOf(gain + from.gain, HIGH) + dy, HIGH) - gain,
        }
        const next = lineWith(sound.line, n, to, sound.seconds)
        onTry({ line: next })
        return next
      }}
      done={sound.onLine}
      remove={() => sound.onLine(sound.line.filter((_, i) => i !== n))}
    />
  ))
}

function Fades({ sound, trial: { heard }, fades, x, per, onTry }: Gripped) {
  return (['in', 'out'] as const).map((end, n) => (
    <Grip
      key={end}
      label={end === 'in' ? 'Comes up' : 'Goes down'}
      title={end === 'in' ? 'Drag: so long it comes up' : 'Drag: so long it goes down'}
      x={end === 'in' ? x(heard[0] + fades[0]) : x(heard[1] - fades[1])}
      y={BEATS + 1}
      move={(dx) => {
        const by = dx * per
        const most = heard[1] - heard[0]
        const to = Math.max(0, Math.min(most, sound.fades[n]! + (end === 'in' ? by : -by)))
        onTry({ fades: end === 'in' ? [to, sound.fades[1]] : [sound.fades[0], to] })
        return to
      }}
      done={(to) => sound.onFade(end, to)}
    >
      <Box w="10px" h="10px" borderRadius="2px" bg="card" border="2px solid {colors.keyInk}" />
    </Grip>
  ))
}

function Trims({ sound, trial: { heard }, x, per, onTry }: Gripped) {
  return (['start', 'end'] as const).map((end, n) => (
    <Grip
      key={end}
      label={end === 'start' ? `Where ${sound.name} begins` : `Where ${sound.name} ends`}
      title="Drag to hear more or less of it"
      x={x(heard[n]!)}
      y={BEATS + HIGH / 2 - 22}
      move={(dx) => {
        const by = dx * per
        const to =
          end === 'start'
            ? Math.max(0, Math.min(sound.heard[1] - 0.02, sound.heard[0] + by))
            : Math.max(sound.heard[0] + 0.02, Math.min(sound.seconds, sound.heard[1] + by))
        onTry({ heard: end === 'start' ? [to, sound.heard[1]] : [sound.heard[0], to] })
        return to
      }}
      done={(to) => sound.onTrim!(end, to)}
    >
      <Box w="7px" h="44px" borderRadius="3px" bg="selected" />
    </Grip>
  ))
}

function BeatMarks({ sound, beats, x, per }: Gripped) {
  return beats.map((b) => (
    <Grip
      key={`${b.number} ${b.second}`}
      label={`${b.bar ? 'Bar' : 'Beat'} at ${sound.clock(b.second)}`}
      title="A beat: drag it, and all of them move along; with Shift it alone"
      x={x(b.second)}
      y={0}
      move={(dx, shift) => {
        const to = b.second + dx * per
        return { to, shift }
      }}
      done={({ to, shift }) => sound.onBeat?.(b.number, Math.max(0, to), shift)}
    >
      <Box w={b.bar ? '5px' : '3px'} h={b.bar ? '14px' : '9px'} borderRadius="1px" bg={b.bar ? 'ink' : 'soft'} />
    </Grip>
  ))
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
