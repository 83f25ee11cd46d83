import { Box, Flex, Text } from '@chakra-ui/react'
import { ChevronDown, ChevronRight, Eye, EyeOff, Lock, LockOpen, Spotlight } from 'lucide-react'
import { memo, useState } from 'react'
import type { Layer, LayerView } from '../api/client'
import { Act, Tool } from '../parts/buttons'
import { NameField } from '../parts/fields'
import { Kite } from '../parts/Kite'
import { useDrag } from '../parts/useDrag'
import { chosenLayers, useOf, useStudio } from '../store'
import { LABEL, LANE } from '../ground/measures'
import { dropAt, type Row } from './rows'
import { Span } from './Span'

interface Props {
  row: Row
  number: number
  rows: Row[]
  per: number
}

/** A layer's lane: its name at the left; its span with its thumbnail where it lands, its keys as small kites. */
export const Lane = memo(function Lane({ row, number, rows, per }: Props) {
  const { layer, depth, open } = row
  const info = useStudio((s) => s.view?.layers[layer.id])
  const chosen = useStudio((s) => s.layer === layer.id || s.moreLayers.includes(layer.id))
  const { chooseLayer, chooseLayers, alsoLayer, edit, fold } = useOf(
    'chooseLayer',
    'chooseLayers',
    'alsoLayer',
    'edit',
    'fold',
  )
  const [over, setOver] = useState(false)
  const [lifted, setLifted] = useState(0)
  const change = (changes: object) => void edit({ kind: 'change layer', layer: layer.id, clear: [], ...changes })

  /** Chooses the layer as a press with these keys does. */
  const choose = (e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    const s = useStudio.getState()
    if (e.ctrlKey || e.metaKey) return alsoLayer(layer.id)
    const from = rows.findIndex((r) => r.layer.id === s.layer)
    if (e.shiftKey && from >= 0) {
      const range = rows.slice(Math.min(from, number), Math.max(from, number) + 1).map((r) => r.layer.id)
      return chooseLayers([s.layer!, ...range.filter((id) => id !== s.layer)])
    }
    if (!chosenLayers(s).includes(layer.id)) chooseLayer(layer.id)
  }
  const reorder = (lanes: number) => {
    const s = useStudio.getState()
    const all = chosenLayers(s)
    const moved = all.includes(layer.id) ? all : [layer.id]
    const { group, to } = dropAt(rows, moved, number, lanes, (id) => Boolean(s.view?.layers[id]?.gathers))
    void edit({ kind: 'move layer', layers: moved, group, to }).then(() => {
      if (!all.includes(layer.id)) chooseLayer(layer.id)
    })
  }
  const lift = useDrag({
    slack: 4,
    start: (e) => {
      if ((e.target as HTMLElement).closest('button, input')) return null
      // Not chosen yet: groups would open and close by that, and lanes move under the pointer.
      return 0
    },
    move: (_dx, dy) => setLifted(dy),
    end: (moved, _from, e) => {
      setLifted(0)
      if (moved && e.type === 'pointerup' && Math.abs(lifted) > LANE / 3) reorder(lifted / LANE)
      else if (!moved && (e.shiftKey || e.ctrlKey || e.metaKey)) choose(e)
      else if (!moved) chooseLayer(layer.id)
    },
  })
  if (!info) return null
  return (
    <Flex
      h={`${LANE}px`}
      align="center"
      position="relative"
      data-layer={layer.name}
      opacity={layer.visible ? 1 : 0.55}
      transform={lifted ? `translateY(${lifted}px)` : undefined}
      zIndex={lifted ? 3 : undefined}
      onMouseEnter={() => setOver(true)}
      onMouseLeave={() => setOver(false)}
      onKeyDown={(e) => {
        if (e.key !== 'PageUp' && e.key !== 'PageDown') return
        e.preventDefault()
        reorder(e.key === 'PageUp' ? -1 : 1)
      }}
    >
      <Flex
        position="sticky"
        left="0"
        zIndex="1"
        w={`${LABEL}px`}
        h="100%"
        pl={`${8 + depth * 14}px`}
        align="center"
        bg="skyTop"
        cursor="grab"
        touchAction="none"
        {...lift}
      >
        {info.gathers && (
          <Tool
            icon={open ? ChevronDown : ChevronRight}
            label={`${open ? 'Close' : 'Open'} ${layer.name}`}
            size={20}
            onClick={() => fold(layer.id)}
          />
        )}
        <Box flex="1" minW="0" pl="4px" color={chosen ? 'selectedInk' : 'ink'}>
          <NameField label="Layer name" value={layer.name} onCommit={(name) => change({ name })} />
        </Box>
        {layer.tag && !over && (
          <Text
            fontSize="11px"
            px="5px"
            maxW="48px"
            truncate
            border="1px solid {colors.rule}"
            borderRadius="full"
            color="soft"
            title={`Tag: ${layer.tag}`}
          >
            {layer.tag}
          </Text>
        )}
        {(over || layer.solo) && (
          <Tool
            icon={Spotlight}
            label={layer.solo ? `Look at more than ${layer.name}` : `Look at ${layer.name} alone`}
            hint={layer.solo ? 'Show the others again' : 'Show only this, here and in what is sent'}
            on={layer.solo}
            size={22}
            onClick={() => change({ solo: !layer.solo })}
          />
        )}
        {(over || layer.locked) && (
          <Tool
            icon={layer.locked ? Lock : LockOpen}
            label={`${layer.locked ? 'Unlock' : 'Lock'} ${layer.name}`}
            size={22}
            onClick={() => change({ locked: !layer.locked })}
          />
        )}
        {(over || !layer.visible) && (
          <Tool
            icon={layer.visible ? Eye : EyeOff}
            label={`${layer.visible ? 'Hide' : 'Show'} ${layer.name}`}
            size={22}
            onClick={() => change({ visible: !layer.visible })}
          />
        )}
      </Flex>
      {info.waits ? (
        <Waits layer={layer} why={info.waits} />
      ) : (
        <>
          <Span layer={layer} info={info} per={per} chosen={chosen} choose={choose} />
          <Keys layer={layer} info={info} per={per} />
        </>
      )}
    </Flex>
  )
})

/** A layer that cannot be shown: why, and a way back. */
function Waits({ layer, why }: { layer: Layer; why: string }) {
  const edit = useStudio((s) => s.edit)
  return (
    <Flex align="center" gap="2" pl="2" color="soft" data-waits="" position="sticky" left={`${LABEL}px`}>
      <Text fontSize="12.5px">Waits: {why.charAt(0).toLowerCase() + why.slice(1)}</Text>
      <Act onClick={() => void edit({ kind: 'bring back', layer: layer.id })}>Bring back</Act>
    </Flex>
  )
}

/** Its keys, to press. */
function Keys({ layer, info, per }: { layer: Layer; info: LayerView; per: number }) {
  const { key, moreKeys, chooseLayer, chooseKey, seek, go } = useOf(
    'key',
    'moreKeys',
    'chooseLayer',
    'chooseKey',
    'seek',
    'go',
  )
  // A kite has a tail where none other flies close behind it.
  const drafted = useStudio((s) => s.drafted.keys)
  const all = Object.entries(info.keys).map(([id, frame]) => [id, drafted[id] ?? frame] as const)
  const frames = all.map(([, frame]) => frame)
  const room = (frame: number) => !frames.some((f) => f > frame && (f - frame) * per < 15)
  return all.map(([id, frame]) => (
    <Box
      as="button"
      key={id}
      aria-label={`Key at frame ${frame}`}
      position="absolute"
      left={`${LABEL + (frame + 0.5) * per - 7}px`}
      top={`${LANE / 2 - 7}px`}
      // Only the kite itself is pressed; beside it lies its span.
      pointerEvents="none"
      css={{ '& path': { pointerEvents: 'auto' } }}
      w="14px"
      h="24px"
      zIndex="1"
      cursor="pointer"
      onClick={() => {
        chooseLayer(layer.id)
        chooseKey(id)
        seek(frame)
        go('fly')
      }}
    >
      <Kite chosen={id === key || moreKeys.includes(id)} tail={room(frame)} size={13} />
    </Box>
  ))
}
