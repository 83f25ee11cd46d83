import type { Easing } from '../api/client'
import { roleColour } from '../theme/system'

const [W, H, PAD] = [26, 20, 4]
const x = (u: number) => PAD + u * (W - 2 * PAD)
const y = (v: number) => H - PAD - v * (H - 2 * PAD)

/** An easing drawn small: how far it has come, over time. */
export function EasingShape({ easing }: { easing: Easing }) {
  return (
    <svg width={W} height={H} viewBox={`0 ${-2} ${W} ${H + 4}`} aria-hidden="true" style={{ overflow: 'visible' }}>
      <path d={path(easing)} fill="none" stroke={roleColour('ink')} strokeWidth="1.8" strokeLinejoin="round" />
    </svg>
  )
}

function path(e: Easing): string {
  if (e.kind === 'stay') return `M${x(0)} ${y(0)}H${x(1)}V${y(1)}`
  if (e.kind === 'steps') {
    const count = Math.min(5, e.count ?? 4)
    const stairs = Array.from({ length: count }, (_, n) => `H${x((n + 1) / count)}V${y((n + 1) / count)}`)
    return `M${x(0)} ${y(0)}${stairs.join('')}`
  }
  // A spring as it looks: a picture of it, not its measure.
  if (e.kind === 'spring')
    return `M${x(0)} ${y(0)}C${x(0.16)} ${y(1.9)} ${x(0.3)} ${y(1.5)} ${x(0.44)} ${y(1)}S${x(0.62)} ${y(0.82)} ${x(0.72)} ${y(1)}S${x(0.9)} ${y(1.04)} ${x(1)} ${y(1)}`
  const { x1 = 0, y1 = 0, x2 = 1, y2 = 1 } = e
  return `M${x(0)} ${y(0)}C${x(x1)} ${y(y1)} ${x(x2)} ${y(y2)} ${x(1)} ${y(1)}`
}
