import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { Flag, Pause, Scissors, Trash2 } from 'lucide-react'
import { memo, useEffect, useState } from 'react'
import type { ItemView, View, ShotView } from '../../api/client'
import { Act, Choice, Empty, Heading, Tool } from '../../parts/buttons'
import { NameField } from '../../parts/fields'
import { withKey } from '../../shell/keys'
import { flagHere, holdHere, standHere } from '../../shell/shortcuts'
import { shownAt, timecode, useOf, useStudio } from '../../shell/store'
import { pickFiles } from '../../shelf/pickFiles'
import { rateWords } from '../../shelf/Shelf'
import { InThePiece } from './InThePiece'

const AROUND = 4

/** The footage's own frame, big, with its neighbours; flag it, or hold it to cut somebody out. */
export function Catch() {
  const { view, playhead, playing, seek } = useOf('view', 'playhead', 'playing', 'seek')
  const at = shownAt(view!, playhead)
  const chosen = useStudio((s) => s.item)
  const [side, setSide] = useState<'frame' | 'piece'>(chosen ? 'piece' : 'frame')
  // Who chooses something in the ground wants to know about it; who chooses a cutout, about its frame.
  useEffect(() => setSide(chosen ? 'piece' : 'frame'), [chosen])
  const settled = useSettled(playhead, playing ? 1e9 : 180)
  if (view && view.length > 0 && !at) return <NoFootage />
  if (!view || !at) {
    return (
      <Empty
        title="Catch a frame"
        action={
          <Act main onClick={pickFiles}>
            Import a video
          </Act>
        }
      >
        Everything begins with a moment worth freezing. Drop a video here, or choose one; any phone’s or camera’s file
        will do.
      </Empty>
    )
  }
  const shot = view.shots[at.shot]!
  const place = at.item
  const url = (frame: number, width?: number) => frameUrl(view, shot, frame, width)
  const item = view.project.ground.find((g) => g.id === at.item.id)
  const flagged = shot.moments.find((m) => m.frame === at.frame)
  const near = Array.from({ length: 2 * AROUND + 1 }, (_, i) => playhead - AROUND + i)
  return (
    <Flex h="100%" minH="0">
      <Flex direction="column" flex="1" minW="0" bg="surround">
        <Flex flex="1" minH="0" align="center" justify="center" position="relative" p="3">
          <Image
            src={url(at.frame, settled === playhead ? undefined : 960)}
            alt={`${shot.name}, frame ${at.frame}`}
            maxH="100%"
            maxW="100%"
            objectFit="contain"
            data-testid="source-frame"
            data-frame={at.frame}
          />
          <Box
            position="absolute"
            left="10px"
            top="10px"
            px="2"
            py="1"
            bg="#1E2530E0"
            color="#FBF8F2"
            borderRadius="soft"
            fontSize="12.5px"
            className="figures"
          >
            {shot.name} · frame {at.frame}
          </Box>
        </Flex>
        <Flex justify="center" gap="3px" p="8px" flexShrink="0" bg="#2B2C2F">
          {near.map((f) => {
            const source = shownAt(view, f)
            const here = f === playhead
            return (
              <Box
                as="button"
                key={f}
                aria-label={source ? `Frame ${source.frame}` : 'No frame'}
                aria-current={here ? 'true' : undefined}
                aria-disabled={!source}
                onClick={() => source && seek(f)}
                position="relative"
                h="72px"
                minW="30px"
                borderRadius="3px"
                overflow="hidden"
                cursor="pointer"
                boxShadow={here ? '0 0 0 2.5px {colors.now}' : undefined}
                opacity={source ? (here ? 1 : 0.82) : 0.15}
              >
                {source && (
                  <>
                    <Image
                      src={`/api/projects/${view.project.id}/shots/${source.shot}/frames/${source.frame}.jpg?width=${thumbWidth(view.shots[source.shot]!)}`}
                      alt=""
                      h="100%"
                    />
                    <Box
                      position="absolute"
                      inset="auto 0 0 0"
                      bg="#00000080"
                      color="#fff"
                      fontSize="11px"
                      className="figures"
                    >
                      {source.frame}
                    </Box>
                  </>
                )}
              </Box>
            )
          })}
        </Flex>
      </Flex>
      <Flex direction="column" w="230px" flexShrink="0" borderLeft="1px solid {colors.rule}">
        <Box px="3" pt="3">
          <Choice
            label="What the column shows"
            value={side}
            onChange={setSide}
            options={[
              { value: 'frame', label: 'This frame' },
              { value: 'piece', label: 'In the piece' },
            ]}
          />
        </Box>
        <Box flex="1" minH="0" overflowY="auto" px="3" pb="3">
          {side === 'piece' && item && <InThePiece item={item} place={place} shot={shot} />}
          {side === 'frame' && (
            <>
              <Text color="soft" my="2" className="figures">
                {timecode(playhead, view.project.rate)} in the piece
              </Text>
              <Flex gap="2" wrap="wrap">
                <Act
                  icon={Scissors}
                  main
                  hint={withKey('Hold this frame and carve its subject out', 'hold')}
                  onClick={() => void holdHere()}
                >
                  Hold this frame
                </Act>
                <Act
                  icon={Flag}
                  disabled={Boolean(flagged)}
                  hint={withKey('Flag this frame as a moment', 'flag')}
                  onClick={() => void flagHere()}
                >
                  Flag
                </Act>
                <Act
                  icon={Pause}
                  disabled={!place.footage || item?.source.kind === 'standstill'}
                  hint="Everything stops here for a second, and a cutout of this frame lies on top"
                  onClick={() => void standHere(true)}
                >
                  Stand still
                </Act>
              </Flex>
              <Moments shot={shot} place={place} here={flagged ? at.frame : null} />
              <Heading>Footage</Heading>
              <Text color="soft" className="figures">
                {shot.width} × {shot.height}, {rateWords(shot.rate)}
                {shot.variable ? ' (variable)' : ''}
                <br />
                {shot.frames} frames{shot.cuts.length > 0 ? ` in ${shot.cuts.length + 1} takes` : ''}, {shot.colour}
                {shot.depth > 8 ? `, ${shot.depth} bit` : ''}
                {shot.rotation ? `, turned ${shot.rotation}°` : ''}
                <br />
                {shot.has_sound ? 'With sound' : 'No sound'}
              </Text>
            </>
          )}
        </Box>
      </Flex>
    </Flex>
  )
}

/** Where the ground shows no footage, as a colour: what that is, and its settings. */
function NoFootage() {
  const { view, playhead } = useOf('view', 'playhead')
  const place = view!.items.find((i) => playhead >= i.start && playhead < i.start + i.length)
  const item = view!.project.ground.find((g) => g.id === place?.id)
  return (
    <Flex h="100%" minH="0">
      <Flex direction="column" flex="1" minW="0" bg="surround" align="center" justify="center" color="onSurround">
        <Text>{place?.name ?? 'Nothing'} lies here: there is nobody in it to hold.</Text>
      </Flex>
      <Box w="230px" flexShrink="0" borderLeft="1px solid {colors.rule}" overflowY="auto" px="3" pb="3">
        {item && place && <InThePiece item={item} place={place} />}
      </Box>
    </Flex>
  )
}

/** The frames that were flagged; the one that is looked at is marked. */
const Moments = memo(function Moments({ shot, place, here }: { shot: ShotView; place: ItemView; here: number | null }) {
  const { view, edit, seek } = useOf('view', 'edit', 'seek')
  return (
    <>
      <Heading>Moments</Heading>
      {shot.moments.length === 0 && (
        <Text color="soft">
          Step with ← and →, and flag the frames where the movement peaks. Holding a frame flags it too.
        </Text>
      )}
      {shot.moments.map((m) => {
        const index = place.frames.findIndex((f) => f >= m.frame)
        return (
          <Flex
            key={m.id}
            align="center"
            gap="2"
            py="1"
            px="1.5"
            borderRadius="soft"
            bg={m.frame === here ? 'selectedWash' : undefined}
            data-moment={m.frame}
          >
            <Box
              as="button"
              cursor="pointer"
              aria-label={`Go to ${m.name}`}
              onClick={() => index >= 0 && seek(place.start + index)}
            >
              <Image
                src={frameUrl(view!, shot, m.frame, thumbWidth(shot))}
                alt=""
                h="40px"
                w={`${Math.max(16, Math.min(64, Math.round((40 * shot.width) / shot.height)))}px`}
                objectFit="cover"
                borderRadius="3px"
              />
            </Box>
            <Box flex="1" minW="0">
              <NameField
                label="Moment name"
                value={m.name}
                onCommit={(name) => void edit({ kind: 'change moment', shot: shot.id, moment: m.id, name })}
              />
              <Text color="soft" fontSize="12px" className="figures">
                frame {m.frame}
              </Text>
            </Box>
            <Tool
              icon={Trash2}
              label={`Remove ${m.name}`}
              size={26}
              onClick={() => void edit({ kind: 'remove moment', shot: shot.id, moment: m.id })}
            />
          </Flex>
        )
      })}
    </>
  )
})

function frameUrl(view: View, shot: ShotView, frame: number, width?: number): string {
  return `/api/projects/${view.project.id}/shots/${shot.id}/frames/${frame}.jpg${width ? `?width=${width}` : ''}`
}

function thumbWidth(shot: { width: number; height: number }): number {
  return Math.max(16, Math.round((144 * shot.width) / shot.height / 2) * 2)
}

/** The value, once it has not changed for a while. */
function useSettled<T>(value: T, after: number): T {
  const [settled, setSettled] = useState(value)
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), after)
    return () => clearTimeout(timer)
  }, [value, after])
  return settled
}
