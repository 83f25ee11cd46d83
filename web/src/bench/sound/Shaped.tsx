import { Flex } from '@chakra-ui/react'
import { Scissors, Trash2, Unlink } from 'lucide-react'
import { newId } from '../../api/client'
import type { View } from '../../api/view'
import { Tool } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { Heading } from '../../parts/buttons'
import { Pick } from '../../parts/Pick'
import { useCatalog } from '../../parts/useCatalog'
import { rateOf, timecode, useOf, useStudio } from '../../store'
import { begun, ended } from '../../ground/cues'
import { Beats } from './Beats'
import { type Chosen, useSounding } from './chosen'
import { WaveView } from './WaveView'

type Cue = View['project']['cues'][number]

/** The sound that is chosen, large, with what it is made of; and a list to choose another. */
export function Shaped() {
  const chosen = useSounding()
  return (
    <>
      <Flex align="center" gap="1" minH="38px">
        <Choice chosen={chosen} />
        {chosen?.cue && <CueTools cue={chosen.cue} />}
        {chosen?.item && <Detach item={chosen.item.id!} name={chosen.name} />}
      </Flex>
      {chosen?.cue && <CueWave cue={chosen.cue} />}
      {chosen?.item && <ItemWave chosen={chosen} />}
      {chosen?.cue && <Making cue={chosen.cue} />}
      {chosen?.cue?.sound.kind === 'shelved' && <Beats cue={chosen.cue} />}
    </>
  )
}

/** All sounds of the piece, those put on frames and the footage's own. */
function Choice({ chosen }: { chosen: Chosen | null }) {
  const { view, chooseCue, chooseItem, seek } = useOf('view', 'chooseCue', 'chooseItem', 'seek')
  const cues = view!.project.cues.map((c): [string, string] => {
    const frame = view!.cues[c.id!]?.frame
    return [c.id!, `${c.name} – ${frame == null ? 'waits' : timecode(Math.max(0, frame), view!.project.rate)}`]
  })
  const footage = view!.items
    .filter((i) => i.shot && view!.shots[i.shot]?.has_sound)
    .map((i): [string, string] => [i.id, `${i.name} – ${timecode(i.start, view!.project.rate)}`])
  const value = chosen?.cue?.id ?? chosen?.item?.id ?? ''
  return (
    <Pick
      label="The sound that is shaped"
      value={value}
      options={value ? [] : [['', 'Choose a sound']]}
      groups={{ ...(cues.length ? { 'On frames': cues } : {}), ...(footage.length ? { Footage: footage } : {}) }}
      onPick={(id) => {
        if (view!.project.cues.some((c) => c.id === id)) return chooseCue(id)
        chooseCue(null)
        chooseItem(id)
        const item = view!.items.find((i) => i.id === id)
        if (item) seek(item.start)
      }}
    />
  )
}

function CueTools({ cue }: { cue: Cue }) {
  const { edit, chooseCue } = useOf('edit', 'chooseCue')
  return (
    <>
      <Tool
        icon={Scissors}
        size={28}
        label={`Cut ${cue.name} at the playhead`}
        onClick={() => {
          const second = newId()
          const at = useStudio.getState().playhead
          void edit({ kind: 'split cue', cue: cue.id!, at, second }).then((done) => done && chooseCue(second))
        }}
      />
      <Tool
        icon={Trash2}
        size={28}
        label={`Remove ${cue.name}`}
        onClick={() => {
          chooseCue(null)
          void edit({ kind: 'remove cues', cues: [cue.id!] })
        }}
      />
    </>
  )
}

function Detach({ item, name }: { item: string; name: string }) {
  const { edit, chooseCue } = useOf('edit', 'chooseCue')
  return (
    <Tool
      icon={Unlink}
      size={28}
      label={`Detach the sound of ${name}`}
      hint="Makes a sound of its own out of it, to be moved, cut and changed by itself"
      onClick={() => {
        const cue = newId()
        void edit({ kind: 'detach sound', item, cue }).then((done) => done && chooseCue(cue))
      }}
    />
  )
}

function CueWave({ cue }: { cue: Cue }) {
  const { view, edit, seek } = useOf('view', 'edit', 'seek')
  const place = view!.cues[cue.id!]
  if (!place) return null
  const rate = rateOf(view!.project.rate)
  const speed = (cue.speed ?? 100) / 100
  const skip = cue.skip ?? 0
  const set = (changes: Record<string, unknown>) => void edit({ kind: 'change cue', cue: cue.id!, changes })
  // Of what goes on after the piece nothing is heard.
  const lasts = Math.max(0.02, (Math.min(place.end, view!.length) - place.start) / rate)
  const past = Math.min(place.seconds, skip + lasts * speed)
  const second = (frame: number) => skip + ((frame - place.start) / rate) * speed
  const frame = (at: number) => place.start + ((at - skip) / speed) * rate
  return (
    <WaveView
      name={cue.name}
      of={{ cue: cue.id! }}
      version={JSON.stringify(cue.sound)}
      seconds={place.seconds}
      heard={[skip, Math.max(skip + 0.01, past)]}
      fades={[((cue.fade_in ?? 0) / rate) * speed, ((cue.fade_out ?? 0) / rate) * speed]}
      gain={cue.gain ?? 0}
      line={cue.line ?? []}
      now={(frame) => (frame >= place.start && frame <= place.end ? second(frame) : null)}
      beats={place.beats.map((b) => ({ second: second(b.frame), number: b.number, bar: b.bar }))}
      accents={place.accents.map(second)}
      clock={(at) => `${at.toFixed(2)} s`}
      onGain={(gain) => set({ gain })}
      onLine={(line) => set({ line })}
      onFade={(end, s) => set({ [end === 'in' ? 'fade_in' : 'fade_out']: Math.round((s / speed) * rate) })}
      onTrim={(end, to) => set(end === 'start' ? begun(cue, place, rate, to) : ended(cue, to))}
      onSlip={(by) => set({ skip: round(Math.max(0, Math.min(place.seconds - 0.02, skip + by))) })}
      onBeat={(number, to, alone) => void edit({ kind: 'correct beats', cue: cue.id!, moved: { number, to, alone } })}
      onSeek={(at) => seek(Math.floor(frame(at)))}
    />
  )
}

const round = (x: number) => Math.round(x * 10000) / 10000
function ItemWave({ chosen }: { chosen: Chosen }) {
  const { view, edit, seek } = useOf('view', 'edit', 'seek')
  const item = chosen.item!
  const place = view!.items.find((i) => i.id === item.id)
  const shot = place?.shot ? view!.shots[place.shot] : undefined
  if (!place || !shot) return null
  const loud = item.loudness
  const rate = rateOf(view!.project.rate)
  const set = (changes: Record<string, unknown>) => void edit({ kind: 'change loudness', items: [item.id!], changes })
  // A shot's frames as seconds: as even as they are on the whole.
  const per = shot.seconds / Math.max(1, shot.frames)
  const [first, past] = place.range ?? [place.frames[0]!, place.frames[0]! + Math.round(place.length / rate / per)]
  const heard: [number, number] = [first * per, Math.min(shot.frames, past) * per]
  const speed = (heard[1] - heard[0]) / (place.length / rate)
  const within = (frame: number) => frame >= place.start && frame < place.start + place.length
  return (
    <WaveView
      name={chosen.name}
      of={{ shot: place.shot! }}
      version={place.shot!}
      seconds={shot.seconds}
      heard={heard}
      fades={[(loud.fade_in / rate) * speed, (loud.fade_out / rate) * speed]}
      gain={loud.gain}
      line={loud.line.map((c) => ({ at: c.at * per, gain: c.gain }))}
      now={(frame) => (within(frame) ? heard[0] + ((frame - place.start) / rate) * speed : null)}
      clock={(at) => `${at.toFixed(2)} s`}
      onGain={(gain) => set({ gain })}
      onLine={(line) => set({ line: line.map((c) => ({ at: round(c.at / per), gain: c.gain })) })}
      onFade={(end, s) => set({ [end === 'in' ? 'fade_in' : 'fade_out']: Math.round((s / speed) * rate) })}
      onSeek={(at) => seek(Math.floor(place.start + ((at - heard[0]) / speed) * rate))}
    />
  )
}

/** What a hit is made of. */
function Making({ cue }: { cue: Cue }) {
  const edit = useStudio((s) => s.edit)
  const kind = useCatalog()?.sounds.find((s) => s.kind === cue.sound.kind)
  if (!kind || kind.kind === 'shelved') return null
  const newest = () => useStudio.getState().view!.project.cues.find((c) => c.id === cue.id) ?? cue
  return (
    <>
      <Heading>{kind.title}</Heading>
      <Controls
        schema={kind.settings}
        values={cue.sound as unknown as Record<string, unknown>}
        onDraft={() => undefined}
        onCommit={(name, value) =>
          void edit({
            kind: 'change cue',
            cue: cue.id!,
            changes: { sound: { ...newest().sound, [name]: value } },
          })
        }
      />
    </>
  )
}
