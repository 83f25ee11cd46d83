import { useEffect, useRef, useState } from 'react'
import type { Edit, Layer } from '../api/client'
import type { FrameHeader } from '../api/live'
import { newest } from '../parts/finishes'
import { can } from '../parts/finishes'
import { useDrag } from '../parts/useDrag'
import { useOf } from '../store'
import { roleColour } from '../theme/system'
import { toSource } from './handling'
import { onCanvas, Overlay, type Point } from './Overlay'

/** How many canvas pixels lie between points that are drawn in one go. */
const APART = 26
/** How many points a path has at most. */
const MOST = 400

type Penned = Layer['source'] & { points: Point[]; closed?: boolean }

/** The points of a pen path, or of the path that letters run along, as handles; and drawing it anew. */
export function PenPath(p: { header: FrameHeader | null; width: number; height: number; scale: number }) {
  const {
    step,
    view,
    layer: chosen,
    playing,
    edit,
    setDraft,
    picking,
    drawing,
    setDrawing,
  } = useOf('step', 'view', 'layer', 'playing', 'edit', 'setDraft', 'picking', 'drawing', 'setDrawing')
  const layer = view?.project.layers.find((l) => l.id === chosen)
  const source = layer && can(layer, 'penned') ? (layer.source as Penned) : null
  const outline = p.header?.layers.find((o) => o.id === chosen)
  const [fresh, setFresh] = useState<Point[]>([])
  const latest = useRef(fresh)
  latest.current = fresh
  const on = step === 'dress' && !playing && !picking && !!source && !layer!.locked
  const draw = on && drawing
  const set = (points: Point[]): Edit => ({
    kind: 'change layer',
    layer: chosen!,
    clear: [],
    source: { ...newest(layer!).source, points } as Layer['source'],
  })
  const done = () => {
    const points = latest.current
    setFresh([])
    setDrawing(false)
    if (points.length > 1) void edit(set(points))
    else setDraft(null)
  }
  const finish = useRef(done)
  finish.current = done
  useEffect(() => {
    if (!draw) return
    const key = (e: KeyboardEvent) => {
      if (e.key !== 'Escape' && e.key !== 'Enter') return
      e.stopPropagation()
      e.preventDefault()
      if (e.key === 'Escape') setFresh((latest.current = []))
      finish.current()
    }
    addEventListener('keydown', key, true)
    return () => removeEventListener('keydown', key, true)
  }, [draw])
  useEffect(() => () => setDrawing(false), [chosen, step, setDrawing])
  // Own pixels to canvas pixels, from where its box lies in both.
  const [c0, c1, , c3] = (outline?.corners ?? []) as Point[]
  const [left = 0, top = 0, right = 1, bottom = 1] = outline?.box ?? []
  const there = ([x, y]: Point): Point => {
    if (!c0 || !c1 || !c3) return [x + p.width / 2, y + p.height / 2]
    const [u, v] = [(x + p.width / 2 - left) / (right - left), (y + p.height / 2 - top) / (bottom - top)]
    return [c0[0] + u * (c1[0] - c0[0]) + v * (c3[0] - c0[0]), c0[1] + u * (c1[1] - c0[1]) + v * (c3[1] - c0[1])]
  }
  const back = (at: Point): Point => {
    const [x, y] = outline ? toSource(at, outline) : at
    return [Math.round((x - p.width / 2) * 10) / 10, Math.round((y - p.height / 2) * 10) / 10]
  }
  // While a path is drawn anew its layer's box changes with it: places go by where it lay when that began.
  const map = useRef({ there, back })
  if (!drawing || !fresh.length) map.current = { there, back }

  const grip = useDrag({
    start: (e) => {
      const n = (e.target as Element).closest('[data-point]')?.getAttribute('data-point')
      return n == null
        ? null
        : { n: Number(n), points: source!.points, map: { there, back }, last: null as Edit | null }
    },
    move: (_dx, _dy, h, e) => {
      const at = h.map.back(onCanvas(e, (e.target as Element).closest('svg') as SVGSVGElement))
      h.last = set(h.points.map((point, n) => (n === h.n ? at : point)))
      setDraft(h.last)
    },
    end: (_moved, h) => {
      if (h.last) void edit(h.last)
    },
  })
  const add = (at: Point) => {
    if (latest.current.length >= MOST) return
    const points = [...latest.current, map.current.back(at)]
    setFresh((latest.current = points))
    if (points.length > 1) setDraft(set(points))
  }
  const pen = useDrag({
    start: (e) => {
      const at = onCanvas(e, e.currentTarget as SVGSVGElement)
      const first = latest.current.length === 0
      add(at)
      return { last: at, first }
    },
    move: (_dx, _dy, h, e) => {
      const at = onCanvas(e, e.currentTarget as SVGSVGElement)
      if (Math.hypot(at[0] - h.last[0], at[1] - h.last[1]) < APART) return
      h.last = at
      add(at)
    },
    // A path that was drawn in one go is done when the pointer is let go.
    end: (_moved, h) => {
      if (h.first && latest.current.length > 2) done()
    },
  })
  if (!on || !source) return null
  const px = 1 / (p.scale || 1)
  const teal = roleColour('selected')
  if (draw)
    return (
      <Overlay
        width={p.width}
        height={p.height}
        data-testid="pen"
        cursor="crosshair"
        {...pen}
        onDoubleClick={() => done()}
      >
        <rect x={-p.width} y={-p.height} width={3 * p.width} height={3 * p.height} fill="transparent" />
        {fresh.map((at, n) => {
          const [x, y] = map.current.there(at)
          return <circle key={n} cx={x} cy={y} r={3.5 * px} fill="#ffffff" stroke={teal} strokeWidth={1.5 * px} />
        })}
      </Overlay>
    )
  return (
    <Overlay through width={p.width} height={p.height} data-testid="pen-points" {...grip}>
      {source.points.map((at, n) => {
        const [x, y] = there(at)
        return (
          <g
            key={n}
            transform={`translate(${x} ${y}) scale(${px})`}
            style={{ pointerEvents: 'auto', cursor: 'grab' }}
            data-point={n}
            onDoubleClick={() => source.points.length > 2 && void edit(set(source.points.filter((_, k) => k !== n)))}
          >
            <circle r="10" fill="transparent" />
            <circle r="4.5" fill="#ffffff" stroke={teal} strokeWidth="2" />
          </g>
        )
      })}
    </Overlay>
  )
}
