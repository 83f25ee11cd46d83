import { Box, Text } from '@chakra-ui/react'
import type { Layer } from '../../api/client'
import { Kite } from '../../parts/Kite'

/** All keys over the layer's span, a line a channel. */
export function KeyChart(p: {
  /** Channels by name, with what they are called. */
  channels: [string, string][]
  layer: Layer
  keys: Record<string, number>
  start: number
  end: number
  landing: number
  playhead: number
  chosen: string | null
  onChoose: (id: string) => void
}) {
  const frames = [...Object.values(p.keys), p.start, p.end]
  const [low, high] = [Math.min(...frames), Math.max(...frames)]
  const place = (f: number) => `${((f - low) / Math.max(1, high - low)) * 100}%`
  return (
    <Box
      position="relative"
      border="1px solid {colors.rule}"
      borderRadius="soft"
      bg="paper"
      pl="96px"
      pr="46px"
      flexShrink="0"
    >
      <Box position="relative" h="20px" fontSize="11.5px" color="soft">
        {(
          [
            ['start', p.start],
            ['end', p.end],
          ] as const
        ).map(([name, f]) => (
          <Text
            key={name}
            position="absolute"
            left={place(f)}
            transform="translateX(-50%)"
            top="2px"
            whiteSpace="nowrap"
          >
            {name === 'start' && p.start === p.landing
              ? 'start, landing'
              : name === 'end' && p.end === p.landing
                ? 'landing, end'
                : name}
          </Text>
        ))}
      </Box>
      {p.channels.map(([channel, label]) => (
        <Box key={channel} position="relative" h="27px" borderTop="1px solid {colors.rule}">
          <Text position="absolute" left="-86px" top="4px">
            {label}
          </Text>
          <Box
            position="absolute"
            left={place(p.start)}
            w={`calc(${place(p.end)} - ${place(p.start)})`}
            top="13px"
            h="1px"
            bg="rule"
          />
          {p.layer.keys
            .filter((k) => k.channel === channel)
            .map((k) => (
              <Box
                as="button"
                key={k.id}
                aria-label={`${label} key at frame ${p.keys[k.id]}`}
                aria-pressed={k.id === p.chosen}
                position="absolute"
                left={`calc(${place(p.keys[k.id] ?? low)} - 8px)`}
                top="3px"
                cursor="pointer"
                onClick={() => p.onChoose(k.id)}
              >
                <Kite chosen={k.id === p.chosen} size={16} />
              </Box>
            ))}
        </Box>
      ))}
      {p.playhead >= low && p.playhead <= high && (
        <Box position="absolute" top="18px" bottom="0" left="96px" right="46px" pointerEvents="none">
          <Box position="absolute" left={place(p.playhead)} top="0" bottom="0" w="1.5px" bg="now" />
        </Box>
      )}
    </Box>
  )
}
