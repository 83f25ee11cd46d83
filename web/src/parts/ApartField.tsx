import { Box, Flex, Text } from '@chakra-ui/react'
import { Trash2 } from 'lucide-react'
import { Tool } from './buttons'
import { ColourField } from './ColourField'
import { NumberField } from './fields'
import { Pick } from './Pick'

/** What is different about one word, or one letter, of some words. */
export interface Apart {
  number: number
  letter: boolean
  size: number
  up: number
  turn: number
  colour: string | null
}

/** Words, or letters, that are set otherwise than the rest: larger, higher, turned, in another colour. */
export function ApartField(p: {
  words: string
  values: Apart[]
  disabled?: boolean
  onDraft: (values: Apart[]) => void
  onCommit: (values: Apart[]) => void
}) {
  const words = p.words.split(/\s+/).filter(Boolean)
  const letters = [...words.join('')]
  const nameOf = (a: Apart) => (a.letter ? letters[a.number] : words[a.number]) ?? 'Gone'
  const same = (a: Apart, letter: boolean, number: number) => a.letter === letter && a.number === number
  const changed = (n: number, by: Partial<Apart>) => p.values.map((a, k) => (k === n ? { ...a, ...by } : a))
  const add = (what: string) => {
    const [sort, number] = what.split(':')
    if (!sort) return
    p.onCommit([
      ...p.values,
      { number: Number(number), letter: sort === 'letter', size: 1.3, up: 0, turn: 0, colour: null },
    ])
  }
  const free = [
    ...words.map((w, n): [string, string] => [`word:${n}`, w]),
    ...letters.map((c, n): [string, string] => [`letter:${n}`, `${c}, letter ${n + 1}`]),
  ].filter(([what]) => !p.values.some((a) => what === `${a.letter ? 'letter' : 'word'}:${a.number}`))
  const field = (
    n: number,
    label: string,
    key: 'size' | 'up' | 'turn',
    unit: string,
    by: number,
    min: number,
    max: number,
    initial: number,
  ) => (
    <NumberField
      label={label}
      name={`${label} of ${nameOf(p.values[n]!)}`}
      unit={unit}
      slider
      step={1}
      min={min}
      max={max}
      initial={initial}
      value={p.values[n]![key] * by}
      disabled={p.disabled}
      onDraft={(v) => p.onDraft(changed(n, { [key]: v / by }))}
      onCommit={(v) => p.onCommit(changed(n, { [key]: v / by }))}
    />
  )
  return (
    <Box py="1">
      {p.values.map((a, n) => (
        <Box key={`${a.letter} ${a.number}`} data-apart={nameOf(a)} mb="2">
          <Flex align="center" gap="2">
            <Text flex="1" fontWeight="600" truncate>
              {nameOf(a)}
            </Text>
            <Tool
              icon={Trash2}
              size={24}
              label={`Set ${nameOf(a)} like the rest`}
              disabled={p.disabled}
              onClick={() => p.onCommit(p.values.filter((x) => !same(x, a.letter, a.number)))}
            />
          </Flex>
          {field(n, 'Size', 'size', '%', 100, 10, 400, 100)}
          {field(n, 'Up', 'up', '%', 100, -150, 150, 0)}
          {field(n, 'Turn', 'turn', '°', 1, -180, 180, 0)}
          <ColourField
            label={`Colour of ${nameOf(a)}`}
            value={a.colour ?? '#FFFFFF'}
            initial="#FFFFFF"
            disabled={p.disabled}
            onDraft={(colour) => p.onDraft(changed(n, { colour }))}
            onCommit={(colour) => p.onCommit(changed(n, { colour }))}
          />
        </Box>
      ))}
      <Flex align="center" minH="30px" gap="2">
        <Text flex="1">One more</Text>
        <Flex w="160px">
          <Pick
            label="Set a word or a letter by itself"
            value=""
            options={[['', 'Word or letter …'], ...free]}
            disabled={p.disabled || !free.length}
            onPick={add}
          />
        </Flex>
      </Flex>
    </Box>
  )
}
