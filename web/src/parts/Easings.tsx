import { Box, Flex } from '@chakra-ui/react'
import type { Easing } from '../api/client'
import { radios, tabStop } from './radios'
import { Hint } from './buttons'
import { EasingShape } from './EasingShape'
import { NumberField } from './fields'
import { Pick } from './Pick'
import { useCatalog } from './useCatalog'

type Bezier = Extract<Easing, { kind?: 'bezier' }>

/** All ready easings by their names: curves first, then those that are none. */
function useEasings(): [string, Easing][] {
  const curves = Object.entries(useCatalog()?.easings ?? {}).map(([name, v]): [string, Easing] => {
    const [x1, y1, x2, y2] = v as [number, number, number, number]
    return [name, { kind: 'bezier', x1, y1, x2, y2 }]
  })
  return [
    ...curves,
    ['spring', { kind: 'spring', stiffness: 170, damping: 14, mass: 1 }],
    ['steps', { kind: 'steps', count: 4, jump: 'end' }],
    ['stay, then jump', { kind: 'stay' }],
  ]
}

/** Whether an easing is that one; springs and steps are told by their kind alone. */
export function sameEasing(one: Easing | undefined, other: Easing): boolean {
  if (one?.kind !== other.kind) return false
  if (other.kind !== 'bezier') return true
  const names = ['x1', 'y1', 'x2', 'y2'] as const
  return names.every((n) => (one as Bezier)[n] === (other as Bezier)[n])
}

/** Ready easings as small drawings, to press. */
export function Easings(p: { easing?: Easing; disabled?: boolean; onPick: (e: Easing) => void }) {
  const all = useEasings()
  const chosen = all.findIndex(([, easing]) => sameEasing(p.easing, easing))
  return (
    <Flex gap="3px" wrap="wrap" role="radiogroup" aria-label="Ready curves" {...radios}>
      {all.map(([name, easing], n) => {
        const on = sameEasing(p.easing, easing)
        return (
          <Hint key={name} text={name}>
            <Box
              as="button"
              role="radio"
              tabIndex={tabStop(n, chosen)}
              aria-checked={on}
              aria-label={name}
              aria-disabled={p.disabled}
              px="0"
              h="28px"
              display="grid"
              placeItems="center"
              borderRadius="soft"
              border="1px solid"
              borderColor={on ? 'selected' : 'rule'}
              bg={on ? 'selectedWash' : 'card'}
              opacity={p.disabled ? 0.45 : 1}
              cursor={p.disabled ? 'default' : 'pointer'}
              onClick={() => !p.disabled && p.onPick(easing)}
            >
              <EasingShape easing={easing} />
            </Box>
          </Hint>
        )
      })}
    </Flex>
  )
}

/** The numbers of an easing, whatever its kind. */
export function EasingNumbers(p: {
  easing: Easing
  disabled?: boolean
  onDraft: (e: Easing) => void
  onCommit: (e: Easing) => void
}) {
  const { easing: e } = p
  const field = (
    label: string,
    value: number,
    limits: [number, number, number],
    make: (v: number) => Easing,
    narrow = false,
  ) => (
    <Box key={label} w={narrow ? '86px' : '124px'}>
      <NumberField
        label={label}
        value={value}
        min={limits[0]}
        max={limits[1]}
        step={limits[2]}
        narrow={narrow}
        disabled={p.disabled}
        onDraft={(v) => p.onDraft(make(v))}
        onCommit={(v) => p.onCommit(make(v))}
      />
    </Box>
  )
  const fields = () => {
    if (e.kind === 'stay') return null
    if (e.kind === 'spring')
      return (
        <>
          {field('Stiffness', e.stiffness ?? 170, [1, 5000, 1], (stiffness) => ({ ...e, stiffness }))}
          {field('Damping', e.damping ?? 14, [0, 500, 0.5], (damping) => ({ ...e, damping }))}
          {field('Mass', e.mass ?? 1, [0.05, 50, 0.1], (mass) => ({ ...e, mass }))}
        </>
      )
    if (e.kind === 'steps')
      return (
        <>
          {field('Steps', e.count ?? 4, [1, 1000, 1], (count) => ({
            ...e,
            count: Math.max(e.jump === 'none' ? 2 : 1, count),
          }))}
          <Flex w="150px" align="center" gap="2" minH="28px">
            Jump
            <Pick
              label="Where it jumps"
              value={e.jump ?? 'end'}
              disabled={p.disabled}
              options={[
                ['end', 'at the end'],
                ['start', 'at the start'],
                ['both', 'at both'],
                ['none', 'at neither'],
              ]}
              onPick={(jump) =>
                p.onCommit({
                  ...e,
                  jump: jump as typeof e.jump,
                  count: Math.max(jump === 'none' ? 2 : 1, e.count ?? 4),
                })
              }
            />
          </Flex>
        </>
      )
    const b: Bezier = e
    return (['x1', 'y1', 'x2', 'y2'] as const).map((n) =>
      field(n, b[n] ?? 0, n[0] === 'x' ? [0, 1, 0.05] : [-5, 5, 0.05], (v) => ({ ...b, [n]: v }), true),
    )
  }
  return (
    <Flex columnGap="2" wrap="wrap">
      {fields()}
    </Flex>
  )
}
