import { Box, Flex, chakra } from '@chakra-ui/react'
import { useState } from 'react'
import type { Easing } from '../api/client'
import { Heading } from './buttons'
import { NumberField } from './fields'
import { useCatalog } from './useCatalog'
import { useDrag } from './useDrag'
import { roleColour } from '../theme/system'

const SIDE = 132
const LOW = -0.5
const HIGH = 1.5

/** How a key goes over to the next: a ready curve, a curve dragged by its two handles, or four numbers. */
export function EasingPanel(p: {
  title?: string
  easing: Easing
  onDraft: (e: Easing) => void
  onCommit: (e: Easing) => void
}) {
  const catalog = useCatalog()
  const [local, setLocal] = useState<Easing | null>(null)
  const e = local ?? p.easing
  const presets = Object.entries(catalog?.easings ?? {})
  const same = presets.find(([, v]) => v[0] === e.x1 && v[1] === e.y1 && v[2] === e.x2 && v[3] === e.y2)
  const chosen = e.kind === 'stay' ? 'stay' : (same?.[0] ?? 'own curve')
  const x = (u: number) => 8 + u * (SIDE - 16)
  const y = (v: number) => SIDE - ((v - LOW) / (HIGH - LOW)) * SIDE
  const commit = (next: Easing) => {
    setLocal(null)
    p.onCommit(next)
  }
  const drag = useDrag({
    start: (event) => (Number((event.target as Element).getAttribute('data-handle')) || null) as 1 | 2 | null,
    move: (_dx, _dy, handle, event) => bend(handle, event),
    end: () => local && commit(local),
  })
  const bend = (handle: 1 | 2, event: React.PointerEvent) => {
    const box = event.currentTarget.getBoundingClientRect()
    const u = Math.max(0, Math.min(1, (((event.clientX - box.left) / box.width) * SIDE - 8) / (SIDE - 16)))
    const v = Math.max(LOW, Math.min(HIGH, LOW + (1 - (event.clientY - box.top) / box.height) * (HIGH - LOW)))
    const r = (a: number) => Math.round(a * 100) / 100
    const next: Easing =
      handle === 1 ? { ...e, kind: 'bezier', x1: r(u), y1: r(v) } : { ...e, kind: 'bezier', x2: r(u), y2: r(v) }
    setLocal(next)
    p.onDraft(next)
  }
  const teal = roleColour('selected')
  return (
    <Box w="320px">
      <Heading>{p.title ?? 'To the next key'}</Heading>
      <Flex gap="4">
        <svg
          viewBox={`0 0 ${SIDE} ${SIDE}`}
          width={SIDE}
          height={SIDE}
          style={{ touchAction: 'none', background: 'var(--chakra-colors-paper)', borderRadius: 6, flexShrink: 0 }}
          aria-label="Curve, to drag"
          data-testid="curve"
          {...drag}
        >
          <path d={`M${x(0)} ${y(0)}H${x(1)}M${x(0)} ${y(1)}H${x(1)}`} stroke={roleColour('rule')} />
          {e.kind === 'stay' ? (
            <path d={`M${x(0)} ${y(0)}H${x(1)}V${y(1)}`} fill="none" stroke={roleColour('ink')} strokeWidth="2" />
          ) : (
            <>
              <path
                d={`M${x(0)} ${y(0)}C${x(e.x1)} ${y(e.y1)} ${x(e.x2)} ${y(e.y2)} ${x(1)} ${y(1)}`}
                fill="none"
                stroke={roleColour('ink')}
                strokeWidth="2"
              />
              {([1, 2] as const).map((n) => {
                const [hx, hy] = n === 1 ? [x(e.x1), y(e.y1)] : [x(e.x2), y(e.y2)]
                return (
                  <g key={n} stroke={teal}>
                    <line x1={n === 1 ? x(0) : x(1)} y1={n === 1 ? y(0) : y(1)} x2={hx} y2={hy} />
                    <circle
                      cx={hx}
                      cy={hy}
                      r="5.5"
                      fill={roleColour('card')}
                      strokeWidth="1.8"
                      style={{ cursor: 'grab' }}
                      data-handle={n}
                    />
                  </g>
                )
              })}
            </>
          )}
        </svg>
        <Box flex="1" minW="0">
          <chakra.select
            aria-label="Easing"
            value={chosen}
            w="100%"
            h="28px"
            px="1.5"
            mb="1"
            bg="raised"
            border="1px solid {colors.rule}"
            borderRadius="soft"
            onChange={(event) => {
              const name = event.target.value
              const v = catalog?.easings[name]
              if (name === 'stay') commit({ ...e, kind: 'stay' })
              else if (v) {
                const [x1, y1, x2, y2] = v as [number, number, number, number]
                commit({ kind: 'bezier', x1, y1, x2, y2 })
              }
            }}
          >
            {presets.map(([name]) => (
              <option key={name}>{name}</option>
            ))}
            <option value="stay">stay, then jump</option>
            {chosen === 'own curve' && <option>own curve</option>}
          </chakra.select>
          {e.kind === 'bezier' &&
            (['x1', 'y1', 'x2', 'y2'] as const).map((n) => (
              <NumberField
                key={n}
                label={n}
                step={0.05}
                min={n[0] === 'x' ? 0 : -5}
                max={n[0] === 'x' ? 1 : 5}
                value={e[n]}
                onDraft={(v) => p.onDraft({ ...e, [n]: v })}
                onCommit={(v) => commit({ ...e, [n]: v })}
              />
            ))}
        </Box>
      </Flex>
    </Box>
  )
}
