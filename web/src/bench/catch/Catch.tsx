import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { useEffect, useState } from 'react'
import type { ItemView, ShotView, View } from '../../api/client'
import { Act, Choice, Empty } from '../../parts/buttons'
import { useOf, useStudio } from '../../store'
import { pickFiles } from '../../parts/pickFiles'
import { Beside, BesideChoice, Note, OnPicture, type What } from './Beside'
import { useChoices } from './choice'
import { Frames } from './Frames'
import { useHere, usePlace } from './here'
import { InThePiece } from './InThePiece'
import { Moments } from './Moments'
import { Strip } from './Strip'
import { ThisFrame } from './ThisFrame'
import { frameUrl } from '../../parts/urls'
import { useChosen } from './useChosen'
import { useNewest } from './useNewest'
import { useWatched } from './useWatched'

/** The footage's own frame, big, with its ghosts or neighbours, over the strip; which frames to hold beside it. */
export function Catch() {
  const view = useStudio((s) => s.view)
  const place = usePlace()
  const shot = place?.shot ? view?.shots[place.shot] : undefined
  if (view && view.length > 0 && !shot) return <NoFootage />
  if (!view || !place || !shot) {
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
  return <Footage view={view} shot={shot} place={place} />
}

type Side = 'frames' | 'moments' | 'piece'

function Footage({ view, shot, place }: { view: View; shot: ShotView; place: ItemView }) {
  const seek = useStudio((s) => s.seek)
  const item = useStudio((s) => s.item)
  const [what, setWhat] = useState<What>('ghosts')
  const [side, setSide] = useState<Side>(item ? 'piece' : 'frames')
  // Who chooses something in the ground wants to know about it; who chooses a cutout, about its frame.
  useEffect(() => setSide((now) => (item ? 'piece' : now === 'piece' ? 'frames' : now)), [item])
  const range = place.range?.join() ?? ''
  const watched = useWatched(view.project.id, shot.id, place.id, range)
  const chosen = useChosen(view.project.id, shot, place, watched)
  const change = useChoices((s) => s.change)
  const ground = view.project.ground.find((g) => g.id === place.id)
  const go = (frame: number) => seek(place.start + nearestIndex(place.frames, frame))
  const nudge = (base: number, frame: number) => {
    const to = place.frames[nearestIndex(place.frames, frame)]!
    if (chosen.picks.some((c) => c.frame === to && c.base !== base)) return
    change(place.id, { nudged: { ...chosen.choosing.nudged, [base]: to - base } })
  }
  const wide = shot.width > shot.height
  const known = watched?.known.reduce((sum, [a, b]) => sum + b - a, 0) ?? 0
  return (
    <Flex h="100%" minH="0">
      <Flex direction="column" flex="1" minW="0" bg="surround">
        <Flex flex="1" minH="0" gap="3" p="3">
          <Flex w="138px" flexShrink="0" direction="column" justify="space-between">
            <ThisFrame item={place} shot={shot} />
            <BesideChoice what={what} onWhat={setWhat} />
          </Flex>
          <Flex flex="1" minW="0" minH="0" gap="3" direction={wide ? 'column' : 'row'}>
            <SourceFrame shot={shot} place={place} to={wide ? 'start' : 'end'} />
            <Beside
              what={what}
              shot={shot}
              place={place}
              frames={chosen.frames}
              overlaps={chosen.overlaps}
              ready={known === shot.frames}
            />
          </Flex>
        </Flex>
        <Strip
          shot={shot}
          item={place}
          watched={watched}
          picks={chosen.picks}
          ends={chosen.choosing.way === 'even' ? [chosen.first, chosen.last] : null}
          onSeek={go}
          onEnds={(first, last) => change(place.id, { first, last, nudged: {} })}
          onNudge={nudge}
        />
      </Flex>
      <Flex direction="column" w="264px" flexShrink="0" borderLeft="1px solid {colors.rule}">
        <Box px="3" pt="3">
          <Choice
            label="What the column shows"
            value={side}
            onChange={setSide}
            options={[
              { value: 'frames', label: 'Frames' },
              { value: 'moments', label: 'Moments' },
              { value: 'piece', label: 'In the piece' },
            ]}
          />
        </Box>
        <Box flex="1" minH="0" overflowY="auto" px="3" pb="3">
          {side === 'piece' && ground && <InThePiece item={ground} place={place} shot={shot} />}
          {side === 'frames' && (
            <Frames shot={shot} item={place} watched={watched} chosen={chosen} onSeek={go} onNudge={nudge} />
          )}
          {side === 'moments' && <Moments shot={shot} place={place} />}
        </Box>
      </Flex>
    </Flex>
  )
}

/** The footage's own frame, as large as there is room for. */
function SourceFrame({ shot, place, to }: { shot: ShotView; place: ItemView; to: 'start' | 'end' }) {
  const view = useStudio((s) => s.view)
  const here = useHere(place)
  // What passes by while one goes through the frames is as large as it is shown, and no larger.
  const width = useSettled(here, 180) === here ? undefined : 960
  const shown = useNewest(frameUrl(view!, shot, here, width))
  return (
    <OnPicture
      shape={shot.width / shot.height}
      to={to}
      notes={
        <Note top>
          {shot.name} · frame {here}
        </Note>
      }
    >
      <Image
        src={shown ?? undefined}
        alt={`${shot.name}, frame ${here}`}
        w="100%"
        h="100%"
        data-testid="source-frame"
        data-frame={here}
      />
    </OnPicture>
  )
}

/** Where in a table of source frames one is shown, or the nearest to it. */
function nearestIndex(frames: number[], frame: number): number {
  let best = 0
  for (let n = 1; n < frames.length; n++) if (Math.abs(frames[n]! - frame) < Math.abs(frames[best]! - frame)) best = n
  return best
}

/** Where the ground shows no footage, as a colour: what that is, and its settings. */
function NoFootage() {
  const { view, settled } = useOf('view', 'settled')
  const place = view!.items.find((i) => settled >= i.start && settled < i.start + i.length)
  const item = view!.project.ground.find((g) => g.id === place?.id)
  return (
    <Flex h="100%" minH="0">
      <Flex direction="column" flex="1" minW="0" bg="surround" align="center" justify="center" color="onSurround">
        <Text>{place?.name ?? 'Nothing'} lies here: there is nobody in it to hold.</Text>
      </Flex>
      <Box w="264px" flexShrink="0" borderLeft="1px solid {colors.rule}" overflowY="auto" px="3" pb="3">
        {item && place && <InThePiece item={item} place={place} />}
      </Box>
    </Flex>
  )
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
