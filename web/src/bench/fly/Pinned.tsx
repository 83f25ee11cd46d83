import { Box, Flex, Text } from '@chakra-ui/react'
import { Download, FileInput, Hand, KeyRound, Pin as PinIcon, PinOff, RefreshCw, Trash2, Undo2 } from 'lucide-react'
import { answer, api, type Edit, type Layer, Refused } from '../../api/client'
import { Act, Tool } from '../../parts/buttons'
import { Pick } from '../../parts/Pick'
import { chooseFiles } from '../../parts/pickFiles'
import { download } from '../../parts/download'
import { shownAt, useOf, useStudio } from '../../store'
import { follow } from '../../parts/follow'
import { type Track, Trust } from './Trust'
import { cancelJob, Working } from '../../parts/Working'

type Kept = Extract<Edit, { kind: 'add track' }>['track']
type How = NonNullable<Layer['pin']>['how']
const WAYS: [How, string][] = [
  ['place', 'Place alone'],
  ['turn', 'Size and turn'],
  ['full', 'Perspective'],
  ['shake', 'Shakes, but stays'],
]
const MODELS: [string, string][] = [
  ['', 'As fits best'],
  ['similarity', 'Shift, turn, zoom'],
  ['turn', 'Turn on the spot'],
  ['affine', 'Shear as well'],
  ['homography', 'Perspective'],
]

/** What runs for a track, with a way to stop it; null if nothing does. */
export function useFollowing() {
  const running = useStudio((s) =>
    s.jobs.find((j) => j.kind === 'track' && (j.state === 'running' || j.state === 'waiting')),
  )
  if (!running) return null
  return (
    <Working
      name={`${running.title}…`}
      share={running.progress}
      remaining={running.remaining}
      cancel="Stop following"
      onCancel={() => void cancelJob(running.id)}
    />
  )
}

/** Fixes layers to the scene: the camera, what lies at a place, or a patch is followed by itself, and carries them. */
export function Pinned({ layers }: { layers: Layer[] }) {
  const { view, showing, setShowing } = useOf('view', 'showing', 'setShowing')
  const following = useFollowing()
  const first = layers[0]!
  if (following) return following
  if (showing && showing.what !== 'fix' && showing.layers[0] === first.id)
    return (
      <>
        <Text fontSize="12px" mb="1.5">
          {showing.what === 'place'
            ? 'Press in the picture on what it is to stick to.'
            : 'Draw a box in the picture around what it is to stick to: a shoe, a badge, a crest.'}
        </Text>
        <Act onClick={() => setShowing(null)}>Leave it</Act>
      </>
    )
  const track = first.pin ? view!.tracks[first.pin.track] : undefined
  return track ? <Pin layers={layers} track={track} /> : <Loose layers={layers} />
}

/** What some layers can be pinned to: the scene's camera, a place, a patch. */
function usePinning(layers: Layer[]) {
  const { view, edit, setShowing } = useOf('view', 'edit', 'setShowing')
  const first = layers[0]!
  const ids = layers.map((l) => l.id)
  const how = first.pin?.how ?? 'full'
  const seen = seenBy(first)
  /** The tracks of the take that it is seen in. */
  const known = Object.values(view!.tracks).filter((t) => seen && knows(t, seen))
  const camera = known.find((t) => !t.patch && !t.touched)
  const pinTo = (track: string) => void edit({ kind: 'pin layers', layers: ids, track, how, at: at(first) })
  return {
    ids,
    how,
    known,
    camera,
    pinTo,
    locked: layers.some((l) => l.locked),
    scene: () => (camera ? pinTo(camera.id) : void follow({ layers: ids, how, at: at(first) })),
    show: (what: 'place' | 'patch') => setShowing({ what, layers: ids }),
    read: () => chooseFiles('.json,application/json', ([file]) => void readTrack(file!, ids, at(first))),
  }
}

/** Reads a track out of a file and pins layers to it. */
async function readTrack(file: File, layers: string[], at: number | null): Promise<void> {
  const { view, playhead, edit, say } = useStudio.getState()
  try {
    const path = { project: view!.project.id }
    const body = { at: playhead, name: file.name, text: await file.text() }
    const read = await answer(api.POST('/api/projects/{project}/tracks', { params: { path }, body }))
    const pinned = { kind: 'pin layers' as const, layers, track: read.id!, how: 'full' as const, at }
    await edit({ kind: 'several', edits: [{ kind: 'add track', track: read as Kept, replaces: null }, pinned] })
  } catch (error) {
    say(error instanceof Refused ? error.message : 'That file could not be read. Try it again.', 'trouble')
  }
}

/** What is not pinned yet. */
function Loose({ layers }: { layers: Layer[] }) {
  const { locked, scene, show, read } = usePinning(layers)
  return (
    <>
      <Flex gap="1.5" wrap="wrap" align="center">
        <Act
          icon={PinIcon}
          hint="Follows the camera, so that this stands in the scene as if it had been filmed there"
          disabled={locked}
          onClick={scene}
        >
          Pin to the scene
        </Act>
        <Tool
          icon={FileInput}
          size={28}
          label="Read a track"
          hint="Pins it to a track out of a file, of the shot that is seen at the playhead"
          disabled={locked}
          onClick={read}
        />
      </Flex>
      <Flex gap="1.5" mt="1.5" wrap="wrap">
        <Act
          hint="Where near and far move apart: choose which to stick to"
          disabled={locked}
          onClick={() => show('place')}
        >
          To a place
        </Act>
        <Act
          hint="Sticks to a small part of the picture that moves by itself"
          disabled={locked}
          onClick={() => show('patch')}
        >
          To a patch
        </Act>
      </Flex>
    </>
  )
}

/** What it is pinned to, how it goes by that, and how far that can be trusted. */
function Pin({ layers, track }: { layers: Layer[]; track: Track }) {
  const { edit } = useOf('edit')
  const { ids, how, known, camera, pinTo, locked, scene, show } = usePinning(layers)
  return (
    <>
      <Row name="Sticks to">
        <Pick
          label="What it sticks to"
          value={track.id}
          disabled={locked}
          groups={{
            Followed: [...new Map([...known, track].map((t) => [t.id, t])).values()].map((t): [string, string] => [
              t.id,
              called(t),
            ]),
            Anew: [
              ...(camera ? [] : [['scene', 'The whole scene'] as [string, string]]),
              ['place', 'A place…'],
              ['patch', 'A patch…'],
            ],
          }}
          onPick={(to) => (to === 'place' || to === 'patch' ? show(to) : to === 'scene' ? scene() : pinTo(to))}
        />
      </Row>
      <Row name="Goes by">
        <Pick
          label="How it is pinned"
          value={how}
          disabled={locked}
          options={WAYS}
          onPick={(to) => void edit({ kind: 'pin layers', layers: ids, track: track.id, how: to as How, at: null })}
        />
      </Row>
      {!track.patch && (
        <Row name="Camera">
          <Pick
            label="How the camera moves"
            value={track.model}
            disabled={locked}
            options={MODELS}
            onPick={(model) => void again(track, (model || null) as Track['model'] | null, ids, how)}
          />
        </Row>
      )}
      <Trust track={track} />
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
      </Flex>
      <TrackTools layers={layers} track={track} />
    </>
  )
}

/** What can be done with a track itself. */
function TrackTools({ layers, track }: { layers: Layer[]; track: Track }) {
  const { edit, showing, setShowing } = useOf('edit', 'showing', 'setShowing')
  const { ids, how, locked, read } = usePinning(layers)
  const fixing = showing?.what === 'fix' && showing.track === track.id
  const right = track.fixed.length > 0
  return (
    <Flex gap="0.5" mt="1.5" wrap="wrap">
      <Tool
        icon={Hand}
        size={28}
        label="Put this frame right"
        hint="Drag it in the picture to where it belongs; the track goes through that"
        on={fixing}
        disabled={locked}
        onClick={() => setShowing(fixing ? null : { what: 'fix', layers: ids, track: track.id })}
      />
      {right && (
        <Tool
          icon={Undo2}
          size={28}
          label="Take back what was put right"
          onClick={() => void edit({ kind: 'fix track', track: track.id, frame: null, by: null })}
        />
      )}
      <Tool
        icon={RefreshCw}
        size={28}
        disabled={locked}
        label="Follow it again"
        hint="From the same frame on; all that is pinned to it goes by that"
        onClick={() => void again(track, null, ids, how)}
      />
      <Tool icon={Download} size={28} label="Write the track" hint="As a JSON file" onClick={() => write(track)} />
      <Tool
        icon={FileInput}
        size={28}
        label="Read a track"
        hint="Out of a file, of the shot that is seen"
        onClick={read}
      />
      <Tool
        icon={Trash2}
        size={28}
        label="Forget how the camera went"
        hint="Lets go of all that is pinned to it"
        onClick={() => void edit({ kind: 'remove track', track: track.id })}
      />
    </Flex>
  )
}

function Row(p: { name: string; children: React.ReactNode }) {
  return (
    <Flex align="center" minH="32px" gap="2">
      <Text flex="1" fontSize="12.5px">
        {p.name}
      </Text>
      <Box w="138px" display="flex">
        {p.children}
      </Box>
    </Flex>
  )
}

/** A track is followed once more, by maps of a model (null: as fits best), from what it was asked for. */
function again(track: Track, model: Track['model'] | null, layers: string[], how: How): Promise<void> {
  const given = { touched: track.touched, patch: track.patch }
  const { view, playhead } = useStudio.getState()
  const item = view!.items.find((i) => i.shot === track.shot && i.frames.includes(track.ref))
  const ref = item ? item.start + item.frames.indexOf(track.ref) : playhead
  const shown = track.touched || track.patch
  const by = model as 'similarity' | 'turn' | 'affine' | 'homography' | null
  return follow({ layers, how, at: shown ? ref : null, model: by, replaces: track.id, ...given })
}

function write(track: Track): void {
  download(`/api/projects/${useStudio.getState().view!.project.id}/tracks/${track.id}.json`)
}

const called = (t: Track) => (t.patch ? `A patch (${t.ref})` : t.touched ? `A place (${t.ref})` : 'The whole scene')

export const knows = (t: Track, seen: { shot: string; frame: number }) =>
  t.shot === seen.shot && t.first <= seen.frame && seen.frame < t.first + t.confidence.length

/** The shot and the frame that a layer was held from, or what is seen at the playhead. */
function seenBy(layer: Layer): { shot: string; frame: number } | null {
  const { view, playhead } = useStudio.getState()
  const own = 'hold' in layer.source && layer.source.hold ? view!.holds[layer.source.hold] : undefined
  if (own) return { shot: own.shot, frame: own.frame }
  const shown = shownAt(view!, playhead)
  return shown && { shot: shown.shot, frame: shown.frame }
}

/** Where what was not held is pinned: as it lies now. */
function at(layer: Layer): number | null {
  return 'hold' in layer.source && layer.source.hold ? null : useStudio.getState().playhead
}
