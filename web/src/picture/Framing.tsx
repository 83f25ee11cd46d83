import { useRef } from 'react'
import type { Edit } from '../api/client'
import type { FrameHeader } from '../api/live'
import { useDrag } from '../parts/useDrag'
import { useOf } from '../store'
import { roleColour } from '../theme/system'
import { Corner } from './Corner'
import { inside } from './handling'
import { onCanvas, Overlay, type Point } from './Overlay'

/**
 * How the chosen piece of the ground lies on the canvas, by hand: drag it to move it, a corner to make it larger or
 * smaller, outside a corner to turn it.
 */
export function Framing(p: { header: FrameHeader | null; width: number; height: number; scale: number }) {
  const { item, step, playing, setDraft, edit } = useOf('item', 'step', 'playing', 'setDraft', 'edit')
  const svg = useRef<SVGSVGElement>(null)
  const source = p.header?.source
  const px = 1 / (p.scale || 1)
  const at = (e: React.PointerEvent) => onCanvas(e, svg.current!)
  const shown = item && step === 'catch' && !playing && source?.item === item && source.corners ? source.corners : null
  const drag = useDrag({
    slack: 3,
    start: (e) => {
      if (!shown) return null
      const point = at(e)
      const grip = (e.target as Element).closest('[data-grip]')?.getAttribute('data-grip') ?? null
      if (!grip && !inside(point, shown)) return null
      const middle: Point = [(shown[0]![0] + shown[2]![0]) / 2, (shown[0]![1] + shown[2]![1]) / 2]
      return { grip, point, middle, last: null as Edit | null }
    },
    move: (_dx, _dy, h, e) => {
      const now = at(e)
      const from = (q: Point): Point => [q[0] - h.middle[0], q[1] - h.middle[1]]
      const [a, b] = [from(h.point), from(now)]
      const change: Partial<Extract<Edit, { kind: 'frame by hand' }>> = {}
      if (h.grip === 'frame-scale') change.scale = Math.max(0.01, Math.hypot(...b) / Math.max(1, Math.hypot(...a)))
      else if (h.grip === 'frame-turn') {
        const turn = ((Math.atan2(b[1], b[0]) - Math.atan2(a[1], a[0])) * 180) / Math.PI
        change.turn = e.shiftKey ? Math.round(turn / 15) * 15 : turn
      } else {
        let [across, down] = [now[0] - h.point[0], now[1] - h.point[1]]
        if (e.shiftKey && Math.abs(across) > Math.abs(down)) down = 0
        else if (e.shiftKey) across = 0
        Object.assign(change, { across, down })
      }
      h.last = { kind: 'frame by hand', item: item!, ...change }
      setDraft(h.last)
    },
    end: (_moved, h) => {
      if (h.last) void edit(h.last)
    },
  })
  if (!shown) return null
  const teal = roleColour('selected')
  const middle: Point = [(shown[0]![0] + shown[2]![0]) / 2, (shown[0]![1] + shown[2]![1]) / 2]
  // Corners far outside cannot be reached: their grips come in to the edge of the picture.
  const near = (c: Point): Point => [
    Math.max(8 * px, Math.min(p.width - 8 * px, c[0])),
    Math.max(8 * px, Math.min(p.height - 8 * px, c[1])),
  ]
  return (
    <Overlay ref={svg} width={p.width} height={p.height} data-testid="framing" {...drag}>
      <polygon
        points={shown.map((c) => c.join(',')).join(' ')}
        fill="transparent"
        stroke={teal}
        strokeWidth={1.6 * px}
        strokeDasharray={`${6 * px} ${4 * px}`}
        style={{ cursor: 'move' }}
      />
      <g stroke={teal} strokeWidth={1.6 * px}>
        {shown.map((corner, i) => (
          <Corner key={i} at={near(corner)} from={middle} px={px} scale="frame-scale" turn="frame-turn" />
        ))}
      </g>
    </Overlay>
  )
}
