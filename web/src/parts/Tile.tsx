import { Box, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'

interface Props {
  label: string
  hint?: string
  chosen: boolean
  disabled: boolean
  /** How high its picture is. */
  h: string
  /** With small letters, where many stand close together. */
  small?: boolean
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
      boxShadow={p.chosen ? 'inset 0 0 0 1px {colors.selected}' : undefined}
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
      // Not on entering: what appears below a pointer that rests is not meant by it.
      onPointerMove={() => p.disabled || p.onRest()}
      onPointerLeave={p.onLeave}
    >
      <Box h={p.h} bg="paper" overflow="hidden">
        {p.picture}
      </Box>
      <Text fontSize={p.small ? '11.5px' : '12px'} lineHeight={p.small ? '17px' : '20px'} px="1.5" truncate>
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
