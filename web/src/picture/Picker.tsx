import { useEffect, useRef, useState } from 'react'
import { useOf } from '../store'
import { onCanvas, Overlay, type Point } from './Overlay'

/** How many pixels of the picture the disc reaches that is averaged, and how much larger it is shown. */
const RADIUS = 3
const LENS = 11
const BY = 9

/** Picks a colour from the picture: the mean of a small disc, shown magnified. Escape leaves it. */
export function Picker(p: {
  canvas: React.RefObject<HTMLCanvasElement | null>
  width: number
  height: number
  scale: number
}) {
  const { picking, setPicking, say } = useOf('picking', 'setPicking', 'say')
  const overlay = useRef<SVGSVGElement>(null)
  const lens = useRef<HTMLCanvasElement>(null)
  const [seen, setSeen] = useState<{ at: Point; screen: Point; colour: string } | null>(null)
  useEffect(() => {
    if (!picking) return
    say(`Press on the picture for ${picking.title.toLowerCase()}. Escape leaves it.`)
    const leave = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return
      e.stopPropagation()
      setPicking(null)
    }
    addEventListener('keydown', leave, true)
    return () => removeEventListener('keydown', leave, true)
  }, [picking, setPicking, say])
  if (!picking) return null
  const look = (e: React.PointerEvent) => {
    const canvas = p.canvas.current
    if (!canvas) return null
    const at = onCanvas(e, overlay.current!)
    const x = Math.floor((at[0] / p.width) * canvas.width)
    const y = Math.floor((at[1] / p.height) * canvas.height)
    const colour = mean(canvas, x, y)
    const to = lens.current?.getContext('2d')
    if (to) {
      to.imageSmoothingEnabled = false
      to.fillStyle = '#3C3D40'
      to.fillRect(0, 0, LENS * BY, LENS * BY)
      const half = (LENS - 1) / 2
      to.drawImage(canvas, x - half, y - half, LENS, LENS, 0, 0, LENS * BY, LENS * BY)
    }
    const box = overlay.current!.getBoundingClientRect()
    setSeen({ at, screen: [e.clientX - box.left, e.clientY - box.top], colour })
    return colour
  }
  const [x, y] = seen?.screen ?? [0, 0]
  const side = LENS * BY
  return (
    <>
      <Overlay
        ref={overlay}
        width={p.width}
        height={p.height}
        data-testid="picker"
        cursor="crosshair"
        onPointerMove={look}
        onPointerLeave={() => setSeen(null)}
        onPointerDown={(e) => {
          e.stopPropagation()
          const colour = look(e)
          if (!colour) return
          picking.take(colour)
          setPicking(null)
        }}
      >
        <rect width={p.width} height={p.height} fill="transparent" />
      </Overlay>
      <div
        aria-hidden="true"
        style={{
          position: 'absolute',
          pointerEvents: 'none',
          visibility: seen ? 'visible' : 'hidden',
          left: Math.max(0, Math.min(x + 18, p.width * p.scale - side - 4)),
          top: y > side + 40 ? y - side - 40 : y + 24,
          borderRadius: 10,
          overflow: 'hidden',
          border: `4px solid ${seen?.colour ?? '#fff'}`,
          boxShadow: '0 0 0 1px #1E2530',
          background: '#FBF8F2',
          color: '#1E2530',
        }}
      >
        <div style={{ position: 'relative', width: side, height: side }}>
          <canvas ref={lens} width={side} height={side} style={{ display: 'block' }} />
          <svg viewBox={`0 0 ${side} ${side}`} style={{ position: 'absolute', inset: 0 }}>
            <circle cx={side / 2} cy={side / 2} r={(RADIUS + 0.5) * BY} fill="none" stroke="#fff" strokeWidth="3" />
            <circle
              cx={side / 2}
              cy={side / 2}
              r={(RADIUS + 0.5) * BY}
              fill="none"
              stroke="#1E2530"
              strokeWidth="1.2"
            />
          </svg>
        </div>
        <div className="figures" style={{ fontSize: 12, textAlign: 'center', padding: '2px 0' }}>
          {seen?.colour}
        </div>
      </div>
    </>
  )
}

/** The mean of a disc of a canvas, as it is shown. */
function mean(canvas: HTMLCanvasElement, x: number, y: number): string {
  const side = 2 * RADIUS + 1
  // Out of a small one of its own: reading from what is drawn on all the time would slow that down.
  const small = new OffscreenCanvas(side, side).getContext('2d', { willReadFrequently: true })!
  small.drawImage(canvas, x - RADIUS, y - RADIUS, side, side, 0, 0, side, side)
  const { data } = small.getImageData(0, 0, side, side)
  const sum = [0, 0, 0]
  let count = 0
  for (let i = 0; i < side * side; i++) {
    const [dx, dy] = [(i % side) - RADIUS, Math.floor(i / side) - RADIUS]
    if (dx * dx + dy * dy > (RADIUS + 0.5) ** 2 || !data[4 * i + 3]) continue
    count++
    for (let n = 0; n < 3; n++) sum[n]! += data[4 * i + n]!
  }
  return (
    '#' +
    sum
      .map((v) =>
        Math.round(v / Math.max(1, count))
          .toString(16)
          .padStart(2, '0'),
      )
      .join('')
      .toUpperCase()
  )
}
