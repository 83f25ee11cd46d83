/** One setting, as its JSON Schema describes it, with what this page needs to know to build a control for it. */
export interface Setting {
  name: string
  label: string
  sort:
    | 'number'
    | 'whole'
    | 'switch'
    | 'choice'
    | 'colour'
    | 'point'
    | 'easing'
    | 'seed'
    | 'hold'
    | 'frame'
    | 'layer'
    | 'curve'
    | 'shelved'
    | 'tones'
    | 'text'
    | 'face'
    | 'axes'
    | 'points'
    | 'aparts'
  initial: unknown
  min: number
  max: number
  step: number
  unit: string
  /** How far a track to drag goes, where that is less than all. */
  usual?: number
  /** The word for 0, where that is meant otherwise than as a number. */
  zero?: string
  /** What a choice may be, with the words for it. */
  options: { value: string; title: string; hint?: string }[]
  keyable: boolean
  /** Where alone it has a meaning; everywhere if that is not said. */
  only?: string
  /** The setting without which it has none, and how much of that it takes. */
  needs?: string
  least?: number
  /** What other settings have to be for it to have any. */
  when?: Record<string, unknown[]>
  /** Of a file of the shelf, which sort. */
  of?: string
  /** The heading that it stands under. */
  group?: string
}

interface Property {
  $ref?: string
  discriminator?: { mapping?: Record<string, string> }
  allOf?: Property[]
  type?: string
  enum?: string[]
  const?: string
  format?: string
  title?: string
  minimum?: number
  maximum?: number
  exclusiveMinimum?: number
  exclusiveMaximum?: number
  default?: unknown
  pattern?: string
  unit?: string
  step?: number
  usual?: number
  zero?: string
  keyable?: boolean
  only?: string
  needs?: string
  least?: number
  when?: Record<string, unknown[]>
  of?: string
  group?: string
  words?: Record<string, { title?: string; hint?: string }>
}

/** The settings that a JSON Schema describes, in their order. */
export function settingsOf(schema: Record<string, unknown>): Setting[] {
  const parts = (schema.$defs ?? {}) as Record<string, Property>
  const properties = (schema.properties ?? {}) as Record<string, Property>
  return Object.entries(properties).map(([name, given]) => {
    const found = given.$ref ?? given.allOf?.[0]?.$ref
    const part = found ? parts[found.split('/').at(-1)!] : undefined
    const s: Property = { ...part, ...given, title: given.title ?? name }
    const sort = sortOf(s)
    const whole = sort === 'whole' || sort === 'seed'
    return {
      name,
      label: s.title!,
      sort,
      initial: s.default,
      min: s.minimum ?? s.exclusiveMinimum ?? (s.unit === '°' ? -3600 : sort === 'seed' ? 0 : -1e6),
      max: s.maximum ?? s.exclusiveMaximum ?? (s.unit === '°' ? 3600 : 1e6),
      step: s.step ?? (whole || s.unit ? 1 : 0.1),
      unit: s.unit ?? '',
      usual: s.usual,
      zero: s.zero,
      options: (s.enum ?? []).map((value) => ({
        value,
        title: s.words?.[value]?.title ?? value.charAt(0).toUpperCase() + value.slice(1),
        hint: s.words?.[value]?.hint,
      })),
      keyable: ['number', 'whole', 'switch', 'choice', 'colour'].includes(sort) && s.keyable !== false,
      only: s.only,
      needs: s.needs,
      least: s.least,
      when: s.when,
      of: s.of,
      group: s.group,
    }
  })
}

/** A value of a setting as a key has it: a colour as R', G', B', a choice as its place among what may be chosen. */
export function numbersOf(s: Setting, value: unknown): number[] {
  if (s.sort === 'choice') return [s.options.findIndex((o) => o.value === value)]
  if (s.sort !== 'colour') return [Number(value)]
  return [1, 3, 5].map((n) => parseInt(String(value).slice(n, n + 2), 16) / 255)
}

/** What the numbers of a key are as a value of a setting. */
export function valueOf(s: Setting, numbers: number[]): unknown {
  const [number = 0] = numbers
  if (s.sort === 'choice') return s.options[Math.round(number)]?.value
  if (s.sort === 'switch') return number >= 0.5
  if (s.sort === 'whole') return Math.round(number)
  if (s.sort !== 'colour') return number
  const parts = numbers.map((v) => Math.round(Math.max(0, Math.min(1, v)) * 255))
  return (
    '#' +
    parts
      .map((v) => v.toString(16).padStart(2, '0'))
      .join('')
      .toUpperCase()
  )
}

function sortOf(s: Property): Setting['sort'] {
  if (s.format === 'colour' || s.pattern?.startsWith('^#')) return 'colour'
  if (s.format === 'seed') return 'seed'
  if (s.format === 'frame' || s.format === 'hold' || s.format === 'layer' || s.format === 'curve') return s.format
  if (s.format === 'shelved' || s.format === 'tones') return s.format
  if (
    s.format === 'text' ||
    s.format === 'face' ||
    s.format === 'axes' ||
    s.format === 'points' ||
    s.format === 'aparts'
  )
    return s.format
  if (s.format === 'point' || s.type === 'array') return 'point'
  if (s.format === 'easing' || s.discriminator?.mapping?.bezier) return 'easing'
  if (s.enum) return 'choice'
  if (s.type === 'boolean') return 'switch'
  if (s.type === 'integer') return 'whole'
  if (s.type === 'number') return 'number'
  throw new Error(`no control for the setting ${s.title ?? ''}`)
}
