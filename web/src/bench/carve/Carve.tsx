import { Box, Flex } from '@chakra-ui/react'
import { PersonStanding, Wind } from 'lucide-react'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import {
  type Hold,
  type Matte,
  newId,
  type Node,
  type Piece,
  type Raster,
  type Shape,
  type View,
} from '../../api/client'
import { Act, Empty } from '../../parts/buttons'
import { type Does, doesAt, pressOf } from '../../parts/keys'
import { useCutout, useOf, useStudio } from '../../store'
import { Busy } from './Busy'
import { Carry, useSpreading } from './Carry'
import { copyPieces, pasted, withPieces } from '../../parts/clipboard'
import { Divider } from './Divider'
import { habits, useHabit } from './habits'
import type { Hand, Press, Table } from './hands'
import { Marks } from './Marks'
import { Offers } from './Offers'
import { isShape, type Point, round } from './path'
import { Paths } from './Paths'
import { Pieces } from './Pieces'
import { Plate } from './Plate'
import { usePointer } from './pointer'
import { forgetRough, useRough } from './rough'
import { Rail } from './Rail'
import { KIND_NAMES } from './shapes'
import { type Pan, Stage } from './Stage'
import { FootBar, TitleBar } from './StageBars'
import { Strip } from './Strip'
import { advice, MARKING, SHAPES, toolOf, type ToolName } from './tools'
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
      <Empty
        title="Carve the subject out"
        action={
          <Act main onClick={() => go('catch')}>
            Catch a frame
          </Act>
        }
      >
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
const overControl = (e: React.PointerEvent) =>
  (e.target as Element).closest('button, input, [role=radiogroup]') !== null

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
  const veil = useCallback(() => {
    if (looks.current === 'scene') setLook('veil')
  }, [setLook])
  const roughly = useRough((s) => s.mask !== null)
  useEffect(() => {
    if (roughly) veil()
  }, [roughly, veil])
  useEffect(() => forgetRough, [hold.id, at])
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
      id: newId(),
      kind,
      name: `${KIND_NAMES[kind]} ${n}`,
      combine,
      nodes,
      invert: false,
      opacity: 1,
      visible: true,
      grow: 0,
      soften_in: 0,
      soften_out: 0,
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
  const hand: Hand | null =
    tool === 'pan'
      ? null
      : tool === 'mend'
        ? hold.plate
          ? mend.hand
          : null
        : SHAPES.has(tool)
          ? drawing.hand
          : MARKING.has(tool)
            ? marks.hand
            : points.hand
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
    const press = pressOf(e)
    const does = doesAt(press, 'carve') ?? doesAt(press, 'everywhere')
    if (does === 'copy' && matte.pieces.length) {
      used()
      const pieces = piece ? [piece] : matte.pieces
      copyPieces(pieces, shot.width, shot.height)
      return useStudio.getState().say(piece ? `Copied ${piece.name}.` : `Copied ${pieces.length} pieces.`)
    }
    if (does === 'paste') {
      const added = pasted(shot.width, shot.height)
      if (!added) return
      used()
      return void commit(withPieces(matte, added))
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return
    const act = does && acts[does]
    const taken = does && toolOf(does)
    if (act) {
      used()
      act()
    } else if (taken && (taken !== 'mend' || hold.plate)) {
      used()
      choose(taken)
    } else {
      const by = e.shiftKey ? 10 : 1
      const key = e.key.length === 1 ? e.key.toLowerCase() : e.key
      const dx = key === 'ArrowLeft' ? -by : key === 'ArrowRight' ? by : 0
      const dy = key === 'ArrowUp' ? -by : key === 'ArrowDown' ? by : 0
      if (marks.offers.key(key) || hand?.key?.(key, dx, dy)) used()
      else if (tool !== 'points' && (key === 'Delete' || key === 'Backspace') && points.hand.key!(key, 0, 0)) used()
    }
  }
  /** What keys do here that takes no tool up. */
  const acts: Partial<Record<Does, () => void>> = {
    play: () => setSpaced(true),
    bare: () => setBare(true),
    loupe: () => setLoupe(!loupe),
    ghosts: () => setGhosts(!ghosts),
    divide,
    zoomIn: () => zoom(1.3, size.w / 2, size.h / 2),
    zoomOut: () => zoom(1 / 1.3, size.w / 2, size.h / 2),
    whole,
    subject,
    holdBefore: () => flip(-1),
    holdAfter: () => flip(1),
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
  const outlined =
    look === 'matte' || look === 'checker' || look === 'colour' ? shapes.filter((p) => p.id === pieceId) : shapes
  const doubts = matte.pieces.flatMap((p): Raster[] => (!isShape(p) && p.visible && p.doubt ? [p.doubt] : []))
  const side = MARKING.has(tool) ? (tool as 'keep' | 'drop' | 'rubber') : null
  const cursor =
    spaced || tool === 'pan' ? 'grab' : side || tool === 'mend' ? 'none' : SHAPES.has(tool) ? 'crosshair' : 'default'
  const { drawn } = drawing
  const open = tool === 'pen'
  const waiting = (which: 'keep' | 'drop') => marks.waiting.filter((s) => s.side === which).map((s) => s.mark)
  return (
    <Flex h="100%" minH="0">
      <Rail
        tool={tool}
        busy={!!marks.busy}
        plate={!!hold.plate}
        onTool={choose}
        onPick={(kind) => void marks.choose(kind)}
      />
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
          <TitleBar
            title={`${layer.name} · ${shot.name} · frame ${at}${tool === 'mend' && hold.plate ? ' · clean plate' : ''}`}
            look={look}
            backing={backing}
            onFlip={flip}
            onLook={setLook}
            onBacking={setBacking}
          />
          {marks.offers.shown && !marks.busy && (
            <Offers
              rasters={marks.offers.shown}
              chosen={marks.offers.chosen}
              source={`/api/projects/${view.project.id}/shots/${shot.id}/frames/${at}.jpg`}
              width={shot.width}
              height={shot.height}
              onChoose={marks.offers.choose}
              onClose={marks.offers.forget}
            />
          )}
          {marks.busy && <Busy words={marks.busy} job={marks.job} />}
          <FootBar
            advice={advice(
              tool,
              drawn.nodes?.length ?? drawn.anchors.length,
              !!piece && isShape(piece),
              points.chosen.size,
              !!marks.marked,
            )}
            scale={scale}
            divided={divided !== null}
            ghosts={ghosts}
            loupe={loupe}
            onDivide={divide}
            onGhosts={() => setGhosts(!ghosts)}
            onLoupe={() => setLoupe(!loupe)}
            onZoom={(by) => zoom(by, size.w / 2, size.h / 2)}
            onWhole={whole}
          />
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
