import { Box, Flex, Text } from '@chakra-ui/react'
import { KeyRound, Pin, PinOff, RefreshCw, Trash2 } from 'lucide-react'
import { answer, api, type Layer, Refused } from '../../api/client'
import { Act, Choice, Tool } from '../../parts/buttons'
import { cancelJob, Working } from '../../shelf/Shelf'
import { shownAt, useOf, useStudio } from '../../shell/store'
import { roleColour } from '../../theme/system'
import { finished } from '../carve/find'

type How = 'place' | 'turn' | 'full'
const WAYS: { value: How; label: string; hint: string }[] = [
  { value: 'place', label: 'Place', hint: 'Goes along with the scene, as large and upright as it is' },
  { value: 'turn', label: 'Size and turn', hint: 'Grows, shrinks and turns with the scene as well' },
  { value: 'full', label: 'Perspective', hint: 'Lies in the scene as if it had been filmed there' },
]
/** Fixes layers to the scene: the camera is followed by itself, and carries them. */
export function Pinned({ layers }: { layers: Layer[] }) {
  const { view, edit, say } = useOf('view', 'edit', 'say')
  const running = useStudio((s) =>
    s.jobs.find((j) => j.kind === 'track' && (j.state === 'running' || j.state === 'waiting')),
  )
  const first = layers[0]!
  const ids = layers.map((l) => l.id)
  const pin = first.pin
  const track = pin ? view!.tracks[pin.track] : undefined
  const locked = layers.some((l) => l.locked)
  const seen = seenBy(first)
  const known = Object.values(view!.tracks).find(
    (t) => t.shot === seen?.shot && t.first <= seen.frame && seen.frame < t.first + t.confidence.length,
  )
  const follow = async (again = false) => {
    if (known && !again) {
      await edit({ kind: 'pin layers', layers: ids, track: known.id, how: 'full', at: at(first) })
      return
    }
    try {
      const path = { project: view!.project.id }
      const job = await answer(
        api.POST('/api/projects/{project}/track', {
          params: { path },
          body: { layers: ids, how: pin?.how ?? 'full', at: pin ? null : at(first) },
        }),
      )
      useStudio.getState().takeJob(job)
      const ended = await finished(job.id)
      const doubtful = (ended.result as { doubtful?: number } | null)?.doubtful ?? 0
      if (doubtful) say(`The camera is followed; ${doubtful} frames are doubtful. They are marked below the pin.`)
    } catch (error) {
      say(error instanceof Refused ? error.message : 'That did not work. Try it again.', 'trouble')
    }
  }
  if (running)
    return (
      <Working
        name={`${running.title}…`}
        share={running.progress}
        remaining={running.remaining}
        cancel="Stop following"
        onCancel={() => void cancelJob(running.id)}
      />
    )
  if (!pin || !track)
    return (
      <Act
        icon={Pin}
        hint="Follows the camera, so that this stands in the scene as if it had been filmed there"
        disabled={locked}
        onClick={() => void follow()}
      >
        Pin to the scene
      </Act>
    )
  return (
    <>
      <Choice
        label="How it is pinned"
        value={pin.how}
        options={WAYS}
        onChange={(how) => void edit({ kind: 'pin layers', layers: ids, track: track.id, how, at: null })}
      />
      <Strip track={track} />
      <Flex gap="1.5" mt="1.5" wrap="wrap">
        <Act
          icon={PinOff}
          disabled={locked}
          onClick={() => void edit({ kind: 'pin layers', layers: ids, track: null, how: 'full', at: null })}
        >
          Let go
        </Act>
        <Act
          icon={KeyRound}
          disabled={locked}
          hint="Lets it go, with keys on every frame, so that it stays where it is seen"
          onClick={() => void edit({ kind: 'unpin', layers: ids })}
        >
          Into keys
        </Act>
        <Tool
          icon={RefreshCw}
          size={28}
          disabled={locked}
          label="Follow the camera again"
          hint="Follows the camera again, from this one’s frame on; all that is pinned to it goes by that"
          onClick={() => void follow(true)}
        />
        <Tool
          icon={Trash2}
          size={28}
          label="Forget how the camera went"
          hint="Lets go of all that is pinned to it"
          onClick={() => void edit({ kind: 'remove track', track: track.id })}
        />
      </Flex>
    </>
  )
}

/** How much each frame of a track is to be trusted: doubtful ones stand out. Press one to go there. */
function Strip({ track }: { track: NonNullable<ReturnType<typeof useStudio.getState>['view']>['tracks'][string] }) {
  const { view, seek } = useOf('view', 'seek')
  const count = track.confidence.length
  const doubtful = track.doubtful.length
  const go = (share: number) => {
    const frame = track.first + Math.min(count - 1, Math.floor(share * count))
    const item = view!.items.find((i) => i.shot === track.shot && i.frames.includes(frame))
    if (item) seek(item.start + item.frames.indexOf(frame))
  }
  return (
    <Box mt="2">
      <Box
        as="button"
        display="block"
        w="100%"
        h="16px"
        cursor="pointer"
        aria-label={`Trust in the track, ${doubtful} frames doubtful`}
        title="How sure each frame is. Press to go there"
        data-testid="trust"
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect()
          go((e.clientX - box.left) / box.width)
        }}
      >
        <svg viewBox={`0 0 ${count} 10`} width="100%" height="16" preserveAspectRatio="none" aria-hidden="true">
          {track.confidence.map((c, n) => (
            <rect
              key={n}
              x={n}
              width="1"
              y={10 - Math.max(1, 10 * c)}
              height={Math.max(1, 10 * c)}
              fill={roleColour(track.doubtful.includes(track.first + n) ? 'now' : 'selected')}
            />
          ))}
        </svg>
      </Box>
      <Text color="soft" fontSize="12px">
        {doubtful ? `${doubtful} of ${count} frames are doubtful` : `All ${count} frames are sure`}
      </Text>
    </Box>
  )
}

/** The shot and the frame that a layer was held from, or what is seen at the playhead. */
function seenBy(layer: Layer): { shot: string; frame: number } | null {
  const { view, playhead } = useStudio.getState()
  const hold = 'hold' in layer.source && layer.source.hold ? view!.holds[layer.source.hold] : undefined
  if (hold) return { shot: hold.shot, frame: hold.frame }
  const shown = shownAt(view!, playhead)
  return shown && { shot: shown.shot, frame: shown.frame }
}

/** Where what was not held is pinned: as it lies now. */
function at(layer: Layer): number | null {
  return 'hold' in layer.source && layer.source.hold ? null : useStudio.getState().playhead
}
