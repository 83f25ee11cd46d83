import { Flex } from '@chakra-ui/react'
import { Drum, Hand } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { answer, api, type Edit } from '../../api/client'
import type { View } from '../../api/view'
import { Act, Heading } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { Pick } from '../../parts/Pick'
import { player } from '../../sounding/player'
import { chosenLayers, useOf, useStudio } from '../../store'

type Cue = View['project']['cues'][number]
/** Taps that lie farther apart than that, in milliseconds, are two goes. */
const GO = 2000

/** The beats of a sound, put right, and moments brought onto them. */
export function Beats({ cue }: { cue: Cue }) {
  const { view, edit, say } = useOf('view', 'edit', 'say')
  const place = view!.cues[cue.id!]
  const [busy, setBusy] = useState(false)
  const correct = (changes: Omit<Extract<Edit, { kind: 'correct beats' }>, 'kind' | 'cue'>) =>
    void edit({ kind: 'correct beats', cue: cue.id!, ...changes })
  const find = async () => {
    setBusy(true)
    try {
      const path = { project: view!.project.id, cue: cue.id! }
      const counted = await answer(api.GET('/api/projects/{project}/cues/{cue}/beats', { params: { path } }))
      await edit({ kind: 'change cue', cue: cue.id!, changes: { counted } })
    } catch (error) {
      say((error as Error).message)
    }
    setBusy(false)
  }
  const tap = useTapping((taps) => correct({ taps }))
  if (!place) return null
  const has = place.bpm > 0
  const bar = (cue.counted ?? view!.assets[(cue.sound as { asset?: string }).asset ?? '']?.beats)?.bar ?? 4
  return (
    <>
      <Heading
        aside={
          <Flex gap="1.5">
            <Act
              icon={Hand}
              hint="Tap along while it plays, the first tap on the first beat of a bar"
              onClick={tap.tap}
            >
              {tap.count ? `Tap ${tap.count}` : 'Tap along'}
            </Act>
            {(!has || cue.counted) && (
              <Act icon={Drum} disabled={busy} hint="Listens to the sound for its beats" onClick={() => void find()}>
                {has ? 'As found' : 'Find beats'}
              </Act>
            )}
          </Flex>
        }
      >
        <span className="figures">{has ? `${place.bpm.toFixed(1)} beats a minute` : 'No beats yet'}</span>
      </Heading>
      {has && (
        <>
          <Flex gap="1.5" align="center" wrap="wrap">
            <Act hint="Counts twice as fast" onClick={() => correct({ times: 'twice' })}>
              × 2
            </Act>
            <Act hint="Counts half as fast" onClick={() => correct({ times: 'half' })}>
              ÷ 2
            </Act>
            <Act hint="The beat at the playhead, or next to it, begins a bar" onClick={() => barHere(cue, correct)}>
              Bar begins here
            </Act>
            <Flex flex="1" minW="96px">
              <NumberField
                narrow
                label="In a bar"
                min={1}
                max={12}
                initial={4}
                value={bar}
                onCommit={(n) => correct({ bar: n })}
              />
            </Flex>
          </Flex>
          <OnBeats />
        </>
      )}
    </>
  )
}

function barHere(cue: Cue, correct: (changes: { first: number }) => void): void {
  const { view, playhead } = useStudio.getState()
  const beats = view?.cues[cue.id!]?.beats ?? []
  const near = beats.reduce<(typeof beats)[number] | null>(
    (best, b) => (!best || Math.abs(b.frame - playhead) < Math.abs(best.frame - playhead) ? b : best),
    null,
  )
  if (near) correct({ first: near.number })
}

/** Brings what is chosen in the sky, or all flagged moments, onto the beats. */
function OnBeats() {
  const { view, edit } = useOf('view', 'edit')
  const layer = useStudio((s) => chosenLayers(s).join(' '))
  const [every, setEvery] = useState('1')
  const [by, setBy] = useState<'speed' | 'trimming'>('speed')
  const layers = layer ? layer.split(' ') : []
  const moments = Object.values(view!.shots).flatMap((s) => s.moments.map((m) => m.id))
  const some = layers.length ? layers.length : moments.length
  return (
    <>
      <Heading>Holds on the beat</Heading>
      <Flex gap="1.5" align="center" mb="1.5">
        <Pick
          label="Every so many beats"
          value={every}
          options={[
            ['1', 'Every beat'],
            ['2', 'Every 2nd beat'],
            ['4', 'Every 4th beat'],
            ['8', 'Every 8th beat'],
          ]}
          onPick={setEvery}
        />
        <Pick
          label="How they get there"
          value={by}
          options={[
            ['speed', 'by speed'],
            ['trimming', 'by trimming'],
          ]}
          onPick={(v) => setBy(v as typeof by)}
        />
      </Flex>
      <Act
        main
        disabled={!some}
        hint="What lies between them in the ground is made faster, slower or shorter for that"
        onClick={() =>
          void edit({
            kind: 'holds on beats',
            layers,
            moments: layers.length ? [] : moments,
            every: Number(every),
            by,
          })
        }
      >
        {layers.length
          ? `Put ${layers.length === 1 ? view!.project.layers.find((l) => l.id === layer)?.name : `${layers.length} layers`} on the beat`
          : 'Put all moments on the beat'}
      </Act>
    </>
  )
}

/** Counts taps, and tells the frames at which they were made once there is a pause. */
function useTapping(done: (frames: number[]) => void) {
  const taps = useRef<number[]>([])
  const timer = useRef(0)
  const [count, setCount] = useState(0)
  useEffect(() => () => clearTimeout(timer.current), [])
  const tap = () => {
    const { view, playing, play, say } = useStudio.getState()
    if (!view) return
    if (!playing) {
      play(true)
      say('Tap along with what you hear: the first tap on the first beat of a bar.')
      return
    }
    taps.current.push(player.frame())
    clearTimeout(timer.current)
    setCount(taps.current.length)
    timer.current = window.setTimeout(() => {
      const frames = taps.current
      taps.current = []
      setCount(0)
      if (frames.length >= 3) done(frames)
    }, GO)
  }
  return { tap, count }
}
