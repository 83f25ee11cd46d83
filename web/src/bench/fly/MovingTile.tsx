import { useEffect, useRef } from 'react'
import type { components } from '../../api/schema'
import { Tile } from '../../parts/Tile'
import { rateOf } from '../../store'

type Shown = components['schemas']['Rehearsed']
type Box4 = [number, number, number, number]

/** For how many frames a small picture stands still before it moves again. */
const REST = 22

/** How much wider than high a small picture is. */
const WIDE = 1.6

/** What is seen around a box: as wide as a small picture is, with room to move in. */
function around(left: number, top: number, width: number, height: number): Box4 {
  const h = Math.max(height * 1.45, (width * 1.3) / WIDE)
  return [left + width / 2 - (h * WIDE) / 2, top + height / 2 - h / 2, h * WIDE, h]
}

/** A move or a behaviour as a small moving picture of the selected thing itself. */
export function MovingTile(p: {
  title: string
  hint: string
  shown?: Shown
  box?: Box4
  /** The part of the canvas around which it is shown. */
  home?: Box4
  picture: string
  /** Whether it moves now; it stands on its most telling frame otherwise. */
  moves: boolean
  /** Stands still before it moves, not after it: what leaves is gone then. */
  leaves?: boolean
  /** Shown without anything around it, as footage is. */
  whole?: boolean
  rate: string
  on: boolean
  disabled?: boolean
  onPress: () => void
  onHover: (over: boolean) => void
}) {
  const image = useRef<SVGGElement>(null)
  const { shown, box, rate, leaves, moves } = p
  useEffect(() => {
    if (!shown?.matrices.length) return
    const show = (n: number) => {
      image.current?.setAttribute('transform', `matrix(${shown.matrices[n]!.join(' ')})`)
      image.current?.setAttribute('opacity', String(shown.opacities[n]))
    }
    if (!moves || matchMedia('(prefers-reduced-motion: reduce)').matches) return show(shown.still)
    const length = shown.matrices.length + REST
    const begun = performance.now()
    let timer = 0
    const tick = () => {
      const at = Math.floor(((performance.now() - begun) / 1000) * rateOf(rate)) % length
      show(leaves ? Math.max(0, at - REST) : Math.min(at, shown.matrices.length - 1))
      timer = requestAnimationFrame(tick)
    }
    tick()
    return () => cancelAnimationFrame(timer)
  }, [shown, rate, leaves, moves])
  const [l, t, r, b] = box ?? [0, 0, 1, 1]
  const [left, top, right, bottom] = p.home ?? [l, t, r, b]
  const [x, y, w, h] = p.whole
    ? [l, t + (b - t) * 0.25, r - l, (b - t) * 0.5]
    : around(left, top, right - left, bottom - top)
  return (
    <Tile
      label={p.title}
      hint={p.hint}
      chosen={p.on}
      disabled={p.disabled ?? false}
      h="42px"
      small
      onPick={p.onPress}
      onRest={() => p.onHover(true)}
      onLeave={() => p.onHover(false)}
      picture={
        box && (
          <svg
            width="100%"
            height="100%"
            viewBox={`${x} ${y} ${w} ${h}`}
            preserveAspectRatio={p.whole ? 'xMidYMid slice' : undefined}
            aria-hidden="true"
          >
            <g ref={image}>
              <image href={p.picture} x={l} y={t} width={r - l} height={b - t} />
            </g>
          </svg>
        )
      }
    />
  )
}
