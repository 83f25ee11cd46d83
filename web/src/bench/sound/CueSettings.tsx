import { Flex, Text } from '@chakra-ui/react'
import type { View } from '../../api/view'
import { NameField, NumberField } from '../../parts/fields'
import { Pick } from '../../parts/Pick'
import { SwitchRow } from '../../parts/SwitchRow'
import { useOf, useStudio } from '../../store'

type Cue = View['project']['cues'][number]

/** The values of a sound: what it is tied to, how loud it is and where, how long it is heard, and what it is made of. */
export function CueSettings({ cue }: { cue: Cue }) {
  const { view, edit } = useOf('view', 'edit')
  const tie = cue.tie ?? { to: 'start' as const, layer: null, item: null, offset: 0 }
  const set = (changes: Record<string, unknown>) => void edit({ kind: 'change cue', cue: cue.id!, changes })
  const newest = () => useStudio.getState().view!.project.cues.find((c) => c.id === cue.id) ?? cue
  const owner = tie.layer ?? tie.item ?? ''
  const ends: [string, string][] = tie.layer
    ? [
        ['start', 'Its start'],
        ['landing', 'Its landing'],
        ['end', 'Its end'],
      ]
    : [
        ['start', 'Its start'],
        ['end', 'Its end'],
      ]
  /** Tied to something else it stays on its frame. */
  const tieTo = (id: string, to: string) => {
    const frame = view!.cues[cue.id!]?.frame ?? 0
    const layer = view!.layers[id]
    const item = view!.items.find((i) => i.id === id)
    const from = layer
      ? ((layer as unknown as Record<string, number | null>)[to] ?? 0)
      : item
        ? to === 'end'
          ? item.start + item.length
          : item.start
        : 0
    set({ tie: { to, layer: layer ? id : null, item: item ? id : null, offset: frame - from } })
  }
  const number = (
    label: string,
    value: number,
    unit: string,
    min: number,
    max: number,
    initial: number,
    change: (v: number) => Record<string, unknown>,
    step = 1,
    slider = false,
  ) => (
    <NumberField
      label={label}
      unit={unit}
      slider={slider}
      step={step}
      min={min}
      max={max}
      initial={initial}
      value={value}
      onCommit={(v) => set(change(v))}
    />
  )
  return (
    <>
      <NameField label="Sound name" value={cue.name} onCommit={(name) => set({ name })} />
      <Flex align="center" minH="30px" gap="2">
        <Text flex="1">Stays with</Text>
        <Flex w="132px">
          <Pick
            label="Stays with"
            value={owner}
            options={[
              ['', 'The piece'],
              ...view!.project.layers.map((l): [string, string] => [l.id!, l.name]),
              ...view!.items.map((i): [string, string] => [i.id, i.name]),
            ]}
            onPick={(id) => tieTo(id, 'start')}
          />
        </Flex>
      </Flex>
      <Flex align="center" minH="30px" gap="2">
        <Text flex="1">Counted from</Text>
        <Flex w="132px">
          <Pick label="Counted from" value={tie.to ?? 'start'} options={ends} onPick={(to) => tieTo(owner, to)} />
        </Flex>
      </Flex>
      {number('Frames from there', tie.offset ?? 0, 'fr', -100000, 100000, 0, (offset) => ({
        tie: { ...newest().tie, offset },
      }))}
      <Flex align="center" minH="30px" gap="2">
        <Text flex="1">Mixed with</Text>
        <Flex w="132px">
          <Pick
            label="Mixed with"
            value={cue.part ?? 'hits'}
            options={[
              ['hits', 'Hits'],
              ['bed', 'The bed'],
              ['voice', 'Voices'],
            ]}
            onPick={(part) => set({ part })}
          />
        </Flex>
      </Flex>
      {number('Loudness', cue.gain ?? 0, 'dB', -60, 24, 0, (gain) => ({ gain }), 0.5, true)}
      {number('Left and right', (cue.pan ?? 0) * 100, '%', -100, 100, 0, (v) => ({ pan: v / 100 }), 1, true)}
      {number('Comes up over', cue.fade_in ?? 0, 'fr', 0, 1000, 0, (fade_in) => ({ fade_in }))}
      {number('Goes down over', cue.fade_out ?? 0, 'fr', 0, 1000, 0, (fade_out) => ({ fade_out }))}
      {number('Begins after', cue.skip ?? 0, 's', 0, 10000, 0, (skip) => ({ skip }), 0.05)}
      {number('Heard for', cue.lasts ?? 0, 's', 0, 10000, 0, (v) => ({ lasts: v || null }), 0.05)}
      {number('Speed', cue.speed ?? 100, '%', 25, 400, 100, (speed) => ({ speed }), 5)}
      <SwitchRow
        label="Higher when faster"
        hint="As with a tape; otherwise it stays as high as it is"
        on={cue.pitched ?? false}
        onChange={(pitched) => set({ pitched })}
      />
      <SwitchRow label="Again and again" on={cue.loops ?? false} onChange={(loops) => set({ loops })} />
      <SwitchRow label="Backwards" on={cue.reversed ?? false} onChange={(reversed) => set({ reversed })} />
      <SwitchRow label="Mute" on={cue.muted ?? false} onChange={(muted) => set({ muted })} />
    </>
  )
}
