import { useEffect, useRef, useState } from 'react'
import type { Edit } from '../api/client'
import type { FrameHeader } from '../api/live'
import { follow } from '../parts/follow'
import { useDrag } from '../parts/useDrag'
import { shownAt, useOf } from '../store'
import { roleColour } from '../theme/system'
import { onCanvas, Overlay, type Point } from './Overlay'

const TOLD = {
  place: 'Press on what it is to stick to. Escape leaves it.',
  patch: 'Draw a box around what it is to stick to. Escape leaves it.',
  fix: 'Drag it to where it belongs on this frame. Escape leaves it.',
}

/**
 * What tracks need to be shown on the picture: a place or a patch to stick to, or where a layer belongs; and where the
 * patch that a layer sticks to is seen, and how far around it is looked for.
 */
export function Scene(p: { header: FrameHeader | null; width: number; height: number; scale: number }) {
  const { showing, setShowing, say, view, step, layer, settled, playing, setDraft, edit } = useOf(
    'showing',
    'setShowing',
    'say',
    'view',
    'step',
    'layer',
    'settled',
    'playing',
    'setDraft',
    'edit',
  )
  const overlay = useRef<SVGSVGElement>(null)
  const [drawn, setDrawn] = useState<[Point, Point] | null>(null)
  const what = showing?.what
  useEffect(() => {
    if (!what) return
    say(TOLD[what])
    const leave = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return
      e.stopPropagation()
      setDrawn(null)
      setDraft(null)
      setShowing(null)
    }
    addEventListener('keydown', leave, true)
    return () => removeEventListener('keydown', leave, true)
  }, [what, say, setShowing, setDraft])
  // Whatever is done elsewhere, what was to be shown for it is over.
  useEffect(() => {
    if (showing && (step !== 'fly' || !showing.layers.includes(layer ?? ''))) setShowing(null)
  }, [showing, step, layer, setShowing])

  const shown = view ? shownAt(view, settled) : null
  const shot = shown ? view!.shots[shown.shot] : undefined
  const corners = p.header?.source?.corners as Point[] | undefined
  const px = 1 / (p.scale || 1)
  /** A place of the canvas in pixels of the shot, or (apart) a way on it. */
  const onFootage = (at: Point, apart = false): Point | null => {
    if (!corners || !shot) return null
    const [o, right, , down] = corners as [Point, Point, Point, Point]
    const [a, b] = [right, down].map((c) => [c[0] - o[0], c[1] - o[1]] as Point) as [Point, Point]
    const q: Point = apart ? at : [at[0] - o[0], at[1] - o[1]]
    const det = a[0] * b[1] - a[1] * b[0] || 1
    return [((q[0] * b[1] - q[1] * b[0]) / det) * shot.width, ((a[0] * q[1] - a[1] * q[0]) / det) * shot.height]
  }
  const onPicture = (at: Point): Point => {
    const [o, right, , down] = corners as [Point, Point, Point, Point]
    const [u, v] = [at[0] / shot!.width, at[1] / shot!.height]
    return [o[0] + u * (right[0] - o[0]) + v * (down[0] - o[0]), o[1] + u * (right[1] - o[1]) + v * (down[1] - o[1])]
  }
  const ask = (given: object) => {
    const how = view?.project.layers.find((l) => l.id === showing!.layers[0])?.pin?.how ?? 'turn'
    setShowing(null)
    setDrawn(null)
    void follow({ layers: showing!.layers, how, at: settled, ...given })
  }
  const nothing = () => say('No footage is seen here. Go to a frame of what it is to stick to.', 'trouble')
  const drag = useDrag({
    atOnce: true,
    start: (e) => {
      e.stopPropagation()
      if (showing?.what === 'fix' && shown?.frame === view!.tracks[showing.track]?.ref) {
        say('All other frames are seen from this one: it is right as it is. Go to another one.')
        return null
      }
      return { from: onCanvas(e, overlay.current!), last: null as Edit | null }
    },
    move: (_dx, _dy, held, e) => {
      const now = onCanvas(e, overlay.current!)
      if (showing?.what === 'patch') setDrawn([held.from, now])
      if (showing?.what !== 'fix' || !shown) return
      const by = onFootage([now[0] - held.from[0], now[1] - held.from[1]], true)
      if (!by) return
      held.last = { kind: 'fix track', track: showing.track, frame: shown.frame, by }
      setDraft(held.last)
    },
    end: (_moved, held, e) => {
      const now = onCanvas(e, overlay.current!)
      if (showing?.what === 'fix') return held.last ? void edit(held.last) : undefined
      const [one, other] = [onFootage(held.from), onFootage(now)]
      if (!one || !other) return nothing()
      if (showing?.what === 'place') return ask({ touched: other })
      const box = [0, 1]
        .map((n) => Math.min(one[n]!, other[n]!))
        .concat([0, 1].map((n) => Math.max(one[n]!, other[n]!)))
      if (Math.min(box[2]! - box[0]!, box[3]! - box[1]!) < 4) return setDrawn(null)
      ask({ patch: box })
    },
  })

  const teal = roleColour('selected')
  const pin = view?.project.layers.find((l) => l.id === layer)?.pin
  const track = pin ? view!.tracks[pin.track] : undefined
  const seen = shown && track?.shot === shown.shot ? track.seen[shown.frame - track.first] : undefined
  const patch = seen && corners && shot ? quad(seen).map(onPicture) : null
  const around = seen && corners && shot ? quad(grown(seen, track!.search)).map(onPicture) : null
  const line = (points: Point[]) => points.map((c) => c.join(',')).join(' ')
  if (step !== 'fly' || playing || (!showing && !patch)) return null
  return (
    <Overlay
      ref={overlay}
      through={!showing}
      width={p.width}
      height={p.height}
      data-testid="scene"
      cursor={showing?.what === 'fix' ? 'move' : 'crosshair'}
      {...(showing ? drag : {})}
    >
      {showing && <rect width={p.width} height={p.height} fill="transparent" />}
      {patch && around && (
        <g fill="none" pointerEvents="none">
          <polygon
            points={line(around)}
            stroke="#ffffff"
            strokeOpacity="0.75"
            strokeWidth={1.4 * px}
            strokeDasharray={`${3 * px} ${5 * px}`}
          />
          <polygon points={line(patch)} stroke="#ffffff" strokeOpacity="0.7" strokeWidth={4 * px} />
          <polygon points={line(patch)} stroke={roleColour('key')} strokeWidth={1.8 * px} data-testid="patch" />
        </g>
      )}
      {drawn && (
        <rect
          x={Math.min(drawn[0][0], drawn[1][0])}
          y={Math.min(drawn[0][1], drawn[1][1])}
          width={Math.abs(drawn[1][0] - drawn[0][0])}
          height={Math.abs(drawn[1][1] - drawn[0][1])}
          fill={teal}
          fillOpacity="0.15"
          stroke={teal}
          strokeWidth={1.8 * px}
        />
      )}
    </Overlay>
  )
}

/** Eight numbers as four places. */
function quad(seen: number[]): Point[] {
  return [0, 2, 4, 6].map((n) => [seen[n]!, seen[n + 1]!])
}

/** The upright box around a patch, so much larger on each side. */
function grown(seen: number[], by: number): number[] {
  const [x, y] = [seen.filter((_, n) => n % 2 === 0), seen.filter((_, n) => n % 2 === 1)]
  const [l, t, r, b] = [Math.min(...x) - by, Math.min(...y) - by, Math.max(...x) + by, Math.max(...y) + by]
  return [l, t, r, t, r, b, l, b]
}
