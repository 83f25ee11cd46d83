import { Box, Flex, Text } from '@chakra-ui/react'
import { Hand, MousePointer2, PenTool, Scan, ZoomIn, ZoomOut } from 'lucide-react'
import { useCallback, useEffect, useRef, useState } from 'react'
import { type Matte, newId, type Node, type Piece } from '../../api/client'
import { Act, Choice, Empty, Tool } from '../../parts/buttons'
import { useLayer, useOf, useStudio } from '../../shell/store'
import { Paths } from './Paths'
import { bent, corner, inPieces, movedBy, nearest, type Point, round, toggled, withPoint, withTangent } from './path'
import { Pieces } from './Pieces'
import { type Look, type Pan, Stage } from './Stage'

type ToolName = 'points' | 'pen' | 'pan'
type Drag =
  | { kind: 'pan'; x: number; y: number; pan: Pan }
  | { kind: 'nodes'; start: Point; nodes: Node[]; which: Set<number> }
  | { kind: 'tangent'; i: number; side: 'arrive' | 'leave'; nodes: Node[] }
  | { kind: 'segment'; i: number; t: number; start: Point; nodes: Node[]; moved: boolean }
  | { kind: 'pull'; start: Point }

/** The held frame big, and the tools that cut its subject out. */
export function Carve() {
  const found = useLayer()
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

function CarveHold() {
  const { hold, shot, layer, view } = useLayer()!
  const at = hold.frame
  const { edit, setDraft, say } = useOf('edit', 'setDraft', 'say')
  const [tool, setTool] = useState<ToolName>(hold.matte.pieces.length ? 'points' : 'pen')
  const [look, setLook] = useState<Look>(hold.matte.pieces.length ? 'veil' : 'scene')
  const [combine, setCombine] = useState<Piece['combine']>('add')
  const [pieceId, setPieceId] = useState<string | null>(hold.matte.pieces[0]?.id ?? null)
  const [chosen, setChosen] = useState<Set<number>>(new Set())
  const [drawing, setDrawing] = useState<Node[] | null>(null)
  const [pointer, setPointer] = useState<Point | null>(null)
  const [cross, setCross] = useState<Point | null>(null)
  const [local, setLocal] = useState<Matte | null>(null)
  const [size, setSize] = useState({ w: 0, h: 0 })
  const [pan, setPan] = useState<Pan | null>(null)
  const [spaced, setSpaced] = useState(false)
  const box = useRef<HTMLDivElement>(null)
  const drag = useRef<Drag | null>(null)
  const matte = local ?? hold.matte
  const piece = matte.pieces.find((p) => p.id === pieceId) ?? null

  const fit = useCallback(
    (w: number, h: number): Pan => {
      const scale = Math.min((w - 24) / shot.width, (h - 24) / shot.height)
      return { scale, x: (w - shot.width * scale) / 2, y: (h - shot.height * scale) / 2 }
    },
    [shot],
  )
  /** As near as the subject allows once there is one, else the whole frame. */
  const first = useRef((w: number, h: number): Pan => {
    const nodes = hold.matte.pieces.flatMap((p) => p.nodes)
    if (!nodes.length) return fit(w, h)
    const [xs, ys] = [nodes.map((n) => n.x), nodes.map((n) => n.y)]
    const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
    const scale = Math.min(4, (w - 90) / (right - left + 1), (h - 110) / (bottom - top + 1))
    return { scale, x: w / 2 - ((left + right) / 2) * scale, y: h / 2 - ((top + bottom) / 2) * scale }
  })
  useEffect(() => {
    const watch = new ResizeObserver(([e]) => {
      const { width: w, height: h } = e!.contentRect
      setSize({ w: Math.floor(w), h: Math.floor(h) })
      setPan((before) => before ?? first.current(w, h))
    })
    watch.observe(box.current!)
    return () => watch.disconnect()
  }, [])
  useEffect(() => setLocal(null), [hold.matte])

  const zoom = useCallback((by: number, cx: number, cy: number) => {
    setPan((p) => {
      if (!p) return p
      const scale = Math.max(0.05, Math.min(16, p.scale * by))
      const k = scale / p.scale
      return { scale, x: cx - (cx - p.x) * k, y: cy - (cy - p.y) * k }
    })
  }, [])
  useEffect(() => {
    const el = box.current!
    const onWheel = (e: WheelEvent) => {
      e.preventDefault()
      const r = el.getBoundingClientRect()
      zoom(Math.exp(-Math.max(-120, Math.min(120, e.deltaY)) * 0.0022), e.clientX - r.left, e.clientY - r.top)
    }
    el.addEventListener('wheel', onWheel, { passive: false })
    return () => el.removeEventListener('wheel', onWheel)
  }, [zoom])

  const commit = async (next: Matte) => {
    setLocal(next)
    if (!(await edit({ kind: 'change matte', hold: hold.id, matte: next }))) setLocal(null)
  }
  const show = (next: Matte) => {
    setLocal(next)
    setDraft({ kind: 'change matte', hold: hold.id, matte: next })
  }
  const withNodes = (nodes: Node[]): Matte => ({ ...matte, pieces: inPieces(matte.pieces, pieceId!, nodes) })

  const close = (nodes: Node[] | null = drawing) => {
    if (!nodes) return
    if (nodes.length < 2 || (nodes.length === 2 && !nodes.some((n) => n.smooth))) {
      say('A shape needs three points, or two with tangents. Set another one.')
      return
    }
    const names = new Set(matte.pieces.map((p) => p.name))
    let n = matte.pieces.length + 1
    while (names.has(`Pen ${n}`)) n++
    const added: Piece = {
      id: newId(), kind: 'pen', name: `Pen ${n}`, combine, nodes, invert: false, opacity: 1, visible: true,
    }
    setDrawing(null)
    setPieceId(added.id)
    setChosen(new Set())
    setTool('points')
    if (look === 'scene') setLook('veil')
    void commit({ ...matte, pieces: [...matte.pieces, added] })
  }

  const toSource = (e: { clientX: number; clientY: number }): Point => {
    const r = box.current!.getBoundingClientRect()
    const p = pan ?? { scale: 1, x: 0, y: 0 }
    return { x: round((e.clientX - r.left - p.x) / p.scale), y: round((e.clientY - r.top - p.y) / p.scale) }
  }
  const near = (a: Point, b: Point, px: number) => Math.hypot(a.x - b.x, a.y - b.y) * (pan?.scale ?? 1) < px

  const onDown = (e: React.PointerEvent) => {
    box.current!.focus({ preventScroll: true })
    e.currentTarget.setPointerCapture(e.pointerId)
    const p = toSource(e)
    if (e.button === 1 || e.button === 2 || spaced || tool === 'pan') {
      drag.current = { kind: 'pan', x: e.clientX, y: e.clientY, pan: pan! }
      return
    }
    if (tool === 'pen') {
      if (drawing && drawing.length > 1 && near(p, drawing[0]!, 9)) return close()
      setDrawing([...(drawing ?? []), corner(p)])
      drag.current = { kind: 'pull', start: p }
      return
    }
    if (piece) {
      for (const i of chosen) {
        const n = piece.nodes[i]
        if (!n) continue
        for (const side of ['arrive', 'leave'] as const) {
          const [tx, ty] = n[side]
          if ((tx || ty) && near(p, { x: n.x + tx, y: n.y + ty }, 8)) {
            drag.current = { kind: 'tangent', i, side, nodes: piece.nodes }
            return
          }
        }
      }
      const i = piece.nodes.findIndex((n) => near(p, n, 8))
      if (i >= 0) {
        const which = e.shiftKey
          ? new Set(chosen.has(i) ? [...chosen].filter((c) => c !== i) : [...chosen, i])
          : chosen.has(i) ? chosen : new Set([i])
        setChosen(which)
        drag.current = { kind: 'nodes', start: p, nodes: piece.nodes, which }
        return
      }
    }
    // On an outline, the selected piece's first; anywhere else lets go.
    const order = piece ? [piece, ...matte.pieces.filter((x) => x !== piece)] : matte.pieces
    for (const other of order) {
      const hit = nearest(other.nodes, p)
      if (hit.far * pan!.scale > 7) continue
      if (other.id === pieceId) {
        drag.current = { kind: 'segment', i: hit.segment, t: hit.t, start: p, nodes: other.nodes, moved: false }
      }
      setPieceId(other.id)
      setChosen(new Set())
      return
    }
    setChosen(new Set())
  }

  const onMove = (e: React.PointerEvent) => {
    const p = toSource(e)
    setPointer(p)
    const d = drag.current
    if (!d) return
    if (d.kind === 'pan') setPan({ ...d.pan, x: d.pan.x + e.clientX - d.x, y: d.pan.y + e.clientY - d.y })
    else if (d.kind === 'pull' && drawing) {
      if (near(p, d.start, 4)) return
      const [dx, dy] = [round(p.x - d.start.x), round(p.y - d.start.y)]
      const last = drawing.at(-1)!
      setDrawing([...drawing.slice(0, -1), { ...last, smooth: true, leave: [dx, dy], arrive: [-dx, -dy] }])
    } else if (d.kind === 'nodes') {
      show(withNodes(movedBy(d.nodes, d.which, p.x - d.start.x, p.y - d.start.y)))
    } else if (d.kind === 'tangent') {
      const n = d.nodes[d.i]!
      show(withNodes(withTangent(d.nodes, d.i, d.side, p.x - n.x, p.y - n.y, e.altKey)))
    } else if (d.kind === 'segment') {
      if (!d.moved && near(p, d.start, 3)) return
      d.moved = true
      show(withNodes(bent(d.nodes, d.i, d.t, p.x - d.start.x, p.y - d.start.y)))
    }
  }

  const onUp = () => {
    const d = drag.current
    drag.current = null
    if (d && d.kind !== 'pan' && d.kind !== 'pull' && local && local !== hold.matte) void commit(local)
  }

  const onDouble = (e: React.MouseEvent) => {
    if (tool === 'pen') return close()
    if (!piece) return
    const p = toSource(e)
    const i = piece.nodes.findIndex((n) => near(p, n, 8))
    if (i >= 0) return void commit(withNodes(toggled(piece.nodes, i)))
    const hit = nearest(piece.nodes, p)
    if (hit.far * pan!.scale > 7) return
    setChosen(new Set([hit.segment + 1]))
    void commit(withNodes(withPoint(piece.nodes, hit.segment, Math.max(0.02, Math.min(0.98, hit.t)))))
  }

  const onKey = (e: React.KeyboardEvent) => {
    const used = () => {
      e.preventDefault()
      e.stopPropagation()
    }
    if (e.ctrlKey || e.metaKey || e.altKey) return
    const by = e.shiftKey ? 10 : 1
    const dx = e.key === 'ArrowLeft' ? -by : e.key === 'ArrowRight' ? by : 0
    const dy = e.key === 'ArrowUp' ? -by : e.key === 'ArrowDown' ? by : 0
    const key = e.key.toLowerCase()
    if (e.key === ' ') {
      used()
      setSpaced(true)
    } else if (key === 'v') used(), setTool('points')
    else if (key === 'p') used(), setTool('pen')
    else if (key === 'm') used(), setTool('pan')
    else if (e.key === '+' || e.key === '=') used(), zoom(1.3, size.w / 2, size.h / 2)
    else if (e.key === '-') used(), zoom(1 / 1.3, size.w / 2, size.h / 2)
    else if (e.key === '0') used(), setPan(fit(size.w, size.h))
    else if (tool === 'pen') {
      const from = cross ?? drawing?.at(-1) ?? { x: shot.width / 2, y: shot.height / 2 }
      if (dx || dy) used(), setCross({ x: round(from.x + dx), y: round(from.y + dy) })
      else if (key === 'x') used(), setDrawing([...(drawing ?? []), corner(from)])
      else if (e.key === 'Enter') used(), close()
      else if (e.key === 'Backspace' || e.key === 'Delete') {
        if (!drawing) return
        used()
        setDrawing(drawing.length > 1 ? drawing.slice(0, -1) : null)
      } else if (e.key === 'Escape' && (drawing || cross)) used(), setDrawing(null), setCross(null)
    } else if (piece && chosen.size) {
      if (dx || dy) used(), void commit(withNodes(movedBy(piece.nodes, chosen, dx, dy)))
      else if (e.key === 'Delete' || e.key === 'Backspace') {
        used()
        const rest = piece.nodes.filter((_, i) => !chosen.has(i))
        setChosen(new Set())
        if (rest.length >= 2) void commit(withNodes(rest))
        else void commit({ ...matte, pieces: matte.pieces.filter((p) => p.id !== piece.id) })
      } else if (e.key === 'Escape') used(), setChosen(new Set())
    } else if (piece && (e.key === 'Delete' || e.key === 'Backspace')) {
      used()
      void commit({ ...matte, pieces: matte.pieces.filter((p) => p.id !== piece.id) })
    } else if (piece && e.key === 'Enter') {
      used()
      setChosen(new Set(piece.nodes.map((_, i) => i)))
    }
  }

  const cursor = spaced || tool === 'pan' ? 'grab' : tool === 'pen' ? 'crosshair' : 'default'
  const middle = () => [size.w / 2, size.h / 2] as const
  return (
    <Flex h="100%" minH="0">
      <Flex direction="column" align="center" gap="1" w="44px" py="2" borderRight="1px solid {colors.rule}" flexShrink="0">
        <Tool icon={MousePointer2} label="Points" hint="Points: drag points, tangents, edges; double-click puts one in (V)" on={tool === 'points'} onClick={() => setTool('points')} />
        <Tool icon={PenTool} label="Pen" hint="Pen: click for a corner, drag for a curve (P)" on={tool === 'pen'} onClick={() => setTool('pen')} />
        <Tool icon={Hand} label="Pan" hint="Pan (M, or hold Space)" on={tool === 'pan'} onClick={() => setTool('pan')} />
        <Box w="24px" h="1px" bg="rule" my="1" />
        <Tool icon={ZoomIn} label="Zoom in" hint="Zoom in (+, or the wheel)" onClick={() => zoom(1.5, ...middle())} />
        <Tool icon={ZoomOut} label="Zoom out" hint="Zoom out (−)" onClick={() => zoom(1 / 1.5, ...middle())} />
        <Tool icon={Scan} label="Whole frame" hint="Whole frame (0)" onClick={() => setPan(fit(size.w, size.h))} />
      </Flex>
      <Box
        ref={box}
        position="relative"
        flex="1"
        minW="0"
        overflow="hidden"
        bg="surround"
        tabIndex={0}
        role="application"
        aria-label={`Held frame ${at} of ${shot.name}`}
        cursor={cursor}
        touchAction="none"
        data-testid="carve"
        data-pan={pan ? JSON.stringify(pan) : undefined}
        onPointerDown={onDown}
        onPointerMove={onMove}
        onPointerUp={onUp}
        onPointerLeave={() => setPointer(null)}
        onDoubleClick={onDouble}
        onContextMenu={(e) => e.preventDefault()}
        onKeyDown={onKey}
        onKeyUp={(e) => e.key === ' ' && setSpaced(false)}
        onBlur={() => setSpaced(false)}
      >
        {pan && size.w > 0 && (
          <>
            <Stage hold={hold} shot={shot} draft={local} look={look} pan={pan} size={size} />
            <Paths
              pieces={look === 'matte' || look === 'checker' ? matte.pieces.filter((p) => p.id === pieceId) : matte.pieces}
              piece={pieceId}
              chosen={chosen}
              drawing={drawing}
              pointer={tool === 'pen' ? (cross ?? pointer) : null}
              cross={tool === 'pen' ? cross : null}
              pan={pan}
              editing={tool === 'points'}
            />
          </>
        )}
        <Box position="absolute" left="10px" top="10px" px="2" py="1" bg="#1E2530E0" color="#FBF8F2" borderRadius="soft" fontSize="12.5px" pointerEvents="none" className="figures">
          {layer.name} · {shot.name} · frame {at}
        </Box>
        <Box position="absolute" right="10px" top="8px" onPointerDown={(e) => e.stopPropagation()}>
          <Choice
            dark
            label="View"
            value={look}
            onChange={setLook}
            options={[
              { value: 'scene', label: 'Scene' },
              { value: 'veil', label: 'Veil' },
              { value: 'checker', label: 'Checker' },
              { value: 'matte', label: 'Matte' },
            ]}
          />
        </Box>
        <Flex position="absolute" left="10px" bottom="10px" right="10px" justify="space-between" pointerEvents="none">
          <Text fontSize="12px" color="#F4F1EA" bg="#1E2530C0" px="2" py="0.5" borderRadius="soft">
            {advice(tool, drawing, piece, chosen)}
          </Text>
          <Text fontSize="12px" color="#F4F1EA" bg="#1E2530C0" px="2" py="0.5" borderRadius="soft" className="figures">
            {Math.round((pan?.scale ?? 1) * 100)} %
          </Text>
        </Flex>
      </Box>
      <Pieces
        matte={matte}
        shares={view.layers[layer.id]?.shares ?? []}
        piece={pieceId}
        combine={combine}
        onCombine={setCombine}
        onPiece={(id) => {
          setPieceId(id)
          setChosen(new Set())
        }}
        onShow={show}
        onCommit={(m) => void commit(m)}
      />
    </Flex>
  )
}

function advice(tool: ToolName, drawing: Node[] | null, piece: Piece | null, chosen: Set<number>): string {
  if (tool === 'pan') return 'Drag to pan.'
  if (tool === 'pen') {
    if (!drawing) return 'Click around the subject; press and drag for a curve.'
    return drawing.length < 3 ? 'Go on around the subject. Backspace takes a point back.' : 'Click the first point, or press Enter, to close.'
  }
  if (!piece) return 'Take the pen and draw around the subject.'
  return chosen.size ? 'Alt+drag a tangent to free it. Delete removes the points.' : 'Drag points or edges. Double-click an edge for a new point.'
}
