import { Box, Flex, Text } from '@chakra-ui/react'
import { CopyPlus, Crosshair, FlipHorizontal2, FlipVertical2, Trash2, Ungroup } from 'lucide-react'
import type { GroundItem, Layer, LayerView } from '../../api/client'
import { Act, Choice, Empty, Tool } from '../../parts/buttons'
import { Fold } from '../../parts/Fold'
import { Pick } from '../../parts/Pick'
import { useCatalog } from '../../parts/useCatalog'
import { withKey } from '../../parts/keys'
import { chosenLayers, timecode, useOf, useStudio } from '../../store'
import { AlignBar } from './AlignBar'
import { Blurred } from './Blurred'
import { Chosen } from '../../parts/Chosen'
import { Ends } from './Ends'
import { KeepRecipe } from './KeepRecipe'
import { Gallery } from './Gallery'
import { Middle } from './Middle'
import { Pinned } from './Pinned'
import { PathSettings } from './PathSettings'
import { PushPanel } from './PushPanel'
import { Several } from './Several'
import { Shaking } from './Shaking'
import { Shown } from './Shown'
import { Steadied } from './Steadied'
import { useMotion } from './useMotion'
import { GroundValues, LayerValues } from './Values'
import { blendGroups } from '../../parts/blends'

/** Where motion is chosen (left), seen and shaped (middle), and read in numbers (right), for the selected thing. */
export function Fly() {
  const { view, layer, moreLayers, item, go } = useOf('view', 'layer', 'moreLayers', 'item', 'go')
  const ids = chosenLayers({ layer, moreLayers })
  const layers = ids.flatMap((id) => view!.project.layers.filter((l) => l.id === id))
  const ground = view!.project.ground.find((g) => g.id === item)
  const owners: (Layer | GroundItem)[] = layers.length ? layers : ground ? [ground] : []
  const motion = useMotion(owners.map((o) => o.id))
  if (!view!.project.ground.length)
    return (
      <Empty
        title="Fly the cutout"
        action={
          <Act main onClick={() => go('catch')}>
            Catch a frame
          </Act>
        }
      >
        A frozen picture comes alive by how it moves. Import footage, hold a frame of it, and choose here how it comes
        and goes.
      </Empty>
    )
  const info = layers.length === 1 ? view!.layers[layers[0]!.id] : undefined
  return (
    <Flex h="100%" minH="0">
      <Box w="246px" flexShrink="0" borderRight="1px solid {colors.rule}" overflowY="auto" px="3" pb="3" pt="2">
        <Chosen owners={owners} />
        {layers.length > 0 ? <Gallery key={layers[0]!.id} layers={layers} /> : <Shaking item={ground ?? null} />}
      </Box>
      <Flex direction="column" flex="1" minW="0" minH="0" px="3" py="2">
        <Middle owners={owners} layers={layers} motion={motion} />
      </Flex>
      <Box
        w={layers.length > 1 ? '256px' : '232px'}
        flexShrink="0"
        borderLeft="1px solid {colors.rule}"
        overflowY="auto"
        px="3"
        pb="3"
      >
        {layers.length > 1 ? (
          <Several layers={layers} />
        ) : layers[0] && info ? (
          <LayerColumn layer={layers[0]} info={info} />
        ) : ground ? (
          <GroundColumn item={ground} larger={motion?.owners[0]?.motion.larger ?? 1} />
        ) : (
          <PieceColumn larger={motion?.larger ?? 1} />
        )}
      </Box>
    </Flex>
  )
}

function At() {
  const { view, settled } = useOf('view', 'settled')
  return <span className="figures">At {timecode(settled, view!.project.rate)}</span>
}

function LayerColumn({ layer, info }: { layer: Layer; info: LayerView }) {
  const { edit, view } = useOf('edit', 'view')
  const catalog = useCatalog()
  const arrangements = (catalog?.arrangements ?? []).filter(
    (a) =>
      a.kind === layer.arrangement.kind || (info.suits.includes(a.kind) && (info.moves || !a.on.includes('moving'))),
  )
  const flip = (side: 'width' | 'height') =>
    void edit(() => {
      const newest = useStudio.getState().view?.project.layers.find((l) => l.id === layer.id)
      if (!newest) return null
      const value = [-newest.pose[side]]
      const frame = useStudio.getState().playhead
      return { kind: 'set value', layer: layer.id, channel: side, frame, value, key: false, shift: true }
    })
  return (
    <>
      <Fold name="values" title={<At />}>
        <LayerValues layer={layer} info={info} />
        <Flex align="center" justify="space-between" mt="0.5">
          <AlignBar layers={[layer.id]} disabled={layer.locked} />
        </Flex>
        <Flex gap="1" align="center">
          <Act
            icon={Crosshair}
            hint="Back onto its own frame: no keys, no move, no offset, turn, scale or fade"
            disabled={layer.locked}
            onClick={() => void edit({ kind: 'put at rest', layer: layer.id })}
          >
            At rest
          </Act>
          <Tool
            icon={FlipHorizontal2}
            size={28}
            label="Flip, left to right"
            disabled={layer.locked}
            onClick={() => flip('width')}
          />
          <Tool
            icon={FlipVertical2}
            size={28}
            label="Flip, top to bottom"
            disabled={layer.locked}
            onClick={() => flip('height')}
          />
        </Flex>
      </Fold>
      <Fold name="span" title="Span">
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
        <Text color="soft" mt="1" fontSize="12px" className="figures">
          {spanWords(layer.arrangement.kind, info, view!.project.rate)}
        </Text>
        <Ends layer={layer} info={info} />
      </Fold>
      <Fold name="pin" title="In the scene">
        <Pinned layers={[layer]} />
      </Fold>
      <Fold name="blur" title="Motion blur">
        <Blurred layer={layer} />
      </Fold>
      <PathSettings layer={layer} />
      <PushPanel layer={layer} />
      <Fold name="layer" title="Layer">
        <Flex align="center" minH="30px" gap="2">
          <Text flex="1">Blend</Text>
          <Flex w="120px">
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
        <Flex gap="1.5" mt="2" wrap="wrap">
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
      </Fold>
      <KeepRecipe key={layer.id} layers={[layer]} />
    </>
  )
}

function GroundColumn({ item, larger }: { item: GroundItem; larger: number }) {
  return (
    <>
      <Fold name="values" title={<At />}>
        <GroundValues item={item} />
        <Text color="soft" fontSize="12px" mt="1">
          How the footage lies on the canvas, from its middle, in canvas widths and heights.
        </Text>
        {!item.steady && <Enlarged larger={larger} />}
      </Fold>
      <Fold name="steady" title="Steady">
        <Steadied item={item} />
      </Fold>
      <PushPanel item={item} />
      <Fold name="blur" title="Motion blur">
        <Text color="soft" fontSize="12px">
          The ground is blurred as the piece is.
        </Text>
        <Blurred layer={null} />
      </Fold>
    </>
  )
}

function PieceColumn({ larger }: { larger: number }) {
  return (
    <>
      <Fold name="blur" title="Motion blur of the piece">
        <Blurred layer={null} />
        <Text color="soft" fontSize="12px" mt="1">
          For all that has none of its own. 180° is what a film camera does.
        </Text>
      </Fold>
      <Enlarged larger={larger} />
    </>
  )
}

/** That what shakes is made larger, so that no edge shows. */
function Enlarged({ larger }: { larger: number }) {
  if (larger <= 1) return null
  return (
    <Text fontSize="12px" mt="2" data-testid="enlarged">
      Enlarged to {Math.round(larger * 1000) / 10} % at most, so that its edge never shows while it moves.
    </Text>
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
