import { Box, Flex, Text } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import type { Edit, GroundItem, Layer, MotionView } from '../../api/client'
import { Choice } from '../../parts/buttons'
import { useDrag } from '../../parts/useDrag'
import { useOf, useStudio, useWritten } from '../../store'
import { letGo, snapFrames, snapped } from '../../ground/snap'
import { roleColour } from '../../theme/system'
import { handlesOf, labelled, PAD, pointed, ruled } from './chart'
import { type Line, linesOf, only, owned, valueAt } from './lines'

/** Lines are told apart by colour and by dashes. */
const STROKES: [Parameters<typeof roleColour>[0], string?][] = [
  ['selected'],
  ['sound'],
  ['ink', '5 3'],
  ['keyInk', '2 3'],
  ['soft', '8 3 2 3'],
]

interface Held {
  what: 'keys' | 'in' | 'out' | 'left' | 'right' | 'box' | 'seek'
  line?: Line
  key?: string
  keys: string[]
  x: number
  y: number
  /** The frames of the chosen keys, where the drag began. */
  frames: number[]
  last: Edit | null
  /** For a key that is moved: the frame it was on, and those that it may snap to. */
  from?: number
  snaps?: number[]
}

/**
 * All that has keys as curves over the frames, each to its own measure: *amount*, how much, or *pace*, how fast. Keys are
 * dragged in time and value, their handles bend the curve; a rectangle chooses keys, its ends draw them out.
 */
export function Curves({ owners, motion }: { owners: (Layer | GroundItem)[]; motion: MotionView | null }) {
  const { seek, edit, setDraft, key, moreKeys, chooseKey, chooseKeys, alsoKey } = useOf(
    'seek',
    'edit',
    'setDraft',
    'key',
    'moreKeys',
    'chooseKey',
    'chooseKeys',
    'alsoKey',
  )
  const [pace, setPace] = useState<'amount' | 'pace'>('amount')
  const [focus, setFocus] = useState<string | null>(null)
  const [frame, setFrame] = useState<DOMRect | null>(null)
  const [rectangle, setRectangle] = useState<[number, number, number, number] | null>(null)
  const box = useRef<HTMLDivElement>(null)
  const svg = useRef<SVGSVGElement>(null)
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setFrame(entry!.contentRect))
    if (box.current) watch.observe(box.current)
    return () => watch.disconnect()
  }, [])
  const [w, h] = [Math.max(120, frame?.width ?? 300), Math.max(90, frame?.height ?? 200)]
  const lines = linesOf(motion, owners, pace === 'pace')
  const chosen = key ? [key, ...moreKeys] : []
  const front = lines.find((l) => l.id === focus) ?? lines.find((l) => !l.still) ?? lines[0]
  const told = (motion?.owners ?? []).filter((m) => owners.some((o) => o.id === m.id))
  const known = told.length > 0
  const first = known ? Math.min(...lines.map((l) => l.first), ...told.map((m) => m.start)) : 0
  const last = Math.max(
    first,
    ...lines.map((l) => l.first + (l.amount.length - 1) * l.step),
    ...told.map((m) => Math.max(m.start, m.end - 1)),
  )
  const wide = w - PAD.left - PAD.right
  const high = h - PAD.top - PAD.bottom
  const x = (f: number) => PAD.left + ((f - first) / Math.max(1, last - first)) * wide
  const frameAt = (px: number) => first + ((px - PAD.left) / wide) * Math.max(1, last - first)
  const y = (l: Line, v: number) => PAD.top + (1 - (v - l.range[0]) / (l.range[1] - l.range[0])) * high
  const perPixel = (l: Line) => (l.range[1] - l.range[0]) / high
  const places = lines.flatMap((l) =>
    l.keys.map(({ key: k, frame: f }) => ({
      line: l,
      key: k,
      frame: f,
      x: x(f),
      y: y(l, pace === 'pace' ? valueAt(l, f, true) : (k.value[l.index] ?? 0)),
    })),
  )
  // Of keys that lie on one another, those of the line in front are taken hold of.
  places.sort((a, b) => Number(a.line.id === front?.id) - Number(b.line.id === front?.id))
  const marked = places.filter((p) => chosen.includes(p.key.id))
  const [from, to] = [Math.min(...marked.map((p) => p.frame)), Math.max(...marked.map((p) => p.frame))]

  const at = (e: React.PointerEvent): [number, number] => {
    const r = svg.current!.getBoundingClientRect()
    return [e.clientX - r.left, e.clientY - r.top]
  }
  const start = (e: React.PointerEvent): Held | null => {
    const target = e.target as Element
    const grip = target.closest('[data-grip]')
    const [px, py] = at(e)
    const base = { x: px, y: py, frames: marked.map((p) => p.frame), last: null }
    const what = grip?.getAttribute('data-grip') as Held['what'] | undefined
    if (what === 'keys') {
      const id = grip!.getAttribute('data-key')!
      const line = lines.find((l) => l.id === grip!.getAttribute('data-line'))
      setFocus(line?.id ?? null)
      if (e.shiftKey || e.ctrlKey || e.metaKey) {
        alsoKey(id)
        return null
      }
      const keys = chosen.includes(id) ? chosen : [id]
      if (!chosen.includes(id)) chooseKey(id)
      const from = places.find((p) => p.key.id === id)?.frame ?? 0
      return { ...base, what, line, key: id, keys, from, snaps: snapFrames([]).filter((f) => f !== from) }
    }
    if (what === 'in' || what === 'out')
      return { ...base, what, line: front, key: grip!.getAttribute('data-key')!, keys: chosen }
    if (what) return { ...base, what, keys: chosen }
    if (py < PAD.top) {
      seek(Math.round(frameAt(px)))
      return { ...base, what: 'seek', keys: chosen }
    }
    const near = lines.find((l) => Math.abs(y(l, valueAt(l, frameAt(px), pace === 'pace')) - py) < 6)
    if (near) setFocus(near.id)
    return { ...base, what: 'box', keys: e.shiftKey ? chosen : [] }
  }
  const draft = (held: Held, made: Edit | null) => {
    held.last = made
    if (made) setDraft(made)
  }
  const drag = useDrag<Held>({
    slack: 3,
    atOnce: true,
    start,
    move: (dx, dy, held, e) => {
      const of = owned(owners, held.keys)
      const by = Math.round((dx / wide) * Math.max(1, last - first))
      if (held.what === 'seek') return seek(Math.round(frameAt(at(e)[0])))
      if (held.what === 'box') {
        const [px, py] = at(e)
        return setRectangle([Math.min(held.x, px), Math.min(held.y, py), Math.abs(dx), Math.abs(dy)])
      }
      if (held.what === 'keys' && held.line) {
        const line = held.line
        const upright = e.shiftKey ? Math.abs(dy) > Math.abs(dx) : true
        const level = e.shiftKey ? !upright || Math.abs(dx) >= Math.abs(dy) : true
        const value = pace === 'amount' && upright && !line.still ? -dy * perPixel(line) : 0
        const add = value ? { [line.channel]: only(line.index, value) } : {}
        // What is dragged up or down alone keeps its frame.
        const near = !by ? 0 : snapped(held.from! + by, held.snaps!, wide / Math.max(1, last - first)) - held.from!
        return draft(held, { kind: 'move keys', of, frames: level ? near : 0, stretch: 1, around: 0, add })
      }
      if (held.what === 'left' || held.what === 'right') {
        const [low, up] = [Math.min(...held.frames), Math.max(...held.frames)]
        const around = held.what === 'left' ? up : low
        const length = Math.max(1, up - low)
        const now = Math.max(1, length + (held.what === 'left' ? -by : by))
        return draft(held, { kind: 'move keys', of, frames: 0, stretch: now / length, around, add: {} })
      }
      if (held.line && held.key) draft(held, bent(held, at(e)))
    },
    end: (moved, held) => {
      letGo()
      if (held.last) void edit(held.last)
      else if (held.what === 'box') {
        const r = rectangle
        setRectangle(null)
        if (moved && r) {
          const inside = places.filter((p) => p.x >= r[0] && p.x <= r[0] + r[2] && p.y >= r[1] && p.y <= r[1] + r[3])
          chooseKeys([...new Set([...held.keys, ...inside.map((p) => p.key.id)])])
        } else if (!moved) chooseKeys([])
      } else if (held.what === 'keys' && !moved && held.key) {
        const place = places.find((p) => p.key.id === held.key)
        if (place && chosen.length < 2) seek(place.frame)
      }
    },
  })

  /** The curve of a key once one of its handles lies there. */
  const bent = (held: Held, [px, py]: [number, number]): Edit | null => {
    const line = held.line!
    const n = line.keys.findIndex((k) => k.key.id === held.key)
    const [a, b] = held.what === 'out' ? [line.keys[n], line.keys[n + 1]] : [line.keys[n - 1], line.keys[n]]
    if (!a || !b) return null
    const [va, vb] = [a.key.value[line.index] ?? 0, b.key.value[line.index] ?? 0]
    const two = (v: number) => Math.round(v * 100) / 100
    const u = two(Math.max(0, Math.min(1, (frameAt(px) - a.frame) / Math.max(1e-6, b.frame - a.frame))))
    const value = line.range[0] + (1 - (py - PAD.top) / high) * (line.range[1] - line.range[0])
    const v = two(Math.max(-5, Math.min(5, Math.abs(vb - va) > 1e-6 ? (value - va) / (vb - va) : 0)))
    const was = a.key.easing.kind === 'bezier' ? a.key.easing : { kind: 'bezier' as const, x1: 0, y1: 0, x2: 1, y2: 1 }
    const easing = held.what === 'out' ? { ...was, x1: u, y1: v } : { ...was, x2: u, y2: v }
    return { kind: 'change keys', of: owned(owners, [a.key.id]), easing, straight: false }
  }

  const handles = pace === 'amount' && front && chosen.length === 1 ? handlesOf(front, chosen[0]!) : []
  const ends = [
    ...new Map(
      told.flatMap((m): [number, string][] => [
        [m.start, told.length > 1 ? '' : m.start === m.landing ? 'start, landing' : 'start'],
        ...(m.landing !== m.start && m.landing <= last
          ? ([[m.landing, told.length > 1 ? '' : 'landing']] as [number, string][])
          : []),
      ]),
    ),
  ]
  const marks = told.flatMap((m) => m.marks)
  return (
    <Flex direction="column" h="100%" minH="0">
      <Flex align="center" justify="space-between" mb="1.5" gap="2">
        <Choice
          label="What the curves show"
          value={pace}
          onChange={setPace}
          options={[
            { value: 'amount', label: 'Amount', hint: 'How much at each frame' },
            { value: 'pace', label: 'Pace', hint: 'How fast that changes, a second' },
          ]}
        />
        <Text color="soft" fontSize="12px" truncate className="figures">
          {front && <Pointed line={front} pace={pace === 'pace'} />}
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
          {ruled(first, last, wide).map((f) => (
            <line key={f} x1={x(f)} x2={x(f)} y1={PAD.top} y2={h} stroke={roleColour('rule')} strokeOpacity="0.7" />
          ))}
          {marks.map((m) => (
            <g key={m.to}>
              <title>{`${m.tie === 'cut' ? 'Cut to' : 'Moment'} ${m.name}`}</title>
              <path d={`M${x(m.frame)} ${PAD.top - 8}v8`} stroke={roleColour('now')} strokeWidth="1.5" />
            </g>
          ))}
          {ends.map(([f, name]) => (
            <g key={name + f}>
              <line x1={x(f)} x2={x(f)} y1={PAD.top} y2={h} stroke={roleColour('soft')} strokeDasharray="2 3" />
              <text x={Math.min(x(f) + 3, w - 70)} y={13} style={{ fontSize: 11 }} fill={roleColour('soft')}>
                {name}
              </text>
            </g>
          ))}
          <Cursor x={x} first={first} last={last} h={h} />
          {lines.map((l, n) => {
            const [role, dash] = STROKES[n % STROKES.length]!
            const values = pace === 'pace' ? l.pace : l.amount
            const points = values.map((v, i) => `${x(l.first + i * l.step).toFixed(1)},${y(l, v).toFixed(1)}`)
            return (
              <polyline
                key={l.id}
                points={points.join(' ')}
                fill="none"
                stroke={roleColour(role)}
                strokeWidth={l.id === front?.id ? 2.2 : 1.4}
                strokeOpacity={l.still ? 0.45 : 1}
                strokeDasharray={l.still ? '2 4' : dash}
              />
            )
          })}
          {labelled(lines, (l, f) => y(l, valueAt(l, f, pace === 'pace')), frameAt, w, h, places).map(
            ({ line: l, lx, ly, n }) => (
              <text
                key={l.id}
                x={lx}
                y={ly}
                fill={roleColour(STROKES[n % STROKES.length]![0])}
                stroke={roleColour('paper')}
                strokeWidth="3"
                paintOrder="stroke"
                style={{ cursor: 'pointer', fontSize: 11.5, fontWeight: l.id === front?.id ? 700 : 500 }}
                onPointerDown={(e) => {
                  e.stopPropagation()
                  setFocus(l.id)
                }}
              >
                {l.label}
              </text>
            ),
          )}
          {marked.length > 1 && to > from && (
            <g>
              <line x1={x(from)} x2={x(to)} y1={PAD.top + 4} y2={PAD.top + 4} stroke={roleColour('selected')} />
              {(['left', 'right'] as const).map((side) => (
                <rect
                  key={side}
                  data-grip={side}
                  aria-label={side === 'left' ? 'Draw out at the beginning' : 'Draw out at the end'}
                  x={x(side === 'left' ? from : to) - 4}
                  y={PAD.top - 3}
                  width="8"
                  height="14"
                  rx="2"
                  fill={roleColour('card')}
                  stroke={roleColour('selected')}
                  strokeWidth="1.6"
                  style={{ cursor: 'ew-resize' }}
                />
              ))}
            </g>
          )}
          {handles.map((hd) => (
            <g key={hd.side}>
              <line
                x1={x(hd.frame)}
                y1={y(front!, hd.value)}
                x2={x(hd.at[0])}
                y2={y(front!, hd.at[1])}
                stroke={roleColour('selected')}
              />
              <circle
                cx={x(hd.at[0])}
                cy={y(front!, hd.at[1])}
                r="5"
                fill={roleColour('card')}
                stroke={roleColour('selected')}
                strokeWidth="1.8"
                style={{ cursor: 'grab' }}
                data-grip={hd.side}
                data-key={hd.key}
              />
            </g>
          ))}
          {places.map((p) => (
            <g
              key={`${p.line.id}${p.key.id}`}
              transform={`translate(${p.x} ${p.y})`}
              role="button"
              tabIndex={0}
              aria-label={`${p.line.label} key at frame ${p.frame}`}
              aria-pressed={chosen.includes(p.key.id)}
              data-grip="keys"
              data-key={p.key.id}
              data-line={p.line.id}
              style={{ cursor: 'pointer', outlineOffset: 2 }}
              onKeyDown={(e) => {
                if (e.key !== 'Enter' && e.key !== ' ') return
                e.preventDefault()
                chooseKey(p.key.id)
                seek(p.frame)
              }}
            >
              <rect x="-8" y="-9" width="16" height="20" fill="transparent" />
              <path
                d="M0 -8 5.4 -1.6 0 8.6 -5.4 -1.6Z"
                fill={roleColour('key')}
                stroke={chosen.includes(p.key.id) ? roleColour('selected') : '#5B4410'}
                strokeWidth={chosen.includes(p.key.id) ? 2.4 : 1}
                strokeLinejoin="round"
              />
            </g>
          ))}
          {rectangle && (
            <rect
              x={rectangle[0]}
              y={rectangle[1]}
              width={rectangle[2]}
              height={rectangle[3]}
              fill={roleColour('selectedWash')}
              fillOpacity="0.5"
              stroke={roleColour('selected')}
            />
          )}
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

/** The playhead, where it lies among the frames that are shown. */
function Cursor(p: { x: (frame: number) => number; first: number; last: number; h: number }) {
  const line = useRef<SVGLineElement>(null)
  useWritten(
    (s) => (s.playhead < p.first || s.playhead > p.last ? null : p.x(s.playhead)),
    (x) => {
      line.current!.style.visibility = x === null ? 'hidden' : 'visible'
      line.current!.style.transform = `translateX(${x ?? 0}px)`
    },
  )
  return <line ref={line} y1="0" y2={p.h} stroke={roleColour('now')} strokeWidth="1.5" />
}
