import { Flex, Switch, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'

/** A line with a switch at its end. */
export function SwitchRow(p: {
  label: string
  on: boolean
  onChange: (on: boolean) => void
  hint?: string
  disabled?: boolean
  /** Stands for the label, where that is more than a word. */
  children?: ReactNode
  /** What stands behind it. */
  after?: ReactNode
}) {
  return (
    <Flex align="center" minH="28px" gap="2" title={p.hint}>
      {p.children ?? <Text flex="1">{p.label}</Text>}
      <Switch.Root size="sm" checked={p.on} disabled={p.disabled} onCheckedChange={(e) => p.onChange(e.checked)}>
        <Switch.HiddenInput aria-label={p.label} />
        <Switch.Control bg={p.on ? 'selected' : 'rule'}>
          <Switch.Thumb bg="card" />
        </Switch.Control>
      </Switch.Root>
      {p.after}
    </Flex>
  )
}
