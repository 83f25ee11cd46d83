import { Box, Flex, Text } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import type { Easing, Edit, GroundItem, Key, Layer, MotionView } from '../../api/client'
import { Tool } from '../../parts/buttons'
import { EasingNumbers, Easings, sameEasing } from '../../parts/Easings'
import { NumberField } from '../../parts/fields'
import { Pick } from '../../parts/Pick'
import { withKey } from '../../parts/keys'
import { useOf } from '../../store'
import { linesOf, only, owned } from './lines'

interface Props {
  owners: (Layer | GroundItem)[]
  motion: MotionView | null
  keys: string[]
}

/** The chosen keys: how they go on, when they are, what they are tied to. */
export function KeyRow({ owners, motion, keys }: Props) {
  const { edit, setDraft } = useOf('edit', 'setDraft')
  const all = owners.flatMap((o) => o.keys)
  const chosen = all.filter((k) => keys.includes(k.id))
  const meant = chosen.length ? chosen : all
  const of = owned(
    owners,
    meant.map((k) => k.id),
  )
  if (!meant.length) return null
  const change = (given: object): Edit => ({ kind: 'change keys', of, straight: false, ...given })
  const easing = meant.every((k) => sameEasing(meant[0]!.easing, k.easing)) ? meant[0]!.easing : undefined
  const ease = (e: Easing) => change({ easing: e })
  return (
    // As high whatever is chosen, so that the curves stay where they are under the pointer.
    <Box mt="2" flexShrink="0" minH="124px">
      <Easings easing={easing} onPick={(e) => void edit(ease(e))} />
      {chosen.length ? (
        <>
          {chosen.length === 1 ? (
            <OneKey owners={owners} motion={motion} k={chosen[0]!} change={change} />
          ) : (
            <Flex align="center" gap="3" mt="1">
              <Text color="soft">{chosen.length} keys chosen</Text>
              <Ties owners={owners} motion={motion} chosen={chosen} change={change} />
              <Remove of={of} />
            </Flex>
          )}
          {easing && (
            <EasingNumbers easing={easing} onDraft={(e) => setDraft(ease(e))} onCommit={(e) => void edit(ease(e))} />
          )}
        </>
      ) : (
        <Text color="soft" fontSize="12px" mt="1">
          A curve pressed here goes on all keys. Press a kite, or draw a rectangle around some, to change those alone.
        </Text>
      )}
    </Box>
  )
}

function Remove({ of }: { of: ReturnType<typeof owned> }) {
  const edit = useOf('edit').edit
  return (
    <Tool
      icon={Trash2}
      size={26}
      label={of.length === 1 && of[0]!.keys.length === 1 ? 'Remove key' : 'Remove keys'}
      hint={withKey('Remove', 'remove')}
      onClick={() => void edit({ kind: 'remove keys', of })}
    />
  )
}

/** One key: its frame, its value, its tie. */
function OneKey(p: { owners: (Layer | GroundItem)[]; motion: MotionView | null; k: Key; change: (g: object) => Edit }) {
  const { edit, setDraft } = useOf('edit', 'setDraft')
  const { k } = p
  const lines = linesOf(p.motion, p.owners, false).filter((l) => l.keys.some((x) => x.key.id === k.id))
  const told = p.motion?.owners.find((o) => o.keys[k.id] !== undefined)
  if (!lines.length || !told) return null
  const frame = told.keys[k.id]!
  const of = owned(p.owners, [k.id])
  const move = (frames: number): Edit => ({ kind: 'move keys', of, frames, stretch: 1, around: 0, add: {} })
  const raise = (channel: string, index: number, by: number): Edit => ({
    kind: 'move keys',
    of,
    frames: 0,
    stretch: 1,
    around: 0,
    add: { [channel]: only(index, by) },
  })
  return (
    <Flex columnGap="3" wrap="wrap" align="center" mt="1">
      <Box w="118px">
        <NumberField
          label="Frame"
          narrow
          name="Frame of the key"
          value={frame}
          onDraft={(f) => setDraft(move(f - frame))}
          onCommit={(f) => void edit(move(f - frame))}
        />
      </Box>
      {lines.map((l) => {
        const value = (k.value[l.index] ?? 0) * l.by
        const change = (v: number) => raise(l.channel, l.index, (v - value) / l.by)
        return (
          <Box w="152px" key={l.id}>
            <NumberField
              label={l.label.charAt(0).toUpperCase() + l.label.slice(1)}
              name={`${l.label} of the key`}
              unit={l.unit}
              digits={l.unit ? 1 : 2}
              value={value}
              onDraft={(v) => setDraft(change(v))}
              onCommit={(v) => void edit(change(v))}
            />
          </Box>
        )
      })}
      <Ties owners={p.owners} motion={p.motion} chosen={[k]} change={p.change} />
      <Remove of={of} />
    </Flex>
  )
}

/** What keys count from: an end, the landing, a moment or a cut within reach. */
function Ties(p: {
  owners: (Layer | GroundItem)[]
  motion: MotionView | null
  chosen: Key[]
  change: (g: object) => Edit
}) {
  const edit = useOf('edit').edit
  const told = p.motion?.owners.find((o) => p.chosen.some((k) => o.keys[k.id] !== undefined))
  const nameOf = (k: Key) => (k.to ? `${k.tie}:${k.to}` : k.tie)
  const value = p.chosen.every((k) => nameOf(k) === nameOf(p.chosen[0]!)) ? nameOf(p.chosen[0]!) : ''
  const marks = told?.marks ?? []
  const group = (tie: string): [string, string][] =>
    marks.filter((m) => m.tie === tie).map((m) => [`${tie}:${m.to}`, m.name])
  return (
    <Flex w="122px" title="However the layer is trimmed, a key keeps its distance to that">
      <Pick
        label="Tied to"
        value={value}
        options={[
          ...(value ? [] : ([['', 'from different ties']] as [string, string][])),
          ['start', 'from its start'],
          ['landing', 'from its landing'],
          ['end', 'from its end'],
        ]}
        groups={{
          ...(group('moment').length ? { Moments: group('moment') } : {}),
          ...(group('cut').length ? { Cuts: group('cut') } : {}),
        }}
        onPick={(name) => {
          const [tie, to] = name.split(':')
          if (tie) void edit(p.change({ tie, to: to ?? null }))
        }}
      />
    </Flex>
  )
}
