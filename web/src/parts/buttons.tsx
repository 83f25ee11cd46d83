import { Box, Button, Flex, IconButton, Text } from '@chakra-ui/react'
import type { LucideIcon } from 'lucide-react'
import { cloneElement, type ReactElement, type ReactNode } from 'react'
import { radios, tabStop } from './radios'
import { steady } from './steady'

/** What a control does, and its key, shown while the pointer or the focus rests on it: see `Hints`. */
export function Hint(p: { text: string; children: ReactElement }) {
  return cloneElement(p.children as ReactElement<Record<string, unknown>>, { 'data-hint': p.text })
}

interface ToolProps {
  icon: LucideIcon
  label: string
  hint?: string
  on?: boolean
  disabled?: boolean
  size?: number
  danger?: boolean
  onClick: () => void
}

/** A square button with an icon; `on` marks the chosen one of several. */
export const Tool = steady(function Tool({
  icon: Icon,
  label,
  hint,
  on,
  disabled,
  size = 32,
  danger,
  onClick,
}: ToolProps) {
  return (
    <Hint text={hint ?? label}>
      <IconButton
        aria-label={label}
        aria-pressed={on}
        variant="plain"
        disabled={disabled}
        onClick={onClick}
        minW={`${size}px`}
        h={`${size}px`}
        borderRadius="soft"
        border="1px solid"
        borderColor={on ? 'selected' : 'transparent'}
        bg={on ? 'selectedWash' : 'transparent'}
        color={danger ? 'danger' : on ? 'selected' : 'ink'}
        _hover={{ bg: on ? 'selectedWash' : 'paper' }}
      >
        <Icon size={Math.round(size * 0.53)} strokeWidth={1.9} />
      </IconButton>
    </Hint>
  )
})

/** A button with words. `main` is the one next thing to do. */
export const Act = steady(function Act(p: {
  children: ReactNode
  icon?: LucideIcon
  main?: boolean
  disabled?: boolean
  hint?: string
  label?: string
  onClick: () => void
}) {
  const Icon = p.icon
  const button = (
    <Button
      aria-label={p.label}
      size="xs"
      h="30px"
      px="3"
      borderRadius="soft"
      fontWeight="600"
      fontSize="13px"
      variant={p.main ? 'solid' : 'outline'}
      bg={p.main ? 'selected' : 'card'}
      color={p.main ? 'onSelected' : 'ink'}
      borderColor={p.main ? 'selected' : 'rule'}
      _hover={p.main ? { opacity: 0.92 } : { bg: 'paper' }}
      disabled={p.disabled}
      onClick={p.onClick}
    >
      {Icon && <Icon size={15} />}
      {p.children}
    </Button>
  )
  return p.hint ? <Hint text={p.hint}>{button}</Hint> : button
})

interface ChoiceProps<T extends string> {
  label: string
  options: { value: T; label: string; hint?: string }[]
  value: T
  onChange: (value: T) => void
  dark?: boolean
}

/** One of a few choices, side by side. */
export const Choice = steady(Choices) as <T extends string>(p: ChoiceProps<T>) => ReactElement

function Choices(p: ChoiceProps<string>) {
  const chosen = p.options.findIndex((o) => o.value === p.value)
  return (
    <Flex
      role="radiogroup"
      {...radios}
      aria-label={p.label}
      bg={p.dark ? 'card' : 'paper'}
      borderRadius="soft"
      p="2px"
      gap="1px"
      wrap="wrap"
      w="fit-content"
      maxW="100%"
    >
      {p.options.map((o, n) => (
        <Box
          as="button"
          key={o.value}
          role="radio"
          tabIndex={tabStop(n, chosen)}
          aria-checked={o.value === p.value}
          title={o.hint}
          onClick={() => p.onChange(o.value)}
          px="2.5"
          h="24px"
          borderRadius="5px"
          fontSize="13px"
          fontWeight="550"
          whiteSpace="nowrap"
          cursor="pointer"
          bg={o.value === p.value ? 'ink' : 'transparent'}
          color={o.value === p.value ? 'card' : 'soft'}
        >
          {o.label}
        </Box>
      ))}
    </Flex>
  )
}

/** A heading within a panel. */
export function Heading(p: { children: ReactNode; aside?: ReactNode }) {
  return (
    <Flex align="center" justify="space-between" mt="3" mb="1" minH="26px">
      <Text fontWeight="700" fontSize="13px">
        {p.children}
      </Text>
      {p.aside}
    </Flex>
  )
}

/** What a place is for, the one next thing to do, and a button that does it. */
export function Empty(p: { title: string; children: ReactNode; action?: ReactNode; onDark?: boolean }) {
  return (
    <Flex direction="column" align="center" justify="center" h="100%" gap="2" p="6" textAlign="center">
      <Text fontFamily="heading" fontSize="19px" fontWeight="650">
        {p.title}
      </Text>
      <Text color={p.onDark ? 'onSurround' : 'soft'} opacity={p.onDark ? 0.85 : 1} maxW="46ch">
        {p.children}
      </Text>
      {p.action && <Box mt="2">{p.action}</Box>}
    </Flex>
  )
}

/** How far work is, 0…1. */
export function Progress(p: { share: number; label: string }) {
  return (
    <Box
      role="progressbar"
      aria-label={p.label}
      aria-valuenow={Math.round(p.share * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      h="6px"
      bg="rule"
      borderRadius="full"
      overflow="hidden"
    >
      <Box h="100%" w={`${p.share * 100}%`} bg="selected" transition="width 0.2s" />
    </Box>
  )
}
