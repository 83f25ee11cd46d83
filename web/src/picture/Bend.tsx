import type { Edit, Layer } from '../api/client'
import type { FrameHeader } from '../api/live'
import { useDrag } from '../parts/useDrag'
import { useOf, useStudio } from '../store'
import { roleColour } from '../theme/system'
import { onCanvas, Overlay } from './Overlay'

type Lettering = Extract<Layer['source'], { kind: 'lettering' }>
/** How many degrees a line is bent by for each canvas pixel that its handle is drawn up. */
const PER_PIXEL = 0.75

/** The handle by which lettering is bent: drawn up it is an arc, drawn down it bends the other way. */
export function Bend(p: { header: FrameHeader | null; width: number; height: number; scale: number }) {
  const {
    step,
    view,
    layer: chosen,
    playing,
    edit,
    setDraft,
    picking,
  } = useOf('step', 'view', 'layer', 'playing', 'edit', 'setDraft', 'picking')
  const layer = view?.project.layers.find((l) => l.id === chosen)
  const outline = p.header?.layers.find((o) => o.id === chosen)
  const source = layer?.source.kind === 'lettering' ? (layer.source as Lettering) : null
  const keyed = layer?.keys.some((k) => k.channel === 'source.bend')
  const now = keyed ? (outline?.values['source.bend']?.[0] ?? 0) : (source?.bend ?? 0)
  const bend = source?.shape === 'arc' ? now : 0
  const set = (to: number): Edit =>
    keyed
      ? {
          kind: 'set value',
          layer: chosen!,
          channel: 'source.bend',
          frame: useStudio.getState().playhead,
          value: [to],
          key: false,
        }
      : {
          kind: 'change layer',
          layer: chosen!,
          clear: [],
          source: { ...source!, shape: to ? 'arc' : 'straight', bend: to || source!.bend },
        }
  const drag = useDrag({
    start: (e) =>
      (e.target as Element).closest('[data-bend]')
        ? { from: onCanvas(e, (e.target as Element).closest('svg') as SVGSVGElement), bend, last: null as Edit | null }
        : null,
    move: (_dx, _dy, h, e) => {
      const [, y] = onCanvas(e, (e.target as Element).closest('svg') as SVGSVGElement)
      const to = Math.max(-350, Math.min(350, Math.round(h.bend + (h.from[1] - y) * PER_PIXEL)))
      // Near to nothing it is straight.
      h.last = set(Math.abs(to) < 6 ? 0 : to)
      setDraft(h.last)
    },
    end: (_moved, h) => {
      if (h.last) void edit(h.last)
    },
  })
  if (step !== 'dress' || playing || picking || !source || !outline || layer!.locked) return null
  const [a, b] = outline.corners as [number, number][]
  const px = 1 / (p.scale || 1)
  const [x, y] = [(a![0] + b![0]) / 2, (a![1] + b![1]) / 2 - 26 * px]
  const teal = roleColour('selected')
  return (
    <Overlay through width={p.width} height={p.height} data-testid="bend" {...drag}>
      <g
        transform={`translate(${x} ${y}) scale(${px})`}
        style={{ pointerEvents: 'auto', cursor: 'ns-resize' }}
        data-bend={bend}
      >
        <circle r="14" fill="transparent" />
        <path d="M-11 5Q0 -7 11 5" fill="none" stroke="#ffffff" strokeWidth="6" strokeLinecap="round" />
        <path d="M-11 5Q0 -7 11 5" fill="none" stroke={teal} strokeWidth="3" strokeLinecap="round" />
      </g>
    </Overlay>
  )
}
