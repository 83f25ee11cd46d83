import { Box, Flex, Text } from '@chakra-ui/react'
import { CopyPlus, Crosshair, Trash2, Ungroup } from 'lucide-react'
import type { Layer, LayerView } from '../../api/client'
import { Act, Choice, Empty, Heading } from '../../parts/buttons'
import { Pick } from '../../parts/Pick'
import { useCatalog } from '../../parts/useCatalog'
import { withKey } from '../../shell/keys'
import { timecode, useLayer, useOf, useStudio } from '../../shell/store'
import { Ends } from './Ends'
import { KeyChart } from './KeyChart'
import { KeyDetail } from './KeyDetail'
import { Several } from './Several'
import { Shown } from './Shown'
import { CHANNELS, Values } from './Values'

/** Where the layer is, how it gets there, and by which curve. */
export function Fly() {
  const found = useLayer()
  const go = useStudio((s) => s.go)
  const several = useStudio((s) => s.moreLayers.length > 0)
  if (found && several) return <Several />
  if (!found) {
    return (
      <Empty
        title="Fly the cutout"
        action={
          <Act main onClick={() => go('catch')}>
            Catch a frame
          </Act>
        }
      >
        Choose a cutout in the sky: drag it on the picture, set keys, and choose how it eases from one to the next.
      </Empty>
    )
  }
  return <FlyLayer layer={found.layer} info={found.info} rate={found.view.project.rate} />
}

function FlyLayer({ layer, info, rate }: { layer: Layer; info: LayerView; rate: string }) {
  const { edit, playhead, seek, key: keyId, chooseKey } = useOf('edit', 'playhead', 'seek', 'key', 'chooseKey')
  const catalog = useCatalog()
  const chosen = layer.keys.find((k) => k.id === keyId) ?? null
  const arrangements = (catalog?.arrangements ?? []).filter(
    (a) =>
      a.kind === layer.arrangement.kind || (info.suits.includes(a.kind) && (info.moves || !a.on.includes('moving'))),
  )
  const channels = [...CHANNELS, ...settingsWithKeys(layer, catalog?.finishes ?? [])]
  return (
    <Flex h="100%" minH="0">
      <Box w="262px" flexShrink="0" borderRight="1px solid {colors.rule}" overflowY="auto" px="4" pb="3">
        <Heading>Arrangement</Heading>
        <Choice
          label="Arrangement"
          value={layer.arrangement.kind}
          onChange={(kind) =>
            void edit({
              kind: 'change layer',
              layer: layer.id,
              arrangement: { kind } as Layer['arrangement'],
              clear: [],
            })
          }
          options={arrangements.map((a) => ({ value: a.kind, label: a.title, hint: a.hint }))}
        />
        <Text color="soft" mt="2" className="figures">
          {spanWords(layer.arrangement.kind, info, rate)}
        </Text>
        <Ends layer={layer} info={info} />
        <Values layer={layer} info={info} rate={rate} />
        <Flex align="center" minH="30px" gap="2">
          <Text flex="1">Blend</Text>
          <Flex w="140px">
            <Pick
              label="Blend with what lies below"
              value={layer.blend}
              disabled={layer.locked}
              groups={blendGroups(catalog?.blends ?? {})}
              onPick={(blend) =>
                void edit({ kind: 'change layer', layer: layer.id, blend: blend as Layer['blend'], clear: [] })
              }
            />
          </Flex>
        </Flex>
        <Shown layer={layer} info={info} />
        <Flex gap="2" mt="3" wrap="wrap">
          {info.gathers && (
            <Act
              icon={Ungroup}
              hint="Takes the group away; its layers stay where they are seen"
              disabled={layer.locked}
              onClick={() => void edit({ kind: 'dissolve', group: layer.id })}
            >
              Dissolve
            </Act>
          )}
          <Act
            icon={Crosshair}
            hint="Back onto its own frame: no keys, no offset, turn, scale or fade"
            disabled={layer.locked}
            onClick={() => void edit({ kind: 'put at rest', layer: layer.id })}
          >
            At rest
          </Act>
          <Act
            icon={CopyPlus}
            hint={withKey('A copy that shares its hold', 'duplicate')}
            onClick={() => void edit({ kind: 'duplicate layer', layer: layer.id })}
          >
            Duplicate
          </Act>
          <Act
            icon={Trash2}
            hint={withKey('Remove the layer', 'remove')}
            disabled={layer.locked}
            onClick={() => void edit({ kind: 'remove layer', layer: layer.id })}
          >
            Remove
          </Act>
        </Flex>
      </Box>
      <Flex direction="column" flex="1" minW="0" minH="0" overflowY="auto" px="4" pb="3">
        <Heading>Keys of {layer.name}</Heading>
        {info.start == null || info.end == null || info.landing == null ? (
          <Text color="soft">Put its footage back into the ground to animate it.</Text>
        ) : (
          <KeyChart
            layer={layer}
            channels={channels}
            keys={info.keys}
            start={info.start}
            end={info.end}
            landing={info.landing}
            playhead={playhead}
            chosen={keyId}
            onChoose={(id) => {
              chooseKey(id)
              seek(info.keys[id] ?? playhead)
            }}
          />
        )}
        {chosen ? (
          <KeyDetail key={chosen.id} layer={layer} k={chosen} frame={info.keys[chosen.id] ?? 0} info={info} />
        ) : (
          <Text color="soft" mt="3" maxW="60ch">
            {layer.keys.length
              ? 'Choose a key to tie it to the start, the landing or the end, and to shape the way to the next one.'
              : 'Nothing moves yet. Go to a frame, press a kite beside a value to set a key, go to another frame and change the value there.'}
          </Text>
        )}
      </Flex>
    </Flex>
  )
}

/** The modes of each group, written for people: "Color burn". */
export function blendGroups(blends: Record<string, string[]>): Record<string, [string, string][]> {
  const word = (mode: string) => (mode.charAt(0).toUpperCase() + mode.slice(1)).replace('-', ' ')
  return Object.fromEntries(
    Object.entries(blends).map(([group, modes]) => [group, modes.map((m): [string, string] => [m, word(m)])]),
  )
}

function spanWords(kind: string, info: LayerView, rate: string): string {
  if (info.start == null || info.end == null || info.landing == null)
    return `${info.waits ?? 'It has no place in the piece'}.`
  const [start, landing, end] = [info.start, info.landing, info.end].map((f) => timecode(f, rate))
  if (kind === 'standstill') return `While everything stands still, from ${start} until ${end}.`
  if (kind === 'arrival') return `From ${start} until it lands on the cut, ${landing}.`
  if (kind === 'departure') return `From the cut, ${landing}, until ${end}.`
  if (info.free.length === 2) return `Free, from ${start} until ${end}.`
  if (info.free[0] === 'end') return `From its own frame, ${landing}, until ${end}.`
  if (info.free[0] === 'start') return `From ${start} until its own frame, ${landing}.`
  return `Runs along with the footage from ${start} until ${end}.`
}

/** The channels of finishes' settings that have keys, and what they are called. */
function settingsWithKeys(
  layer: Layer,
  finishes: { kind: string; title: string; settings: Record<string, unknown> }[],
): [string, string][] {
  const names = [...new Set(layer.keys.map((k) => k.channel).filter((c) => c.includes('.')))]
  return names.map((name) => {
    const [id, setting = ''] = name.split('.')
    const kind = finishes.find((f) => f.kind === layer.finishes.find((x) => x.id === id)?.kind)
    const properties = (kind?.settings.properties ?? {}) as Record<string, { title?: string }>
    return [name, properties[setting]?.title ?? setting]
  })
}
