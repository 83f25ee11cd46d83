import { Box } from '@chakra-ui/react'
import { useState } from 'react'
import type { Easing } from '../api/client'
import { Heading } from './buttons'
import { EasingNumbers, Easings } from './Easings'

/** An easing that is a setting of something: a ready one, or by its numbers. */
export function EasingPanel(p: {
  title: string
  easing: Easing
  disabled?: boolean
  onDraft: (e: Easing) => void
  onCommit: (e: Easing) => void
}) {
  const [live, setLive] = useState<Easing | null>(null)
  const commit = (e: Easing) => {
    setLive(null)
    p.onCommit(e)
  }
  return (
    <Box>
      <Heading>{p.title}</Heading>
      <Easings easing={live ?? p.easing} disabled={p.disabled} onPick={commit} />
      <EasingNumbers
        easing={live ?? p.easing}
        disabled={p.disabled}
        onDraft={(e) => {
          setLive(e)
          p.onDraft(e)
        }}
        onCommit={commit}
      />
    </Box>
  )
}
