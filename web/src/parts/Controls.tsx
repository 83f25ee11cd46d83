import { Box, Flex, Text } from '@chakra-ui/react'
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

function Control({ s, p }: { s: Setting; p: Props }) {
  const value = p.values[s.name] ?? s.initial
  const draft = (v: unknown) => p.onDraft(s.name, v)
  const commit = (v: unknown) => p.onCommit(s.name, v)
  const after = p.after?.(s)
  if (s.sort === 'number' || s.sort === 'whole' || s.sort === 'seed') {
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
  const label = (
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
  if (s.sort === 'colour')
    return (
      <ColourField
        label={s.label}
        value={String(value)}
        initial={String(s.initial ?? '')}
        disabled={p.disabled}
        onDraft={draft}
        onCommit={commit}
        after={after}
      />
    )
  if (s.sort === 'switch')
    return (
      <SwitchRow label={s.label} on={Boolean(value)} disabled={p.disabled} onChange={commit} after={after}>
        {label}
      </SwitchRow>
    )
  if (s.sort === 'choice')
    return (
      <Flex align="center" gap="2">
        <Flex flex="1" align="center" minH="30px" gapX="2" wrap="wrap">
          {label}
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
  if (s.sort === 'curve')
    return (
      <CurveField
        label={label}
        name={s.label}
        points={value as [number, number][]}
        disabled={p.disabled}
        onDraft={draft}
        onCommit={commit}
      />
    )
  if (s.sort === 'points') return <PenField disabled={p.disabled} />
  if (s.sort === 'aparts')
    return (
      <ApartField
        words={String(p.values.words ?? '')}
        values={(value ?? []) as Apart[]}
        disabled={p.disabled}
        onDraft={draft}
        onCommit={commit}
      />
    )
  if (s.sort === 'text')
    return <WordsField name={s.label} value={String(value)} disabled={p.disabled} onDraft={draft} onCommit={commit} />
  if (s.sort === 'face')
    return <FaceField label={label} name={s.label} value={String(value)} disabled={p.disabled} onPick={commit} />
  if (s.sort === 'axes')
    return (
      <AxesFields
        face={String(p.values.face)}
        values={(value ?? {}) as Record<string, number>}
        disabled={p.disabled}
        onDraft={draft}
        onCommit={commit}
      />
    )
  if (s.sort === 'shelved')
    return (
      <ShelvedField
        label={label}
        name={s.label}
        of={s.of!}
        value={value as string | null}
        disabled={p.disabled}
        onPick={commit}
      />
    )
  if (s.sort === 'tones')
    return <TonesField label={label} name={s.label} taken={value != null} disabled={p.disabled} onPick={commit} />
  if (s.sort === 'hold' || s.sort === 'layer') {
    const holds = (s.sort === 'hold' ? p.holds : p.layers) ?? []
    return (
      <Flex align="center" minH="30px" gap="2">
        {label}
        <Flex w="112px">
          <Pick
            label={s.label}
            value={typeof value === 'string' ? value : ''}
            options={[['', s.sort === 'hold' ? 'No hold' : 'No layer'], ...holds]}
            disabled={p.disabled || (!holds.length && !value)}
            onPick={(id) => commit(id || null)}
          />
        </Flex>
      </Flex>
    )
  }
  if (s.sort === 'frame') {
    const set = typeof value === 'number'
    return (
      <Flex align="center" minH="30px" gap="2">
        {label}
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
  if (s.sort === 'point') {
    const [x = 0, y = 0] = (value as number[] | undefined) ?? []
    const [x0 = 0, y0 = 0] = (s.initial as number[] | undefined) ?? []
    const field = (axis: 0 | 1) => (
      <NumberField
        label={axis ? `${s.label}, down` : `${s.label}, across`}
        unit={s.unit || 'px'}
        step={s.step}
        digits={1}
        initial={axis ? y0 : x0}
        value={axis ? y : x}
        disabled={p.disabled}
        onDraft={(v) => draft(axis ? [x, v] : [v, y])}
        onCommit={(v) => commit(axis ? [x, v] : [v, y])}
      />
    )
    return (
      <>
        {field(0)}
        {field(1)}
      </>
    )
  }
  return (
    <Box>
      <EasingPanel title={s.label} easing={value as Easing} disabled={p.disabled} onDraft={draft} onCommit={commit} />
    </Box>
  )
}
