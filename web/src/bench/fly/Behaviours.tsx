import { Box, Flex, SimpleGrid, Text } from '@chakra-ui/react'
import { Dices, Eye, EyeOff, Trash2, WandSparkles } from 'lucide-react'
import type { ReactNode } from 'react'
import { type Edit, type GroundItem, type KindView, type Layer, newId } from '../../api/client'
import { Tool } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { NumberField } from '../../parts/fields'
import { Fold } from '../../parts/Fold'
import { KeyMark } from '../../parts/KeyMark'
import { numbersOf, settingsOf, valueOf } from '../../parts/schema'
import { useCatalog } from '../../parts/useCatalog'
import { together, useHeader, useOf, useStudio } from '../../store'

type Behaviour = Layer['behaviours'][number]

/**
 * What something does besides its keys, all along. `owner` is the one thing whose behaviours are shown (null: the whole
 * piece, or several layers at once, which get one each).
 */
export function Behaviours(p: {
  owner: Layer | GroundItem | null
  layers?: Layer[]
  on: 'sky' | 'ground' | 'piece'
  tile: (kind: KindView, on: boolean, press: () => void) => ReactNode
}) {
  const { view, edit } = useOf('view', 'edit')
  const kinds = (useCatalog()?.behaviours ?? []).filter((k) => k.on.includes(p.on))
  const several = !p.owner && p.layers
  const worn = p.owner ? p.owner.behaviours : several ? (p.layers![0]?.behaviours ?? []) : view!.project.behaviours
  const fresh = (kind: string): Behaviour => ({
    id: newId(),
    kind,
    settings: {},
    visible: true,
    strength: 1,
    seed: Math.floor(Math.random() * 1000),
    fade_in: 0,
    fade_out: 0,
    before: 0,
    after: 0,
  })
  const press = (kind: string) => {
    if (several) {
      const on = p.layers!.every((l) => l.behaviours.some((b) => b.kind === kind))
      const each = p.layers!.map((l): Edit => {
        const others = l.behaviours.filter((b) => b.kind !== kind)
        return { kind: 'change layer', layer: l.id, behaviours: on ? others : [...others, fresh(kind)], clear: [] }
      })
      return void edit(together(each)!)
    }
    const with_ = (all: Behaviour[]) =>
      all.some((b) => b.kind === kind) ? all.filter((b) => b.kind !== kind) : [...all, fresh(kind)]
    void edit(changing(p.owner, with_, view!.project.behaviours))
  }
  return (
    <>
      <SimpleGrid columns={3} gap="1.5">
        {kinds.map((k) =>
          p.tile(
            k,
            worn.some((b) => b.kind === k.kind),
            () => press(k.kind),
          ),
        )}
      </SimpleGrid>
      {!several &&
        worn.map((b) => <One key={b.id} b={b} owner={p.owner} kind={kinds.find((k) => k.kind === b.kind)} />)}
      {!worn.length && (
        <Text color="soft" fontSize="12px" mt="2">
          Motion on top of keys: press one to put it on, once more to take it off. The same frame always looks the same.
        </Text>
      )}
    </>
  )
}

/** The edit that makes other behaviours of those that something has. */
function changing(owner: Layer | GroundItem | null, make: (all: Behaviour[]) => Behaviour[], piece: Behaviour[]): Edit {
  if (!owner) return { kind: 'change piece', behaviours: make(piece) }
  const behaviours = make(owner.behaviours)
  return 'arrangement' in owner
    ? { kind: 'change layer', layer: owner.id, behaviours, clear: [] }
    : { kind: 'change ground', item: owner.id, behaviours }
}

/** A behaviour that is put on: its settings, its strength and when it comes and goes. */
function One({ b, owner, kind }: { b: Behaviour; owner: Layer | GroundItem | null; kind: KindView | undefined }) {
  const { view, edit, setDraft, settled } = useOf('view', 'edit', 'setDraft', 'settled')
  const header = useHeader()
  const with_ = (given: Partial<Behaviour>) =>
    changing(owner, (all) => all.map((x) => (x.id === b.id ? { ...x, ...given } : x)), view!.project.behaviours)
  const locked = owner !== null && 'locked' in owner && owner.locked
  const whose = owner && ('arrangement' in owner ? { layer: owner.id } : { item: owner.id })
  const framesOf = owner && ('arrangement' in owner ? view!.layers[owner.id]?.keys : view!.itemKeys[owner.id])
  const now: Record<string, number[]> | undefined =
    owner && 'arrangement' in owner
      ? header?.layers.find((o) => o.id === owner.id)?.values
      : header?.source?.item === owner?.id
        ? header?.source?.values
        : undefined
  const keysOf = (name: string) => owner?.keys.filter((k) => k.channel === `${b.id}.${name}`) ?? []
  const known = Object.fromEntries(settingsOf(kind?.settings ?? {}).map((s) => [s.name, s]))
  const numbers = (name: string, v: unknown) => (known[name] ? numbersOf(known[name], v) : [Number(v)])
  const value = (name: string, rest: unknown) => {
    const found = keysOf(name).length ? now?.[`${b.id}.${name}`] : undefined
    return found ? (known[name] ? valueOf(known[name], found) : found[0]) : rest
  }
  const put = (name: string, v: unknown): Edit =>
    whose && keysOf(name).length
      ? {
          kind: 'set value',
          ...whose,
          channel: `${b.id}.${name}`,
          frame: useStudio.getState().playhead,
          value: numbers(name, v),
          key: false,
          shift: false,
        }
      : name === 'strength'
        ? with_({ strength: Number(v) })
        : with_({ settings: { ...b.settings, [name]: v } })
  const kite = (name: string) => {
    if (!whose) return undefined
    const here = keysOf(name).find((k) => framesOf?.[k.id] === settled)
    const toggle = () =>
      void edit(
        here
          ? { kind: 'remove key', ...whose, key: here.id }
          : {
              kind: 'set value',
              ...whose,
              channel: `${b.id}.${name}`,
              frame: useStudio.getState().playhead,
              value: numbers(name, value(name, name === 'strength' ? b.strength : b.settings?.[name])),
              key: true,
              shift: false,
            },
      )
    return <KeyMark name={name} here={Boolean(here)} onToggle={toggle} />
  }
  const settings = Object.fromEntries(Object.entries(b.settings ?? {}).map(([n, v]) => [n, value(n, v)]))
  const number = (label: string, name: 'fade_in' | 'fade_out', hint: number) => (
    <NumberField
      label={label}
      unit="fr"
      value={b[name] ?? hint}
      initial={0}
      min={0}
      max={100000}
      disabled={locked}
      onDraft={(v) => setDraft(with_({ [name]: v }))}
      onCommit={(v) => void edit(with_({ [name]: v }))}
      after={whose && <Box w="22px" />}
    />
  )
  return (
    <Fold
      name={`behaviour ${b.kind}`}
      title={kind?.title ?? b.kind}
      aside={
        <Flex>
          <Tool
            icon={b.visible ? Eye : EyeOff}
            size={24}
            label={b.visible ? 'Switch off' : 'Switch on'}
            disabled={locked}
            onClick={() => void edit(with_({ visible: !b.visible }))}
          />
          <Tool
            icon={Dices}
            size={24}
            label="Another chance"
            hint="The same again, as chance would have it another time"
            disabled={locked}
            onClick={() => void edit(with_({ seed: Math.floor(Math.random() * 100_000) }))}
          />
          {whose && (
            <Tool
              icon={WandSparkles}
              size={24}
              label="Into keys"
              hint="Turns it into keys, one on each frame, to be changed by hand"
              disabled={locked}
              onClick={() => void edit({ kind: 'into keys', ...whose, behaviour: b.id })}
            />
          )}
          <Tool
            icon={Trash2}
            size={24}
            label={`Remove ${kind?.title ?? b.kind}`}
            disabled={locked}
            onClick={() =>
              void edit(changing(owner, (all) => all.filter((x) => x.id !== b.id), view!.project.behaviours))
            }
          />
        </Flex>
      }
    >
      <NumberField
        label="Strength"
        unit="%"
        value={Number(value('strength', b.strength)) * 100}
        initial={100}
        min={0}
        max={1000}
        disabled={locked}
        onDraft={(v) => setDraft(put('strength', v / 100))}
        onCommit={(v) => void edit(put('strength', v / 100))}
        after={kite('strength')}
      />
      {kind && (
        <Controls
          schema={kind.settings}
          values={settings}
          plain
          disabled={locked}
          onDraft={(name, v) => setDraft(put(name, v))}
          onCommit={(name, v) => void edit(put(name, v))}
          after={(s) => (whose && s.keyable ? kite(s.name) : whose ? <Box w="22px" /> : undefined)}
        />
      )}
      {number('Comes in over', 'fade_in', 0)}
      {number('Goes over', 'fade_out', 0)}
    </Fold>
  )
}
