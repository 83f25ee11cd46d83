import { Box, Text } from '@chakra-ui/react'
import type { View } from '../../api/view'
import { useOf } from '../../store'
import { roleColour } from '../../theme/system'

export type Track = View['tracks'][string]

/** How much each frame of a track is to be trusted: doubtful ones stand out. Press one to go there. */
export function Trust({ track }: { track: Track }) {
  const { view, seek, settled } = useOf('view', 'seek', 'settled')
  const count = track.confidence.length
  const [doubtful, fixed] = [track.doubtful.length, track.fixed.length]
  const item = view!.items.find((i) => i.shot === track.shot && i.start <= settled && settled < i.start + i.length)
  const here = item ? item.frames[settled - item.start]! - track.first : -1
  const go = (share: number) => {
    const frame = track.first + Math.min(count - 1, Math.floor(share * count))
    const there = view!.items.find((i) => i.shot === track.shot && i.frames.includes(frame))
    if (there) seek(there.start + there.frames.indexOf(frame))
  }
  return (
    <Box mt="2">
      <Box
        as="button"
        display="block"
        w="100%"
        h="18px"
        cursor="pointer"
        aria-label={`Trust in the track, ${doubtful} frames doubtful`}
        title="How sure each frame is. Press to go there"
        data-testid="trust"
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect()
          go((e.clientX - box.left) / box.width)
        }}
      >
        <svg viewBox={`0 0 ${count} 12`} width="100%" height="18" preserveAspectRatio="none" aria-hidden="true">
          {track.confidence.map((c, n) => (
            <rect
              key={n}
              x={n}
              width="1"
              y={10 - Math.max(1, 10 * c)}
              height={Math.max(1, 10 * c)}
              fill={roleColour(
                track.fixed.includes(track.first + n)
                  ? 'key'
                  : track.doubtful.includes(track.first + n)
                    ? 'now'
                    : 'selected',
              )}
            />
          ))}
          {here >= 0 && here < count && <rect x={here} width="1" y="10.6" height="1.4" fill="currentColor" />}
        </svg>
      </Box>
      <Text color="soft" fontSize="12px">
        {doubtful ? `${doubtful} of ${count} frames are doubtful` : `All ${count} frames are sure`}
        {fixed > 0 && `, ${fixed} put right`}
      </Text>
    </Box>
  )
}
