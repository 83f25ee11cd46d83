import { Box, Flex, SimpleGrid, Text } from '@chakra-ui/react'
import { AudioLines, Sparkles } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { newId } from '../../api/client'
import { Act, Empty, Heading } from '../../parts/buttons'
import { useCatalog } from '../../parts/useCatalog'
import { useLayer, useOf } from '../../shell/store'
import { pickFiles } from '../../shelf/pickFiles'
import { CueSettings } from './CueSettings'

/** Beside a wide picture the bench is narrow: all sounds are then listed below the one that is shaped. */
const NARROW = '@container (max-width: 880px)'
/** How long the pointer rests on a sound before it is heard. */
const PAUSE = 180

/** Where sounds are chosen and heard (left), the chosen one is shaped (middle), and all of them are listed (right). */
export function Sound() {
  const { view, cue: chosen, chooseCue, edit, playhead } = useOf('view', 'cue', 'chooseCue', 'edit', 'playhead')
  const found = useLayer()
  const hits = (useCatalog()?.sounds ?? []).filter((s) => s.kind !== 'shelved')
  const project = view!.project
  const shelf = Object.values(view!.assets).filter((a) => a.kind === 'sound')
  const listen = useListening()
  const cue = project.cues.find((c) => c.id === chosen)
  const layer = found?.layer
  const along =
    found?.info.start != null && found.info.end != null && found.info.start <= playhead && playhead < found.info.end
  /** What a new sound is tied to: the layer that is chosen, if it is there now; else what lies in the ground. */
  const tie = () => {
    if (layer && along) {
      const from = found!.info.landing ?? found!.info.start!
      const to = found!.info.landing != null ? 'landing' : 'start'
      return { to: to as 'landing' | 'start', layer: layer.id, item: null, offset: playhead - from }
    }
    const item = view!.items.find((i) => i.start <= playhead && playhead < i.start + i.length)
    return item
      ? { to: 'start' as const, layer: null, item: item.id, offset: playhead - item.start }
      : { to: 'start' as const, layer: null, item: null, offset: playhead }
  }
  const add = async (sound: Record<string, unknown>) => {
    const id = newId()
    listen.stop()
    const made = { kind: 'add cue' as const, sound: sound as never, tie: tie(), gain: -3, cue: id }
    if (await edit(made)) chooseCue(id)
  }
  if (!view!.length)
    return (
      <Empty
        title="Sound"
        action={
          <Act main onClick={() => pickFiles()}>
            Import a video
          </Act>
        }
      >
        Hits, music and voices are put on frames here, and stay with what happens there.
      </Empty>
    )
  return (
    <Flex h="100%" minH="0" css={{ containerType: 'inline-size' }}>
      <Box
        w="372px"
        flexShrink="0"
        borderRight="1px solid {colors.rule}"
        overflowY="auto"
        px="3"
        pb="3"
        css={{ [NARROW]: { width: '300px' } }}
      >
        <Heading
          aside={
            layer && (
              <Act
                icon={Sparkles}
                hint="Puts on it what fits how it comes, lands and leaves"
                onClick={() => void edit({ kind: 'sound move', layer: layer.id })}
              >
                Sound {layer.name}
              </Act>
            )
          }
        >
          Hits
        </Heading>
        <SimpleGrid columns={3} gap="1.5">
          {hits.map((h) => (
            <Box
              as="button"
              key={h.kind}
              aria-label={`Add ${h.title}`}
              title={`${h.hint}. Rest on it to hear it, press to put it on the frame`}
              border="1px solid {colors.rule}"
              borderRadius="soft"
              bg="card"
              px="2"
              h="44px"
              textAlign="left"
              cursor="pointer"
              _hover={{ borderColor: 'selected' }}
              onPointerMove={() => listen.rest(`/api/hits/${h.kind}.wav`)}
              onPointerLeave={listen.stop}
              onClick={() => void add({ kind: h.kind })}
            >
              <Text fontSize="13px" fontWeight="600" truncate>
                {h.title}
              </Text>
              <Text fontSize="11px" color="soft" truncate>
                {h.hint}
              </Text>
            </Box>
          ))}
        </SimpleGrid>
        <Heading aside={<Act onClick={() => pickFiles()}>Import</Act>}>Sounds of the shelf</Heading>
        {shelf.length === 0 && (
          <Text color="soft">None yet: music, a voice, a noise. Import one, or drop it anywhere.</Text>
        )}
        {shelf.map((a) => (
          <Flex
            as="button"
            key={a.id}
            aria-label={`Add ${a.name}`}
            align="center"
            gap="2"
            w="100%"
            minH="32px"
            textAlign="left"
            cursor="pointer"
            _hover={{ bg: 'paper' }}
            onPointerMove={() => listen.rest(`/api/projects/${project.id}/assets/${a.id}.wav`)}
            onPointerLeave={listen.stop}
            onClick={() => void add({ kind: 'shelved', asset: a.id, stored: a.file })}
          >
            <AudioLines size={15} />
            <Text flex="1" truncate>
              {a.name}
            </Text>
            <Text color="soft" fontSize="12px" className="figures">
              {Number(a.seconds.toFixed(1))} s
            </Text>
          </Flex>
        ))}
      </Box>
      <Flex flex="1" minW="0" css={{ [NARROW]: { display: 'block', overflowY: 'auto' } }}>
        <Box flex="1" minW="0" overflowY="auto" px="3" pb="3">
          {cue ? (
            <CueSettings key={cue.id} cue={cue} />
          ) : (
            <Empty title={project.cues.length ? 'Choose a sound' : 'Hits on the frame'}>
              {project.cues.length
                ? 'Press one below the ground, or at the right.'
                : 'Go to the frame where something happens and press a sound: it stays with what is chosen there, whatever is trimmed.'}
            </Empty>
          )}
        </Box>
        <Box
          w="220px"
          flexShrink="0"
          borderLeft="1px solid {colors.rule}"
          overflowY="auto"
          px="3"
          pb="3"
          css={{ [NARROW]: { width: 'auto', borderLeft: 'none', borderTop: '1px solid {colors.rule}' } }}
        >
          <Heading>All sounds</Heading>
          {project.cues.map((c) => (
            <Flex
              as="button"
              key={c.id}
              align="center"
              w="100%"
              minH="28px"
              px="1.5"
              borderRadius="soft"
              textAlign="left"
              cursor="pointer"
              bg={c.id === chosen ? 'selectedWash' : undefined}
              onClick={() => chooseCue(c.id!)}
            >
              <Text flex="1" truncate opacity={c.muted ? 0.5 : 1}>
                {c.name}
              </Text>
              <Text color="soft" fontSize="12px" className="figures">
                {view!.cues[c.id!]?.frame ?? 'waits'}
              </Text>
            </Flex>
          ))}
        </Box>
      </Flex>
    </Flex>
  )
}

/** What the pointer rests on is heard until it leaves. */
function useListening() {
  const timer = useRef(0)
  const heard = useRef<HTMLAudioElement | null>(null)
  const stop = () => {
    clearTimeout(timer.current)
    timer.current = 0
    heard.current?.pause()
    heard.current = null
  }
  useEffect(() => stop, [])
  const rest = (url: string) => {
    if (timer.current || heard.current) return
    timer.current = window.setTimeout(() => {
      const audio = new Audio(url)
      heard.current = audio
      // A browser that plays nothing before the first press is not asked again.
      audio.play().catch(() => undefined)
    }, PAUSE)
  }
  return { rest, stop }
}
