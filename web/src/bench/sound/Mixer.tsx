import { Box, Flex, Text, chakra } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { Volume2, VolumeX } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { answer, api } from '../../api/client'
import { Heading, Tool } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { SwitchRow } from '../../parts/SwitchRow'
import { useOf, useStudio } from '../../store'
import { player } from '../../sounding/player'

const PARTS = [
  ['footage', 'Footage', 'The footage’s own sound, and voices'],
  ['bed', 'Bed', 'Music and air'],
  ['hits', 'Hits', 'What is put on frames'],
] as const
/** The decibels that a meter begins with, and how many it falls in a second. */
const [LOWEST, FALL] = [-48, 30]

/** Three parts with faders and meters, how the bed steps back, and how loud the whole is. */
export function Mixer() {
  const { view, edit } = useOf('view', 'edit')
  const mix = view!.project.mix
  const set = (changes: Record<string, unknown>) => void edit({ kind: 'change mix', changes })
  const { data: is } = useQuery({
    queryKey: ['loudness', view!.project.id, view!.sound],
    placeholderData: (before) => before,
    queryFn: () =>
      answer(api.GET('/api/projects/{project}/loudness', { params: { path: { project: view!.project.id } } })),
  })
  const { depth, attack, release, voice, hits } = mix.duck
  return (
    <>
      <Flex justify="space-between" pt="1">
        {PARTS.map(([part, title, hint], n) => (
          <Fader
            key={part}
            title={title}
            hint={hint}
            number={n}
            gain={mix[part].gain}
            muted={mix[part].muted}
            onGain={(gain) => set({ [part]: { gain } })}
            onMute={() => set({ [part]: { muted: !mix[part].muted } })}
          />
        ))}
      </Flex>
      <Heading>The bed steps back</Heading>
      <NumberField
        label="By"
        name="Steps back by"
        unit="dB"
        slider
        min={0}
        max={40}
        track={24}
        step={0.5}
        initial={8}
        value={depth}
        onCommit={(v) => set({ duck: { depth: v } })}
      />
      <Flex gap="2">
        <Box flex="1">
          <NumberField
            narrow
            label="Going"
            unit="s"
            min={0.01}
            max={5}
            step={0.05}
            initial={0.15}
            value={attack}
            onCommit={(v) => set({ duck: { attack: v } })}
          />
        </Box>
        <Box flex="1">
          <NumberField
            narrow
            label="Coming"
            unit="s"
            min={0.01}
            max={5}
            step={0.05}
            initial={0.6}
            value={release}
            onCommit={(v) => set({ duck: { release: v } })}
          />
        </Box>
      </Flex>
      <SwitchRow label="Under voices" on={voice} onChange={(on) => set({ duck: { voice: on } })} />
      <SwitchRow label="Under hits" on={hits} onChange={(on) => set({ duck: { hits: on } })} />
      <Heading>How loud it is sent</Heading>
      <SwitchRow
        label="To a loudness"
        hint="EBU R 128: what phones and networks even all videos out to"
        on={mix.loudness !== null}
        onChange={(on) => set({ loudness: on ? -14 : null })}
      />
      {mix.loudness !== null && (
        <NumberField
          label="Loudness, LUFS"
          name="Loudness of the piece"
          min={-40}
          max={-5}
          step={0.5}
          initial={-14}
          value={mix.loudness}
          onCommit={(loudness) => set({ loudness })}
        />
      )}
      <NumberField
        label="Highest peak, dBTP"
        name="Highest peak"
        min={-12}
        max={0}
        step={0.1}
        initial={-1}
        value={mix.peak}
        onCommit={(peak) => set({ peak })}
      />
      <Text color="soft" fontSize="12px" className="figures" data-testid="loudness">
        {!is || is.loudness === null
          ? 'Nothing is heard yet.'
          : `${is.loudness.toFixed(1)} LUFS, peak ${is.peak?.toFixed(1) ?? '–'} dBTP`}
      </Text>
    </>
  )
}

interface FaderProps {
  title: string
  hint: string
  number: number
  gain: number
  muted: boolean
  onGain: (gain: number) => void
  onMute: () => void
}

/** A fader with its meter beside it. */
function Fader(p: FaderProps) {
  const now = useRef<HTMLInputElement>(null)
  useEffect(() => {
    if (now.current) now.current.value = String(p.gain)
  }, [p.gain])
  return (
    <Flex direction="column" align="center" w="68px" title={p.hint} opacity={p.muted ? 0.6 : 1}>
      <Text fontSize="12px" fontWeight="600">
        {p.title}
      </Text>
      <Flex h="92px" gap="2" align="stretch" my="1">
        <chakra.input
          ref={now}
          type="range"
          aria-label={`${p.title}, fader`}
          min={-40}
          max={12}
          step={0.5}
          defaultValue={p.gain}
          onPointerUp={(e) => p.onGain(Number(e.currentTarget.value))}
          onKeyUp={(e) => p.onGain(Number(e.currentTarget.value))}
          onDoubleClick={() => p.onGain(0)}
          css={{
            writingMode: 'vertical-lr',
            direction: 'rtl',
            accentColor: 'var(--chakra-colors-selected)',
            width: '18px',
          }}
        />
        <Meter number={p.number} title={p.title} />
      </Flex>
      <Text fontSize="12px" className="figures">
        {p.gain > 0 ? '+' : ''}
        {p.gain <= -40 ? p.gain : p.gain.toFixed(1)}
      </Text>
      <Tool
        icon={p.muted ? VolumeX : Volume2}
        size={26}
        on={p.muted}
        label={p.muted ? `Hear ${p.title.toLowerCase()} again` : `Mute ${p.title.toLowerCase()}`}
        onClick={p.onMute}
      />
    </Flex>
  )
}

/** How loud a part of the mix is while it plays: falls slowly, and stands at 0 dB with a line. */
function Meter({ number, title }: { number: number; title: string }) {
  const bar = useRef<HTMLDivElement>(null)
  const playing = useStudio((s) => s.playing)
  useEffect(() => {
    const shownAs = bar.current
    if (!playing || !shownAs) return
    let [timer, shown, before] = [0, LOWEST, performance.now()]
    const tick = (now: number) => {
      const peak = player.levels()[number]!
      const is = peak > 0 ? Math.max(LOWEST, 20 * Math.log10(peak)) : LOWEST
      shown = Math.max(is, shown - ((now - before) / 1000) * FALL)
      before = now
      const share = (shown - LOWEST) / (6 - LOWEST)
      shownAs.style.height = `${Math.max(0, Math.min(100, share * 100))}%`
      shownAs.style.background = `var(--chakra-colors-${shown > 0 ? 'now' : 'sound'})`
      shownAs.dataset.level = shown.toFixed(1)
      timer = requestAnimationFrame(tick)
    }
    timer = requestAnimationFrame(tick)
    return () => {
      cancelAnimationFrame(timer)
      shownAs.style.height = '0'
    }
  }, [playing, number])
  return (
    <Box
      position="relative"
      w="10px"
      bg="rule"
      borderRadius="3px"
      overflow="hidden"
      role="img"
      aria-label={`${title}, level`}
    >
      <Box ref={bar} position="absolute" bottom="0" left="0" right="0" h="0" bg="sound" />
      <Box
        position="absolute"
        left="0"
        right="0"
        h="1px"
        bg="ink"
        bottom={`${(-LOWEST / (6 - LOWEST)) * 100}%`}
        opacity="0.5"
      />
    </Box>
  )
}
