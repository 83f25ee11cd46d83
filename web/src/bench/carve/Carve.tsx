import { Box, Flex, Text } from '@chakra-ui/react'
import { ChevronLeft, ChevronRight, Columns2, Diff, Ghost, PersonStanding, Scan, Search, Wind, X, ZoomIn, ZoomOut } from 'lucide-react'
import { useEffect, useMemo, useRef, useState } from 'react'
import { type Hold, type Matte, type View, newId, type Node, type Piece, type Raster, type Shape } from '../../api/client'
import { Act, Choice, Empty, Progress, Tool } from '../../parts/buttons'
import { cancelJob, remainingWords } from '../../shelf/Shelf'
import { useCutout, useOf, useStudio } from '../../shell/store'
import { copyPieces, pasted, withPieces } from './clipboard'
import type { Hand, Press, Table } from './hands'
import { Carry, useSpreading } from './Carry'
import { Divider } from './Divider'
import { Marks } from './Marks'
import { Paths } from './Paths'
import { isShape, type Point, round } from './path'
import { Pieces } from './Pieces'
import { Plate } from './Plate'
import { usePointer } from './pointer'
import { KIND_NAMES } from './shapes'
import { type Look, type Pan, Stage } from './Stage'
import { Strip } from './Strip'
import { advice, byKey, MARKING, PAN, SHAPES, type ToolName, TOOLS } from './tools'
import { useDrawing } from './useDrawing'
import { useMarks } from './useMarks'
import { useMend } from './useMend'
import { usePan } from './usePan'
import { usePoints } from './usePoints'

/** The held frame big, and the tools that cut its subject out. */
export function Carve() {
  const found = useCutout()
  const go = useStudio((s) => s.go)
  if (!found) {
    return (
      <Empty title="Carve the subject out" action={<Act main onClick={() => go('catch')}>Catch a frame</Act>}>
        Choose a cutout in the sky, or hold a frame first: the held frame comes up here, to draw around its subject.
      </Empty>
    )
  }
  return <CarveHold key={found.hold.id} />
}

/** The matte at a frame: the hold's own, or its pieces at a frame that it travels to. */
function matteAt(hold: Hold, stops: View['stops'][string] | undefined, frame: number): Matte {
  if (hold.frame === frame) return hold.matte
  return { ...hold.matte, pieces: stops?.[frame]?.pieces ?? [] }
}

/** Whether the pointer is over a button or a field that lies on the stage, not over the frame. */
const overControl = (e: React.PointerEvent) => (e.target as Element).closest('button, input, [role=radiogroup]') !== null

/** What stays as it was when one goes from hold to hold. */
const habits: { tool: ToolName; look: Look; backing: string; loupe: boolean; ghosts: boolean; divided: number | null } = {
  tool: 'points', look: 'veil', backing: '#2FA84F', loupe: false, ghosts: false, divided: null,
}

const VIEWS: { value: Look; label: string; hint?: string }[] = [
  { value: 'scene', label: 'Scene', hint: 'As filmed; hold W to see it from any view' },
  { value: 'veil', label: 'Veil' },
  { value: 'checker', label: 'Checker' },
  { value: 'colour', label: 'Colour' },
  { value: 'matte', label: 'Matte' },
]

function useHabit<K extends keyof typeof habits>(name: K, first?: (typeof habits)[K]) {
  const [value, setValue] = useState<(typeof habits)[K]>(() => first ?? habits[name])
  return [
    value,
    (next: (typeof habits)[K]) => {
      habits[name] = next
      setValue(next)
    },
  ] as const
}

function CarveHold() {
  const { hold, shot, layer, view } = useCutout()!
  const { edit, setDraft, seek } = useOf('edit', 'setDraft', 'seek')
  const travel = hold.travel
  const [wanted, setWanted] = useState(hold.frame)
  const at = travel && wanted >= travel.first && wanted < travel.past ? wanted : hold.frame
  // What carrying puts into other frames must not disturb what is being drawn on this one.
  const written = JSON.stringify(matteAt(hold, view.stops[hold.id], at))
  const known = useMemo(() => JSON.parse(written) as Matte, [written])
  const started = known.pieces.length > 0
  const [tool, setTool] = useHabit('tool', started ? habits.tool : 'keep')
  const [look, setLook] = useHabit('look', started ? habits.look : 'scene')
  const looks = useRef(look)
  useEffect(() => {
    looks.current = look
  }, [look])
  /** Shows that something was cut out, unless another view was chosen by the time it is. */
  const veil = () => {
    if (looks.current === 'scene') setLook('veil')
  }
  const [backing, setBacking] = useHabit('backing')
  const [loupe, setLoupe] = useHabit('loupe')
  const [ghosts, setGhosts] = useHabit('ghosts')
  const [divided, setDivided] = useHabit('divided')
  const [combine, setCombine] = useState<Piece['combine']>('add')
  const [pieceId, setPieceId] = useState<string | null>(known.pieces[0]?.id ?? null)
  const [local, setLocal] = useState<Matte | null>(null)
  const [spaced, setSpaced] = useState(false)
  const [bare, setBare] = useState(false)
  const box = useRef<HTMLDivElement>(null)
  const panning = useRef<{ x: number; y: number; pan: Pan } | null>(null)
  const { size, pan, setPan, zoom, whole, subject } = usePan(box, shot, known)
  const matte = local ?? known
  const piece = matte.pieces.find((p) => p.id === pieceId) ?? null
  useEffect(() => setLocal(null), [known])
  useEffect(() => () => usePointer.setState({ at: null, stroke: null }), [])

  useSpreading(hold.id, view.strips[hold.id])
  const frame = at === hold.frame ? null : at
  const commit = async (next: Matte) => {
    setLocal(next)
    const done = await edit({ kind: 'change matte', hold: hold.id, matte: next, frame })
    if (!done) setLocal(null)
    return done
  }
  const show = (next: Matte) => {
    // While dragging, what takes long is left out; letting go puts it in.
    const quick = { ...next, fine_edge: 0, fringe: 0 }
    setLocal(next)
    setDraft({ kind: 'change matte', hold: hold.id, matte: quick, frame })
  }
  const scale = pan?.scale ?? 1
  const near = (a: Point, b: Point, px: number) => Math.hypot(a.x - b.x, a.y - b.y) * scale < px
  const table: Table = { matte, scale, near, show, commit }
  const choosePiece = (id: string | null) => {
    setPieceId(id)
    points.letGo()
  }
  const add = (kind: Shape['kind'], nodes: Node[]) => {
    const names = new Set(matte.pieces.map((p) => p.name))
    let n = 1
    while (names.has(`${KIND_NAMES[kind]} ${n}`)) n++
    const added: Shape = {
      id: newId(), kind, name: `${KIND_NAMES[kind]} ${n}`, combine, nodes, invert: false, opacity: 1, visible: true,
      grow: 0, soften_in: 0, soften_out: 0,
    }
    choosePiece(added.id)
    setTool('points')
    veil()
    void commit({ ...matte, pieces: [...matte.pieces, added] })
  }
  const points = usePoints(table, piece, setPieceId)
  const drawing = useDrawing(tool, table, { shot: shot.id, frame: at, width: shot.width, height: shot.height }, add)
  const place = { project: view.project.id, hold: hold.id, frame: at, width: shot.width, height: shot.height }
  const marks = useMarks(tool, table, place, piece, combine, (id) => {
    choosePiece(id)
    veil()
  })
  const mend = useMend(tool === 'mend', { project: view.project.id, hold: hold.id, frames: shot.frames }, marks.brush)
  const hand: Hand | null = tool === 'pan' ? null : tool === 'mend' ? (hold.plate ? mend.hand : null) : SHAPES.has(tool) ? drawing.hand : MARKING.has(tool) ? marks.hand : points.hand
  const choose = (next: ToolName) => {
    drawing.clear()
    setTool(next)
  }

  const toSource = (e: { clientX: number; clientY: number }): Point => {
    const r = box.current!.getBoundingClientRect()
    const p = pan ?? { scale: 1, x: 0, y: 0 }
    return { x: round((e.clientX - r.left - p.x) / p.scale), y: round((e.clientY - r.top - p.y) / p.scale) }
  }
  const divide = () => setDivided(divided === null ? 0.5 : null)
  const until = divided === null || bare ? null : divided * size.w
  const press = (e: React.PointerEvent): Press => ({ shift: e.shiftKey, alt: e.altKey })
  const onDown = (e: React.PointerEvent) => {
    box.current!.focus({ preventScroll: true })
    e.currentTarget.setPointerCapture(e.pointerId)
    if (!hand || e.button === 1 || e.button === 2 || spaced) panning.current = { x: e.clientX, y: e.clientY, pan: pan! }
    else hand.down(toSource(e), press(e))
  }
  const onMove = (e: React.PointerEvent) => {
    const p = toSource(e)
    usePointer.setState({ at: overControl(e) ? null : p })
    const d = panning.current
    if (d) setPan({ ...d.pan, x: d.pan.x + e.clientX - d.x, y: d.pan.y + e.clientY - d.y })
    else hand?.move(p, press(e))
  }
  const onUp = (e: React.PointerEvent) => {
    if (panning.current) panning.current = null
    else hand?.up(toSource(e), press(e))
  }
  const onKey = (e: React.KeyboardEvent) => {
    const used = () => {
      e.preventDefault()
      e.stopPropagation()
    }
    const key = e.key.length === 1 ? e.key.toLowerCase() : e.key
    if ((e.ctrlKey || e.metaKey) && key === 'c' && matte.pieces.length) {
      used()
      const pieces = piece ? [piece] : matte.pieces
      copyPieces(pieces, shot.width, shot.height)
      return useStudio.getState().say(piece ? `Copied ${piece.name}.` : `Copied ${pieces.length} pieces.`)
    }
    if ((e.ctrlKey || e.metaKey) && key === 'v') {
      const added = pasted(shot.width, shot.height)
      if (!added) return
      used()
      return void commit(withPieces(matte, added))
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return
    const by = e.shiftKey ? 10 : 1
    const dx = key === 'ArrowLeft' ? -by : key === 'ArrowRight' ? by : 0
    const dy = key === 'ArrowUp' ? -by : key === 'ArrowDown' ? by : 0
    const chosen = byKey(key)
    if (key === ' ') used(), setSpaced(true)
    else if (key === 'w') used(), setBare(true)
    else if (key === 'z') used(), setLoupe(!loupe)
    else if (key === 'g') used(), setGhosts(!ghosts)
    else if (key === 'a') used(), divide()
    else if (key === '+' || key === '=') used(), zoom(1.3, size.w / 2, size.h / 2)
    else if (key === '-') used(), zoom(1 / 1.3, size.w / 2, size.h / 2)
    else if (key === '0') used(), whole()
    else if (key === '9') used(), subject()
    else if (key === ',' || key === '.') used(), flip(key === ',' ? -1 : 1)
    else if (chosen && (chosen !== 'mend' || hold.plate)) used(), choose(chosen)
    else if (hand?.key?.(key, dx, dy)) used()
    else if (tool !== 'points' && (key === 'Delete' || key === 'Backspace') && points.hand.key!(key, 0, 0)) used()
  }
  /** To the hold before or after this one in the same shot. */
  const flip = (by: number) => {
    const state = useStudio.getState()
    const { holds, layers, project } = state.view!
    const held = project.layers.flatMap((l) => {
      const id = layers[l.id]?.hold
      const its = id ? holds[id] : undefined
      return its?.shot === shot.id ? [{ layer: l.id, id: its.id, frame: its.frame }] : []
    })
    const all = [...new Map(held.map((h) => [h.id, h])).values()].sort((a, b) => a.frame - b.frame)
    const next = all[all.findIndex((h) => h.id === hold.id) + by]
    if (next) {
      state.chooseLayer(next.layer)
      requestAnimationFrame(() => document.querySelector<HTMLElement>('[data-testid=carve]')?.focus())
    }
  }

  /** To another frame of the travelling matte; the picture goes along. */
  const toFrame = (frame: number) => {
    setWanted(frame)
    drawing.clear()
    const item = view.items.find((i) => i.id === layer.over)
    const within = item?.frames.indexOf(frame) ?? -1
    if (item && within >= 0) seek(item.start + within)
  }

  const shownLook = bare ? 'scene' : look
  const shapes = matte.pieces.filter(isShape)
  const outlined = look === 'matte' || look === 'checker' || look === 'colour' ? shapes.filter((p) => p.id === pieceId) : shapes
  const doubts = matte.pieces.flatMap((p): Raster[] => (!isShape(p) && p.visible && p.doubt ? [p.doubt] : []))
  const side = MARKING.has(tool) ? (tool as 'keep' | 'drop' | 'rubber') : null
  const cursor = spaced || tool === 'pan' ? 'grab' : side || tool === 'mend' ? 'none' : SHAPES.has(tool) ? 'crosshair' : 'default'
  const { drawn } = drawing
  const open = tool === 'pen'
  const middle = () => [size.w / 2, size.h / 2] as const
  const waiting = (which: 'keep' | 'drop') =>
    marks.waiting.filter((s) => s.side === which).map((s) => s.mark)
  return (
    <Flex h="100%" minH="0">
      <Flex direction="column" align="center" gap="0.5" w="42px" py="1.5" borderRight="1px solid {colors.rule}" flexShrink="0" overflowY="auto">
        {TOOLS.map((group, i) => (
          <Flex key={i} direction="column" align="center" gap="0.5" borderTop={i ? '1px solid {colors.rule}' : undefined} pt={i ? '1' : undefined} mt={i ? '0.5' : undefined}>
            {group.map((t) => (
              <Tool key={t.name} size={30} icon={t.icon} label={t.label} hint={t.hint} on={tool === t.name} onClick={() => choose(t.name)} />
            ))}
          </Flex>
        ))}
        <Box w="24px" h="1px" bg="rule" my="0.5" flexShrink="0" />
        <Tool size={30} icon={Wind} label="Pick mover" hint="Pick mover: find what moves against the scene" disabled={!!marks.busy} onClick={() => void marks.choose('mover')} />
        <Tool size={30} icon={PersonStanding} label="Pick person" hint="Pick person: find the people in the frame" disabled={!!marks.busy} onClick={() => void marks.choose('person')} />
        <Tool size={30} icon={Diff} label="Pick difference" hint={hold.plate ? 'Pick difference: what the clean plate does not show' : 'Pick difference needs a clean plate: build one at the right'} disabled={!!marks.busy || !hold.plate} onClick={() => void marks.choose('difference')} />
        <Box w="24px" h="1px" bg="rule" my="0.5" flexShrink="0" />
        <Tool size={30} icon={PAN.icon} label={PAN.label} hint={PAN.hint} on={tool === 'pan'} onClick={() => choose('pan')} />
      </Flex>
      <Flex direction="column" flex="1" minW="0" minH="0">
      <Box
        ref={box}
        position="relative"
        flex="1"
        minH="0"
        overflow="hidden"
        bg="surround"
        tabIndex={0}
        role="application"
        aria-label={`Held frame ${at} of ${shot.name}`}
        cursor={cursor}
        touchAction="none"
        data-testid="carve"
        data-pan={pan ? JSON.stringify(pan) : undefined}
        data-busy={marks.busy ? 'yes' : 'no'}
        onPointerDown={onDown}
        onPointerMove={onMove}
        onPointerUp={onUp}
        onPointerLeave={() => usePointer.setState({ at: null })}
        onDoubleClick={(e) => hand?.double?.(toSource(e))}
        onContextMenu={(e) => e.preventDefault()}
        onKeyDown={onKey}
        onKeyUp={(e) => (e.key === ' ' ? setSpaced(false) : e.key.toLowerCase() === 'w' && setBare(false))}
        onBlur={() => {
          setSpaced(false)
          setBare(false)
        }}
      >
        {pan && size.w > 0 && (
          <Stage
            hold={hold}
            shot={shot}
            frame={at}
            draft={local}
            look={tool === 'mend' && hold.plate ? 'plate' : shownLook}
            backing={backing}
            pan={pan}
            size={size}
            ghosts={ghosts ? [at - 1, at + 1].filter((f) => f >= 0 && f < shot.frames) : []}
            doubts={bare ? [] : doubts}
            loupe={loupe}
            divider={until}
          >
            {!bare && (
              <>
                <Paths
                  pieces={outlined}
                  piece={pieceId}
                  chosen={points.chosen}
                  drawing={drawn.nodes}
                  open={open}
                  line={drawn.line}
                  ahead={drawn.ahead}
                  anchors={drawn.anchors}
                  cross={SHAPES.has(tool) ? drawing.cross : null}
                  pan={pan}
                  editing={tool === 'points'}
                  until={until}
                />
                <Marks
                  keep={[...(side ? (marks.marked?.keep ?? []) : []), ...waiting('keep')]}
                  drop={[...(side ? (marks.marked?.drop ?? []) : []), ...waiting('drop'), ...mend.strokes]}
                  brush={marks.brush}
                  side={side ?? (tool === 'mend' ? 'drop' : null)}
                  pan={pan}
                />
              </>
            )}
          </Stage>
        )}
        {pan && divided !== null && !bare && <Divider at={divided} width={size.w} onMove={setDivided} />}
        {/* On a narrow bench the views go below the title. */}
        <Flex position="absolute" left="10px" right="10px" top="8px" wrap="wrap" rowGap="1.5" columnGap="3" align="center" pointerEvents="none">
          <Flex align="center" minW="0" maxW="100%" bg="#1E2530E0" color="#FBF8F2" borderRadius="soft" fontSize="12.5px" className="figures" userSelect="none" pointerEvents="auto" onPointerDown={(e) => e.stopPropagation()}>
            <Flip icon={ChevronLeft} label="Hold before (,)" onClick={() => flip(-1)} />
            <Text px="1" truncate title={`${layer.name} · ${shot.name} · frame ${at}`}>
              {layer.name} · {shot.name} · frame {at}
              {tool === 'mend' && hold.plate ? ' · clean plate' : ''}
            </Text>
            <Flip icon={ChevronRight} label="Hold after (.)" onClick={() => flip(1)} />
          </Flex>
          <Flex ml="auto" gap="1.5" align="center" pointerEvents="auto" onPointerDown={(e) => e.stopPropagation()} onDoubleClick={(e) => e.stopPropagation()}>
            {look === 'colour' && (
              <input
                type="color"
                aria-label="Colour behind the cutout"
                value={backing}
                onChange={(e) => setBacking(e.target.value)}
                style={{ width: 28, height: 26, padding: 0, border: '2px solid #FBF8F2', borderRadius: 6 }}
              />
            )}
            <Choice
              dark
              label="View"
              value={look}
              onChange={setLook}
              options={VIEWS}
            />
          </Flex>
        </Flex>
        {marks.busy && <Busy words={marks.busy} job={marks.job} />}
        <Flex position="absolute" left="10px" bottom="10px" right="10px" gap="2" justify="space-between" align="center" pointerEvents="none">
          <Text fontSize="12px" color="#F4F1EA" bg="#1E2530C0" px="2" py="0.5" borderRadius="soft">
            {advice(tool, drawn.nodes?.length ?? drawn.anchors.length, !!piece && isShape(piece), points.chosen.size, !!marks.marked)}
          </Text>
          <Flex flexShrink="0" align="center" bg="card" borderRadius="soft" pointerEvents="auto" onPointerDown={(e) => e.stopPropagation()} onDoubleClick={(e) => e.stopPropagation()}>
            <Tool size={26} icon={Columns2} label="Before and after" hint="Before and after: as filmed left of a line, as cut right of it (A)" on={divided !== null} onClick={divide} />
            <Tool size={26} icon={Ghost} label="Ghosts" hint="Ghosts of the frames before and after (G)" on={ghosts} onClick={() => setGhosts(!ghosts)} />
            <Tool size={26} icon={Search} label="Loupe" hint="Loupe: the pixels around the pointer (Z)" on={loupe} onClick={() => setLoupe(!loupe)} />
            <Tool size={26} icon={ZoomOut} label="Zoom out" hint="Zoom out (−)" onClick={() => zoom(1 / 1.5, ...middle())} />
            <Text fontSize="12px" w="46px" textAlign="center" className="figures">
              {Math.round(scale * 100)} %
            </Text>
            <Tool size={26} icon={ZoomIn} label="Zoom in" hint="Zoom in (+, or the wheel)" onClick={() => zoom(1.5, ...middle())} />
            <Tool size={26} icon={Scan} label="Whole frame" hint="Whole frame (0); the subject (9)" onClick={whole} />
          </Flex>
        </Flex>
      </Box>
      {travel && <Strip hold={hold} states={view.strips[hold.id] ?? {}} frame={at} onFrame={toFrame} />}
      </Flex>
      <Pieces
        matte={matte}
        shares={view.layers[layer.id]?.shares ?? []}
        piece={pieceId}
        combine={combine}
        brush={side || tool === 'mend' ? marks.brush : null}
        onBrush={marks.setBrush}
        onCombine={setCombine}
        onPiece={choosePiece}
        onShow={show}
        onCommit={(m) => void commit(m)}
        below={<Plate mending={mend.mending} onMend={() => choose(tool === 'mend' ? 'points' : 'mend')} />}
      >
        {hold.matte.pieces.length > 0 || travel ? (
          <Carry />
        ) : (
          <Flex gap="1.5" mt="2" wrap="wrap">
            <Act main icon={PersonStanding} disabled={!!marks.busy} onClick={() => void marks.choose('person')}>
              Find people
            </Act>
            <Act icon={Wind} disabled={!!marks.busy} onClick={() => void marks.choose('mover')}>
              Find what moves
            </Act>
          </Flex>
        )}
      </Pieces>
    </Flex>
  )
}

function Flip(p: { icon: typeof ChevronLeft; label: string; onClick: () => void }) {
  return (
    <button aria-label={p.label} title={p.label} onClick={p.onClick} style={{ padding: '5px 3px', cursor: 'pointer' }}>
      <p.icon size={15} />
    </button>
  )
}

/** What is being looked for, how far that is, and a way out. */
function Busy({ words, job }: { words: string; job: boolean }) {
  const running = useStudio((s) => (job ? s.jobs.find((j) => j.kind === 'find' && (j.state === 'running' || j.state === 'waiting')) : undefined))
  return (
    <Flex position="absolute" left="50%" top="48px" transform="translateX(-50%)" bg="card" borderRadius="soft" px="3" py="2" gap="3" align="center" role="status" border="1px solid {colors.rule}" onPointerDown={(e) => e.stopPropagation()}>
      <Box minW="170px">
        <Text fontWeight="600">{words}…</Text>
        {running && (
          <>
            <Progress share={running.progress} label={words} />
            <Text color="soft" fontSize="12px">
              {remainingWords(running.remaining)}
            </Text>
          </>
        )}
      </Box>
      {running && <Tool icon={X} size={26} label="Cancel" onClick={() => void cancelJob(running.id)} />}
    </Flex>
  )
}
