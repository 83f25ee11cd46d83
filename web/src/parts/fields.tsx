import { Box, Flex, Input, Text, chakra } from '@chakra-ui/react'
import { type KeyboardEvent, type ReactNode, useEffect, useState } from 'react'
import { useStudio } from '../store'
import { steady } from './steady'
import { useDrag } from './useDrag'

interface NumberProps {
  label: string
  /** What assistive technology calls it, where the label alone would be said of several. */
  name?: string
  value: number
  onDraft?: (value: number) => void
  onCommit: (value: number) => void
  min?: number
  max?: number
  step?: number
  unit?: string
  initial?: number
  digits?: number
  slider?: boolean
  /** How far its track goes, where that is not up to the largest. */
  track?: number
  /** The word for 0, where that is meant otherwise than as a number. */
  zero?: string
  /** For short numbers side by side. */
  narrow?: boolean
  after?: ReactNode
  disabled?: boolean
}

const round = (x: number, digits: number) => Number(x.toFixed(digits))

/**
 * A number that can be typed, dragged on its label, stepped with the arrow keys (shift for ten), and set back by a
 * double click on its label. With `slider`, a track to drag as well.
 */
export const NumberField = steady(function NumberField(p: NumberProps) {
  const { min = -1e6, max = 1e6, step = 1, digits = step < 1 ? (step < 0.1 ? 2 : 1) : 0 } = p
  const [text, setText] = useState<string | null>(null)
  const [live, setLive] = useState<number | null>(null)
  const shown = live ?? p.value
  const limit = (x: number) => round(Math.max(min, Math.min(max, x)), digits)

  const refusals = useStudio((s) => s.refusals)
  useEffect(() => setLive(null), [p.value, refusals])

  const commit = (x: number) => {
    const value = limit(x)
    setText(null)
    if (value !== round(p.value, digits)) {
      setLive(value)
      p.onCommit(value)
    } else setLive(null)
  }
  const draft = (x: number) => {
    const value = limit(x)
    setLive(value)
    p.onDraft?.(value)
  }
  const onKeyDown = (e: KeyboardEvent) => {
    const by = (e.shiftKey ? 10 : 1) * step
    if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
      e.preventDefault()
      e.stopPropagation()
      commit((text === null ? shown : Number(text) || 0) + (e.key === 'ArrowUp' ? by : -by))
    } else if (e.key === 'Enter') (e.target as HTMLElement).blur()
    else if (e.key === 'Escape') {
      setText(null)
      setLive(null)
      ;(e.target as HTMLElement).blur()
    }
  }
  const drag = useDrag({
    slack: 3,
    start: () => (p.disabled ? null : shown),
    move: (dx, _dy, from, e) => draft(from + Math.round(dx / 2) * step * (e.shiftKey ? 10 : 1)),
    end: (moved) => {
      if (moved && live !== null) commit(live)
    },
  })
  return (
    <Flex align="center" gap="2" minH="28px" opacity={p.disabled ? 0.5 : 1}>
      <Text
        flex="1"
        minW="0"
        truncate
        cursor="ew-resize"
        userSelect="none"
        touchAction="none"
        title={p.initial === undefined ? 'Drag to change' : 'Drag to change, double-click to set back'}
        {...drag}
        onDoubleClick={() => p.initial !== undefined && commit(p.initial)}
      >
        {p.label}
      </Text>
      {p.slider && (
        <chakra.input
          type="range"
          aria-label={`${p.name ?? p.label}, slider`}
          tabIndex={-1}
          min={p.track === undefined ? min : Math.max(min, -p.track)}
          max={p.track ?? max}
          step={step}
          value={shown}
          disabled={p.disabled}
          onChange={(e) => draft(Number(e.target.value))}
          onPointerUp={() => live !== null && commit(live)}
          onDoubleClick={() => p.initial !== undefined && commit(p.initial)}
          w="60px"
          flexShrink="0"
          css={{ accentColor: 'var(--chakra-colors-selected)' }}
        />
      )}
      <Flex align="center" gap="1" w={p.narrow ? '56px' : p.slider ? '76px' : '90px'} flexShrink="0">
        <Input
          aria-label={p.name ?? p.label}
          className="figures"
          size="2xs"
          h="24px"
          px="1"
          minW="0"
          textAlign="right"
          bg="raised"
          borderRadius="soft"
          fontSize="13px"
          disabled={p.disabled}
          value={text ?? (p.zero !== undefined && shown === 0 ? p.zero : round(shown, digits))}
          onChange={(e) => setText(e.target.value)}
          onFocus={(e) => e.target.select()}
          onBlur={() => {
            if (text === null) return
            const value = Number(text.replace(',', '.'))
            if (Number.isFinite(value) && text.trim()) commit(value)
            else setText(null)
          }}
          onKeyDown={onKeyDown}
        />
        {p.unit && (
          <Box color="soft" minW="16px" whiteSpace="nowrap" fontSize="12px">
            {p.unit}
          </Box>
        )}
      </Flex>
      {p.after}
    </Flex>
  )
})

/** A name that turns into a field when double-clicked, or on Enter or F2 when focused. */
export const NameField = steady(function NameField(p: {
  value: string
  label: string
  onCommit: (name: string) => void
  strong?: boolean
  /** Begins in the middle of being renamed, and is told when that is over. */
  onEnd?: () => void
}) {
  const [text, setText] = useState<string | null>(p.onEnd ? p.value : null)
  if (text === null) {
    return (
      <Box
        as="span"
        tabIndex={0}
        role="button"
        aria-label={`${p.label}: ${p.value}. Enter renames`}
        title="Double-click to rename"
        truncate
        fontWeight={p.strong ? 600 : 500}
        onDoubleClick={() => setText(p.value)}
        onKeyDown={(e: KeyboardEvent) => {
          if (e.key !== 'Enter' && e.key !== 'F2') return
          e.preventDefault()
          setText(p.value)
        }}
      >
        {p.value}
      </Box>
    )
  }
  const done = () => {
    const name = text.trim()
    setText(null)
    if (name && name !== p.value) p.onCommit(name)
    p.onEnd?.()
  }
  return (
    <Input
      autoFocus
      aria-label={p.label}
      size="2xs"
      h="24px"
      px="1.5"
      bg="raised"
      maxLength={120}
      value={text}
      onFocus={(e) => e.target.select()}
      onChange={(e) => setText(e.target.value)}
      onBlur={done}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Enter') done()
        if (e.key === 'Escape') {
          setText(null)
          p.onEnd?.()
        }
      }}
    />
  )
})
