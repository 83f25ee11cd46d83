import { Box } from '@chakra-ui/react'
import { type KeyboardEvent, type ReactNode, type RefObject, useEffect, useRef, useState } from 'react'
import type { ItemView, ShotView, Watched } from '../../api/client'
import { useDrag } from '../../parts/useDrag'
import { useStudio, useWritten } from '../../store'
import { roleColour } from '../../theme/system'
import { sourceAt, useHere } from './here'
import { tagColour } from '../../parts/tags'
import type { Candidate } from './useChosen'

/** In pixels: how high the curves and the thumbnails are; how near to a line the pointer takes it. */
const CURVES = 84
const THUMBS = 40
const EDGE = 14

interface Props {
  shot: ShotView
  item: ItemView
  watched: Watched | undefined
  picks: Candidate[]
  /** The ends of an even spacing, if that is what is chosen by. */
  ends: [number, number] | null
  onSeek: (frame: number) => void
  onEnds: (first: number, last: number) => void
  onNudge: (base: number, frame: number) => void
}

/** What the arrow keys do where a frame is chosen: one back or on, with Shift ten. */
const byArrows = (go: (by: number) => void) => (e: KeyboardEvent) => {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
  if (!by) return
  e.preventDefault()
  e.stopPropagation()
  go(by * (e.shiftKey ? 10 : 1))
}

/** The frames of a shot that its strip shows: all, or as many as the wheel has come near to. */
function useZoomed(box: RefObject<HTMLDivElement | null>, shot: ShotView) {
  const [width, setWidth] = useState(0)
  const [range, setRange] = useState<[number, number]>([0, shot.frames])
  useEffect(() => setRange([0, shot.frames]), [shot.id, shot.frames])
  useEffect(() => {
    const watcher = new ResizeObserver(([entry]) => setWidth(entry!.contentRect.width))
    watcher.observe(box.current!)
    return () => watcher.disconnect()
  }, [box])
  useEffect(() => {
    const target = box.current!
    const onWheel = (e: WheelEvent) => {
      e.preventDefault()
      const at = target.getBoundingClientRect().left
      setRange(([from, past]) => {
        const span = past - from
        const point = Math.max(0, Math.min(1, (e.clientX - at - EDGE) / Math.max(1, target.clientWidth - 2 * EDGE)))
        const sideways = Math.abs(e.deltaX) > Math.abs(e.deltaY)
        const next = sideways
          ? span
          : Math.max(Math.min(12, shot.frames), Math.min(shot.frames, span * 2 ** (e.deltaY / 400)))
        const shift = sideways ? (e.deltaX / 800) * span : 0
        const start = Math.max(0, Math.min(shot.frames - next, from + point * (span - next) + shift))
        return [Math.round(start), Math.round(start + next)]
      })
    }
    target.addEventListener('wheel', onWheel, { passive: false })
    return () => target.removeEventListener('wheel', onWheel)
  }, [box, shot.frames])
  return { width, range }
}

/** The shot's frames in a row, under two quiet curves: how far the movement has gone, and how crisp the subject is. */
export function Strip(p: Props) {
  const { shot, watched, picks, ends, item } = p
  const box = useRef<HTMLDivElement>(null)
  const { width, range } = useZoomed(box, shot)
  const [a, b] = range
  const per = Math.max(0.001, (width - 2 * EDGE) / Math.max(1, b - a))
  const x = (frame: number) => EDGE + (frame + 0.5 - a) * per
  const frameAt = (px: number) => Math.max(a, Math.min(b - 1, Math.floor((px - EDGE) / per + a)))

  const [from, past] = item.range ?? [0, shot.frames]
  const shown = (frame: number) => frame >= a - 1 && frame <= b
  return (
    <Box
      ref={box}
      position="relative"
      h={`${CURVES + THUMBS + 14}px`}
      flexShrink="0"
      bg="card"
      borderTop="1px solid {colors.rule}"
      overflow="hidden"
      data-testid="strip"
      data-known={watched?.known.reduce((sum, [x0, x1]) => sum + x1 - x0, 0) ?? 0}
    >
      <Scrub
        shot={shot}
        item={item}
        x={x}
        frameAt={frameAt}
        left={() => box.current!.getBoundingClientRect().left}
        onSeek={p.onSeek}
      >
        {width > 0 && <Thumbs shot={shot} range={range} left={EDGE} width={width - 2 * EDGE} />}
        <svg
          width="100%"
          height={CURVES + THUMBS + 14}
          style={{ position: 'absolute', inset: 0, pointerEvents: 'none' }}
          aria-hidden="true"
        >
          {ends && (
            <rect
              x={x(ends[0])}
              y="0"
              width={Math.max(0, x(ends[1]) - x(ends[0]))}
              height={CURVES + 4}
              fill={roleColour('selectedWash')}
            />
          )}
          {watched && width > 0 && <Lines watched={watched} x={x} range={range} per={per} />}
          {shot.cuts.filter(shown).map((cut) => (
            <g key={cut}>
              <line
                x1={x(cut - 0.5)}
                x2={x(cut - 0.5)}
                y1="0"
                y2={CURVES + THUMBS + 8}
                stroke={roleColour('ink')}
                strokeDasharray="3 3"
              />
              <text x={x(cut - 0.5) + 4} y={CURVES - 4} fontSize="11" fill={roleColour('ink')}>
                cut
              </text>
            </g>
          ))}
          {[[a, from] as const, [past, b] as const].map(
            ([one, two]) =>
              two > one && (
                <rect
                  key={one}
                  x={x(one - 0.5)}
                  y="0"
                  width={Math.max(0, (Math.min(two, b) - Math.max(one, a)) * per)}
                  height={CURVES + THUMBS + 10}
                  fill={roleColour('paper')}
                  opacity="0.72"
                />
              ),
          )}
          {shot.moments
            .filter((m) => shown(m.frame))
            .map((m) => (
              <path key={m.id} d={`M${x(m.frame) - 4} ${CURVES + 1}h8l-4 6z`} fill={tagColour(m.tag)} />
            ))}
        </svg>
      </Scrub>
      {watched && <Peaks watched={watched} x={x} range={range} width={width} />}
      {picks
        .filter((c) => c.kept && shown(c.frame))
        .map((c, n) => (
          <Pin
            key={c.base}
            number={n + 1}
            pick={c}
            x={x}
            per={per}
            flips={x(c.frame) > width - 24}
            onNudge={p.onNudge}
            onSeek={p.onSeek}
          />
        ))}
      {ends && (
        <>
          <End
            label="First frame of the spacing"
            frame={ends[0]}
            x={x}
            per={per}
            most={[from, ends[1]]}
            onMove={(f) => p.onEnds(f, ends[1])}
            onSeek={p.onSeek}
          />
          <End
            label="Last frame of the spacing"
            frame={ends[1]}
            x={x}
            per={per}
            most={[ends[0], past - 1]}
            onMove={(f) => p.onEnds(ends[0], f)}
            onSeek={p.onSeek}
          />
        </>
      )}
    </Box>
  )
}

/** Where the strip is pressed, dragged along, or stepped through; with a line at the frame on screen. */
function Scrub(p: {
  shot: ShotView
  item: ItemView
  x: (frame: number) => number
  frameAt: (px: number) => number
  left: () => number
  onSeek: (frame: number) => void
  children: ReactNode
}) {
  const { shot } = p
  const here = useHere(p.item)
  const line = useRef<HTMLDivElement>(null)
  useWritten(
    (s) => p.x(sourceAt(p.item, s.playhead)),
    (x) => (line.current!.style.transform = `translateX(${x}px)`),
  )
  const drag = useDrag({
    start: (e) => {
      p.onSeek(p.frameAt(e.clientX - p.left()))
      return p.left()
    },
    move: (_dx, _dy, left, e) => p.onSeek(p.frameAt(e.clientX - left)),
  })
  return (
    <Box
      role="slider"
      tabIndex={0}
      aria-label={`Frames of ${shot.name}`}
      aria-valuemin={0}
      aria-valuemax={shot.frames - 1}
      aria-valuenow={here}
      position="absolute"
      inset="0"
      cursor="pointer"
      touchAction="none"
      onKeyDown={byArrows((by) => p.onSeek(Math.max(0, Math.min(shot.frames - 1, here + by))))}
      {...drag}
    >
      {p.children}
      <Box
        ref={line}
        position="absolute"
        top="0"
        left="-0.7px"
        w="1.4px"
        h={`${CURVES + THUMBS + 10}px`}
        bg="ink"
        pointerEvents="none"
      />
    </Box>
  )
}

function Thumbs({
  shot,
  range,
  left,
  width,
}: {
  shot: ShotView
  range: [number, number]
  left: number
  width: number
}) {
  const project = useStudio((s) => s.view!.project.id)
  const [a, b] = range
  const wide = Math.max(14, Math.min(4 * THUMBS, (THUMBS * shot.width) / shot.height))
  const count = Math.max(1, Math.min(120, Math.min(b - a, Math.round(width / wide))))
  const url = `/api/projects/${project}/shots/${shot.id}/strip.jpg?first=${a}&past=${b}&count=${count}&height=${2 * THUMBS}`
  return (
    <Box
      position="absolute"
      left={`${left}px`}
      top={`${CURVES + 8}px`}
      w={`${width}px`}
      h={`${THUMBS}px`}
      borderRadius="3px"
      bgImage={`url(${url})`}
      bgSize="100% 100%"
      bg="surround"
      style={{ backgroundImage: `url(${url})`, backgroundSize: '100% 100%' }}
    />
  )
}

/** The two curves, where the frames were looked at. */
function Lines(p: { watched: Watched; x: (frame: number) => number; range: [number, number]; per: number }) {
  const { watched, x, range } = p
  const [a, b] = range
  const step = watched.step
  const line = (values: (number | null)[]) =>
    watched.known.map(([from, past]) => {
      const points: string[] = []
      let pen = 'M'
      const lo = Math.max(from, a - step)
      const hi = Math.min(past, b + step)
      const stride = Math.max(step, Math.ceil(0.75 / p.per / step) * step)
      for (let f = lo; f < hi; f += stride) {
        const v = values[Math.floor(f / step)]
        if (v == null)
          pen = 'M' // nobody is there
        else {
          points.push(`${pen}${x(f).toFixed(1)} ${(CURVES - 10 - v * (CURVES - 34)).toFixed(1)}`)
          pen = 'L'
        }
      }
      return points.join('')
    })
  const known = watched.known
  const unknown: [number, number][] = []
  let at = a
  for (const [from, past] of known) {
    if (from > at) unknown.push([at, Math.min(from, b)])
    at = Math.max(at, past)
  }
  if (at < b) unknown.push([at, b])
  return (
    <>
      {unknown.map(([one, two]) => (
        <line
          key={one}
          x1={x(one)}
          x2={x(two - 1)}
          y1={CURVES - 8}
          y2={CURVES - 8}
          stroke={roleColour('rule')}
          strokeWidth="2"
          strokeDasharray="2 5"
        />
      ))}
      {line(watched.crisp).map((d, n) => (
        <path key={`c${n}`} d={d} fill="none" stroke="#9A8C76" strokeWidth="1.5" strokeLinejoin="round" />
      ))}
      {line(watched.gone).map((d, n) => (
        <path
          key={`g${n}`}
          d={d}
          fill="none"
          stroke={roleColour('selected')}
          strokeWidth="2.2"
          strokeLinejoin="round"
        />
      ))}
    </>
  )
}

/** What the curves are, and the apexes by name where there is room. */
function Peaks(p: { watched: Watched; x: (frame: number) => number; range: [number, number]; width: number }) {
  const { watched, x, range, width } = p
  const [a, b] = range
  const placed: [number, number][] = []
  const named = watched.proposals
    .filter((one) => one.peak > 0.3 && one.frame >= a && one.frame < b)
    .slice(0, 12)
    .flatMap((one) => {
      const half = one.why.length * 3 + 8
      const at = Math.max(half, Math.min(width - half, x(one.frame)))
      if (placed.some(([l, r]) => at + half > l && at - half < r)) return []
      placed.push([at - half, at + half])
      return [{ ...one, at }]
    })
  const movement = watched.movements.filter(([from]) => from < b).at(-1)?.[1]
  return (
    <Box position="absolute" inset="0" pointerEvents="none" fontSize="11px" lineHeight="1">
      {named.map((one) => (
        <Box
          key={one.frame}
          position="absolute"
          top="4px"
          left={`${one.at}px`}
          transform="translateX(-50%)"
          whiteSpace="nowrap"
          color="selected"
          bg="card"
          px="2px"
          data-apex={one.frame}
        >
          {one.why}
        </Box>
      ))}
      {watched.known.length > 0 && (
        <Box position="absolute" left={`${EDGE}px`} top={`${CURVES - 5}px`} display="flex" gap="10px" bg="card">
          <Box color="selected">{movement}</Box>
          <Box color="soft">how crisp</Box>
        </Box>
      )}
    </Box>
  )
}

/** A chosen frame: press to see it, drag or use the arrows to nudge it. */
function Pin(p: {
  number: number
  pick: Candidate
  x: (frame: number) => number
  per: number
  flips: boolean
  onNudge: (base: number, frame: number) => void
  onSeek: (frame: number) => void
}) {
  const { pick, per } = p
  const drag = useDrag({
    slack: 3,
    start: () => pick.frame,
    move: (dx, _dy, from) => p.onNudge(pick.base, from + Math.round(dx / per)),
    end: (moved) => !moved && p.onSeek(pick.frame),
  })
  return (
    <Box
      as="button"
      aria-label={`Chosen frame ${pick.frame}`}
      title={`Frame ${pick.frame}${pick.why ? `: ${pick.why}` : ''}. Drag, or use the arrow keys, to nudge it`}
      data-pin={pick.frame}
      position="absolute"
      top="0"
      left={`${p.x(pick.frame) - 7}px`}
      w="14px"
      h={`${CURVES + 6}px`}
      cursor="ew-resize"
      touchAction="none"
      {...drag}
      onKeyDown={byArrows((by) => {
        p.onNudge(pick.base, pick.frame + by)
        p.onSeek(pick.frame + by)
      })}
    >
      <svg width="22" height={CURVES + 6} style={{ overflow: 'visible' }} aria-hidden="true">
        <line x1="7" x2="7" y1="17" y2={CURVES + 6} stroke={roleColour('now')} strokeWidth="1.5" />
        <path d={p.flips ? 'M7 17H-6l4.5 4.5L-6 26H7Z' : 'M7 17h13l-4.5 4.5L20 26H7Z'} fill={roleColour('now')} />
      </svg>
    </Box>
  )
}

/** An end of an even spacing, to be dragged. */
function End(p: {
  label: string
  frame: number
  x: (frame: number) => number
  per: number
  most: [number, number]
  onMove: (frame: number) => void
  onSeek: (frame: number) => void
}) {
  const go = (frame: number) => {
    const to = Math.max(p.most[0], Math.min(p.most[1], frame))
    p.onMove(to)
    p.onSeek(to)
  }
  const drag = useDrag({ start: () => p.frame, move: (dx, _dy, from) => go(from + Math.round(dx / p.per)) })
  return (
    <Box
      role="slider"
      tabIndex={0}
      aria-label={p.label}
      aria-valuenow={p.frame}
      aria-valuemin={p.most[0]}
      aria-valuemax={p.most[1]}
      position="absolute"
      top="0"
      left={`${p.x(p.frame) - 6}px`}
      w="12px"
      h={`${CURVES + 4}px`}
      cursor="ew-resize"
      touchAction="none"
      {...drag}
      onKeyDown={byArrows((by) => go(p.frame + by))}
    >
      <Box mx="auto" w="4px" h="100%" bg="selected" borderRadius="2px" />
    </Box>
  )
}
