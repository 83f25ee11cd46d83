import { Box, Flex, Textarea } from '@chakra-ui/react'
import { type ReactNode, useState } from 'react'
import { NumberField } from './fields'
import { Pick } from './Pick'
import { useFaces } from './useFaces'

/** Words of several lines. What is typed shows in the picture at once; leaving the field keeps it. */
export function WordsField(p: {
  name: string
  value: string
  disabled?: boolean
  onDraft: (words: string) => void
  onCommit: (words: string) => void
}) {
  const [text, setText] = useState<string | null>(null)
  return (
    <Box py="1">
      <Textarea
        aria-label={p.name}
        rows={2}
        maxLength={600}
        px="2"
        py="1.5"
        bg="raised"
        fontSize="14px"
        borderRadius="soft"
        resize="vertical"
        disabled={p.disabled}
        value={text ?? p.value}
        onChange={(e) => {
          setText(e.target.value)
          p.onDraft(e.target.value)
        }}
        onBlur={() => {
          if (text !== null && text !== p.value) p.onCommit(text)
          setText(null)
        }}
        onKeyDown={(e) => {
          e.stopPropagation()
          if (e.key === 'Escape') {
            p.onDraft(p.value)
            setText(null)
          }
          if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) e.currentTarget.blur()
        }}
      />
    </Box>
  )
}

/** The face that words are set in, by name. */
export function FaceField(p: {
  label: ReactNode
  name: string
  value: string
  disabled?: boolean
  onPick: (face: string) => void
}) {
  const faces = useFaces()
  return (
    <Flex align="center" minH="30px" gap="2">
      {p.label}
      <Flex w="160px">
        <Pick
          label={p.name}
          value={p.value}
          options={faces.map((f): [string, string] => [f.id, f.title])}
          disabled={p.disabled}
          onPick={p.onPick}
        />
      </Flex>
    </Flex>
  )
}

/** What about a face can be varied, as tracks to drag; nothing if it has nothing of the kind. */
export function AxesFields(p: {
  face: string
  values: Record<string, number>
  disabled?: boolean
  onDraft: (values: Record<string, number>) => void
  onCommit: (values: Record<string, number>) => void
}) {
  const face = useFaces().find((f) => f.id === p.face)
  return (face?.axes ?? []).map((a) => (
    <NumberField
      key={a.tag}
      label={a.title}
      slider
      step={1}
      min={a.low}
      max={a.high}
      initial={a.usual}
      value={p.values[a.tag] ?? a.usual}
      disabled={p.disabled}
      onDraft={(v) => p.onDraft({ ...p.values, [a.tag]: v })}
      onCommit={(v) => p.onCommit({ ...p.values, [a.tag]: v })}
    />
  ))
}
