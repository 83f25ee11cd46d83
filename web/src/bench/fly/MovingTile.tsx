import { useEffect, useRef } from 'react'
import type { components } from '../../api/schema'
import { Tile } from '../../parts/Tile'
import { rateOf } from '../../shell/store'

type Shown = components['schemas']['Rehearsed']
type Box4 = [number, number, number, number]

/** For how many frames a small picture stands still before it moves again. */
const REST = 22

/** A move or a behaviour as a small moving picture of the selected thing itself. */
export function MovingTile(p: {
  title: string
  hint: string
  shown?: Shown
  box?: Box4
  picture: string
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
  const { shown, box, rate, leaves } = p
  useEffect(() => {
    if (!shown?.matrices.length) return
    const still = matchMedia('(prefers-reduced-motion: reduce)').matches
    const length = shown.matrices.length + REST
    const begun = performance.now()
    let timer = 0
    const tick = () => {
      const at = Math.floor(((performance.now() - begun) / 1000) * rateOf(rate)) % length
      const moved = leaves ? Math.max(0, at - REST) : Math.min(at, shown.matrices.length - 1)
      const n = still ? Math.floor(shown.matrices.length / 3) : moved
      image.current?.setAttribute('transform', `matrix(${shown.matrices[n]!.join(' ')})`)
      image.current?.setAttribute('opacity', String(shown.opacities[n]))
      if (!still) timer = requestAnimationFrame(tick)
    }
    tick()
    return () => cancelAnimationFrame(timer)
  }, [shown, rate, leaves])
  const [l, t, r, b] = box ?? [0, 0, 1, 1]
  const side = Math.max(r - l, b - t) * 1.45
  const [x, y, w, h] = p.whole
    ? [l, t + (b - t) * 0.25, r - l, (b - t) * 0.5]
    : [(l + r - side) / 2, (t + b - side) / 2, side, side]
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
