import { useCallback, useState } from 'react'
import type { Look } from './Stage'
import type { ToolName } from './tools'

/** What stays as it was when one goes from hold to hold. */
export const habits: {
  tool: ToolName
  look: Look
  backing: string
  loupe: boolean
  ghosts: boolean
  divided: number | null
} = {
  tool: 'points',
  look: 'veil',
  backing: '#2FA84F',
  loupe: false,
  ghosts: false,
  divided: null,
}

/** One of them, kept from hold to hold; `first` is where this one begins. */
export function useHabit<K extends keyof typeof habits>(name: K, first?: (typeof habits)[K]) {
  const [value, setValue] = useState<(typeof habits)[K]>(() => first ?? habits[name])
  const set = useCallback(
    (next: (typeof habits)[K]) => {
      habits[name] = next
      setValue(next)
    },
    [name],
  )
  return [value, set] as const
}
