import { Flex, Text } from '@chakra-ui/react'
import { Dices } from 'lucide-react'
import { type ReactNode, useMemo } from 'react'
import type { Easing } from '../api/client'
import { EasingPanel } from './EasingPanel'
import { Act, Choice, Tool } from './buttons'
import { ColourField } from './ColourField'
import { CurveField } from './CurveField'
import { NumberField } from './fields'
import { Pick } from './Pick'
import { ShelvedField, TonesField } from './GivenFields'
import { AxesFields, FaceField, WordsField } from './LetterFields'
import { type Apart, ApartField } from './ApartField'
import { PenField } from './PenField'
import { SwitchRow } from './SwitchRow'
import { type Setting, settingsOf } from './schema'

interface Props {
  schema: Record<string, unknown>
  values: Record<string, unknown>
  onDraft: (name: string, value: unknown) => void
  onCommit: (name: string, value: unknown) => void
  /** What stands behind a control: a kite, where the setting can have keys. */
  after?: (setting: Setting) => ReactNode
  /** Without tracks to drag, where there is no room for them. */
  plain?: boolean
  disabled?: boolean
  /** Where the thing is: settings that have a meaning elsewhere alone are left out. */
  where?: 'sky' | 'ground'
  /** For settings that name a frame or a hold: the frame that is seen now, and the holds there are, by id and name. */
  frame?: number
  /** The frame of the piece at which it comes to the frame that is set. */
  freezes?: number | null
  holds?: [string, string][]
  /** For settings that name a layer: those there are, by id and name. */
  layers?: [string, string][]
  /** The settings that are shown; all if that is not said. */
  shows?: (setting: Setting) => boolean
}

/** Controls for settings, built from the JSON Schema that their kind declares. A double click on a label sets it back. */
export function Controls(p: Props) {
  const settings = useMemo(() => settingsOf(p.schema), [p.schema])
  const met = (s: Setting) => {
    const needed = s.needs ? p.values[s.needs] : true
    const count = settings.find((x) => x.name === s.needs)?.sort
    return count === 'number' || count === 'whole' ? Number(needed) >= (s.least ?? 1e-9) : needed != null
  }
  const suits = (s: Setting) => Object.entries(s.when ?? {}).every(([name, those]) => those.includes(p.values[name]))
  const has = (s: Setting) => (p.shows?.(s) ?? true) && (!s.only || s.only === p.where) && met(s) && suits(s)
  return settings.filter(has).map((s) => <Control key={s.name} s={s} p={p} />)
}

/** What the field of a setting is given. */
interface Field {
  s: Setting
  p: Props
  value: unknown
  draft: (v: unknown) => void
  commit: (v: unknown) => void
  after: ReactNode
}

function Control({ s, p }: { s: Setting; p: Props }) {
  const Field = FIELDS[s.sort]
  const value = p.values[s.name] ?? s.initial
  return (
    <Field
      s={s}
      p={p}
      value={value}
      draft={(v) => p.onDraft(s.name, v)}
      commit={(v) => p.onCommit(s.name, v)}
      after={p.after?.(s)}
    />
  )
}

/** A setting's name; a double click sets it back. */
function Name({ s, commit }: Pick<Field, 's' | 'commit'>) {
  return (
    <Text
      flex="1"
      minW="64px"
      truncate
      title="Double-click to set back"
      onDoubleClick={() => s.initial !== undefined && commit(s.initial)}
    >
      {s.label}
    </Text>
  )
}

function Amount({ s, p, value, draft, commit, after }: Field) {
  // A share is kept as 0…1 and shown in percent; whole numbers of percent are what they are.
  const by = s.unit === '%' && s.sort === 'number' ? 100 : 1
  const dice = s.sort === 'seed' && (
    <Tool
      icon={Dices}
      size={24}
      label={`Another ${s.label.toLowerCase()}`}
      onClick={() => commit(Math.floor(Math.random() * 100_000))}
    />
  )
  return (
    <NumberField
      label={s.label}
      unit={s.zero !== undefined && Number(value) === 0 ? '' : s.unit}
      zero={s.zero}
      slider={!p.plain && s.sort !== 'seed' && s.max - s.min <= 1e4}
      track={s.usual === undefined ? undefined : s.usual * by}
      step={s.step}
      digits={s.sort !== 'number' ? 0 : s.step < 0.1 ? 2 : 1}
      min={s.min * by}
      max={s.max * by}
      initial={Number(s.initial ?? 0) * by}
      value={Number(value) * by}
      disabled={p.disabled}
      onDraft={(v) => draft(v / by)}
      onCommit={(v) => commit(v / by)}
      after={dice || after}
    />
  )
}

function Chosen({ s, value, commit, after }: Field) {
  return (
    <Flex align="center" gap="2">
      <Flex flex="1" align="center" minH="30px" gapX="2" wrap="wrap">
        <Name s={s} commit={commit} />
        <Choice
          label={s.label}
          value={String(value)}
          onChange={commit}
          options={s.options.map((o) => ({ value: o.value, label: o.title, hint: o.hint }))}
        />
      </Flex>
      {after}
    </Flex>
  )
}

/** A hold or a layer of the piece. */
function Other({ s, p, value, commit }: Field) {
  const known = (s.sort === 'hold' ? p.holds : p.layers) ?? []
  return (
    <Flex align="center" minH="30px" gap="2">
      <Name s={s} commit={commit} />
      <Flex w="112px">
        <Pick
          label={s.label}
          value={typeof value === 'string' ? value : ''}
          options={[['', s.sort === 'hold' ? 'No hold' : 'No layer'], ...known]}
          disabled={p.disabled || (!known.length && !value)}
          onPick={(id) => commit(id || null)}
        />
      </Flex>
    </Flex>
  )
}

function FrameOnScreen({ s, p, value, commit }: Field) {
  const set = typeof value === 'number'
  return (
    <Flex align="center" minH="30px" gap="2">
      <Name s={s} commit={commit} />
      {set && <Text className="figures">{p.freezes == null ? `its frame ${value}` : `frame ${p.freezes}`}</Text>}
      <Act
        disabled={p.disabled || (!set && p.frame === undefined)}
        label={set ? `Clear ${s.label.toLowerCase()}` : `${s.label} the frame on screen`}
        onClick={() => commit(set ? null : p.frame)}
      >
        {set ? 'Clear' : 'Here'}
      </Act>
    </Flex>
  )
}

function Point({ s, p, value, draft, commit }: Field) {
  const at = (value as [number, number] | undefined) ?? [0, 0]
  const first = (s.initial as number[] | undefined) ?? [0, 0]
  return ([0, 1] as const).map((axis) => (
    <NumberField
      key={axis}
      label={axis ? `${s.label}, down` : `${s.label}, across`}
      unit={s.unit || 'px'}
      step={s.step}
      digits={1}
      initial={first[axis] ?? 0}
      value={at[axis]}
      disabled={p.disabled}
      onDraft={(v) => draft(at.with(axis, v))}
      onCommit={(v) => commit(at.with(axis, v))}
    />
  ))
}

/** What a setting of each sort is set with. */
const FIELDS: Record<Setting['sort'], (field: Field) => ReactNode> = {
  number: Amount,
  whole: Amount,
  seed: Amount,
  choice: Chosen,
  hold: Other,
  layer: Other,
  frame: FrameOnScreen,
  point: Point,
  colour: ({ s, p, value, draft, commit, after }) => (
    <ColourField
      label={s.label}
      value={String(value)}
      initial={String(s.initial ?? '')}
      disabled={p.disabled}
      onDraft={draft}
      onCommit={commit}
      after={after}
    />
  ),
  switch: ({ s, p, value, commit, after }) => (
    <SwitchRow label={s.label} on={Boolean(value)} disabled={p.disabled} onChange={commit} after={after}>
      <Name s={s} commit={commit} />
    </SwitchRow>
  ),
  curve: ({ s, p, value, draft, commit }) => (
    <CurveField
      label={<Name s={s} commit={commit} />}
      name={s.label}
      points={value as [number, number][]}
      disabled={p.disabled}
      onDraft={draft}
      onCommit={commit}
    />
  ),
  points: ({ p }) => <PenField disabled={p.disabled} />,
  aparts: ({ p, value, draft, commit }) => (
    <ApartField
      words={String(p.values.words ?? '')}
      values={(value ?? []) as Apart[]}
      disabled={p.disabled}
      onDraft={draft}
      onCommit={commit}
    />
  ),
  text: ({ s, p, value, draft, commit }) => (
    <WordsField name={s.label} value={String(value)} disabled={p.disabled} onDraft={draft} onCommit={commit} />
  ),
  face: ({ s, p, value, commit }) => (
    <FaceField
      label={<Name s={s} commit={commit} />}
      name={s.label}
      value={String(value)}
      disabled={p.disabled}
      onPick={commit}
    />
  ),
  axes: ({ p, value, draft, commit }) => (
    <AxesFields
      face={String(p.values.face)}
      values={(value ?? {}) as Record<string, number>}
      disabled={p.disabled}
      onDraft={draft}
      onCommit={commit}
    />
  ),
  shelved: ({ s, p, value, commit }) => (
    <ShelvedField
      label={<Name s={s} commit={commit} />}
      name={s.label}
      of={s.of!}
      value={value as string | null}
      disabled={p.disabled}
      onPick={commit}
    />
  ),
  tones: ({ s, p, value, commit }) => (
    <TonesField
      label={<Name s={s} commit={commit} />}
      name={s.label}
      taken={value != null}
      disabled={p.disabled}
      onPick={commit}
    />
  ),
  easing: ({ s, p, value, draft, commit }) => (
    <EasingPanel title={s.label} easing={value as Easing} disabled={p.disabled} onDraft={draft} onCommit={commit} />
  ),
}
