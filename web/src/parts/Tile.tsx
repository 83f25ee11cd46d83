import { Box, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'

interface Props {
  label: string
  hint?: string
  chosen: boolean
  disabled: boolean
  /** How high its picture is. */
  h: string
  picture: ReactNode
  /** What stands beside its name, in soft letters. */
  aside?: string
  onPick: () => void
  onRest: () => void
  onLeave: () => void
}

/** Something to choose, as a picture with its name: resting on it tries it, a press takes it. */
export function Tile(p: Props) {
  return (
    <Box
      as="button"
      aria-label={p.label}
      aria-pressed={p.chosen}
      aria-disabled={p.disabled}
      title={p.hint}
      border="1px solid"
      borderColor={p.chosen ? 'selected' : 'rule'}
      borderRadius="soft"
      overflow="hidden"
      bg="card"
      textAlign="left"
      cursor={p.disabled ? 'default' : 'pointer'}
      opacity={p.disabled ? 0.5 : 1}
      onClick={() => {
        p.onLeave()
        if (!p.disabled) p.onPick()
      }}
      onPointerMove={() => p.disabled || p.onRest()}
      onPointerLeave={p.onLeave}
    >
      <Box h={p.h} bg="paper">
        {p.picture}
      </Box>
      <Text fontSize="12px" lineHeight="20px" px="1.5" truncate>
        {p.label}{' '}
        {p.aside && (
          <Text as="span" color="soft">
            {p.aside}
          </Text>
        )}
      </Text>
    </Box>
  )
}

/** A picture that fills a tile. */
export function Filling({ src }: { src: string }) {
  return (
    <img
      src={src}
      alt=""
      loading="lazy"
      style={{ width: '100%', height: '100%', objectFit: 'cover', display: 'block' }}
    />
  )
}
