import { Box, Flex, SimpleGrid, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { AudioLines, Sparkles } from 'lucide-react'
import { answer, api, newId } from '../../api/client'
import { Act, Heading } from '../../parts/buttons'
import { useCatalog } from '../../parts/useCatalog'
import { useLayer, useOf, useStudio } from '../../store'
import { LONG } from '../../sky/carried'
import { pickFiles } from '../../parts/pickFiles'
import { roleColour } from '../../theme/system'
import { useListening } from './useListening'
import { outline } from './wave'

/** The hits and the shelf's sounds: rest on one to hear it, press it to put it on the frame. */
export function Hits() {
  const { view, chooseCue, edit } = useOf('view', 'chooseCue', 'edit')
  const found = useLayer()
  const hits = (useCatalog()?.sounds ?? []).filter((s) => s.kind !== 'shelved')
  const { data: waves } = useQuery({ queryKey: ['hits'], queryFn: () => answer(api.GET('/api/hits')) })
  const listen = useListening()
  const shelf = Object.values(view!.assets).filter((a) => a.kind === 'sound')
  const project = view!.project
  const layer = found?.layer
  /** What a new sound is tied to: the layer that is chosen, if it is there now; else what lies in the ground. */
  const tie = (playhead: number) => {
    const along =
      found?.info.start != null && found.info.end != null && found.info.start <= playhead && playhead < found.info.end
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
  const add = async (sound: Record<string, unknown>, long = false) => {
    const id = newId()
    listen.stop()
    const { playhead } = useStudio.getState()
    const at = long ? { to: 'start' as const, layer: null, item: null, offset: playhead } : tie(playhead)
    const made = { kind: 'add cue' as const, sound: sound as never, tie: at, gain: -3, cue: id }
    if (await edit(made)) chooseCue(id)
  }
  return (
    <>
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
            pt="2px"
            h="46px"
            textAlign="left"
            cursor="pointer"
            overflow="hidden"
            _hover={{ borderColor: 'selected' }}
            onPointerMove={() => listen.rest(`/api/hits/${h.kind}.wav`)}
            onPointerLeave={listen.stop}
            onClick={() => void add({ kind: h.kind })}
          >
            <Text fontSize="12px" fontWeight="600" truncate>
              {h.title}
            </Text>
            <svg viewBox="0 0 80 22" width="100%" height="22" preserveAspectRatio="none" aria-hidden="true">
              <path d={outline(waves?.[h.kind] ?? [], 80, 22)} fill={roleColour('sound')} opacity="0.8" />
            </svg>
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
          onClick={() => void add({ kind: 'shelved', asset: a.id, stored: a.file }, a.seconds > LONG)}
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
    </>
  )
}
