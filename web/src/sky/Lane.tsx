import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { Eye, EyeOff, Lock, LockOpen } from 'lucide-react'
import { useState } from 'react'
import type { Layer, LayerView } from '../api/client'
import { Tool } from '../parts/buttons'
import { NameField } from '../parts/fields'
import { Kite } from '../parts/Kite'
import { useCatalog } from '../parts/useCatalog'
import { useDrag } from '../parts/useDrag'
import { useOf, useStudio } from '../shell/store'
import { SpanEnd } from './SpanEnd'
import { LABEL, LANE } from './measures'

/** A layer's lane: its name at the left; its span with its thumbnail where it lands, its keys as small kites. */
export function Lane({ layer, info, row, per }: { layer: Layer; info: LayerView; row: number; per: number }) {
  const {
    view,
    layer: selected,
    key: chosenKey,
    chooseLayer,
    chooseKey,
    edit,
    seek,
    go,
  } = useOf('view', 'layer', 'key', 'chooseLayer', 'chooseKey', 'edit', 'seek', 'go')
  const drafted = useStudio((s) => s.drafted[layer.id])
  const [start, end] = drafted ?? [info.start, info.end]
  const arranged = useCatalog()?.arrangements.find((a) => a.kind === layer.arrangement.kind)?.title ?? ''
  const [over, setOver] = useState(false)
  const chosen = selected === layer.id
  const count = view!.project.layers.length
  const [lifted, setLifted] = useState(0)

  const reorder = (by: number) => {
    const to = Math.max(0, Math.min(count - 1, count - 1 - (row + by)))
    if (to !== count - 1 - row) void edit({ kind: 'move layer', layer: layer.id, to })
  }
  const words = info.carved ? arranged : `${arranged}, not carved yet`
  const carve = () => {
    if (info.landing == null) return
    seek(info.landing)
    go('carve')
  }
  const lift = useDrag({
    slack: 4,
    start: (e) => {
      chooseLayer(layer.id)
      return (e.target as HTMLElement).closest('button, input') ? null : 0
    },
    move: (_dx, dy) => setLifted(dy),
    end: (moved, _from, e) => {
      setLifted(0)
      if (moved && e.type === 'pointerup') reorder(Math.round(lifted / LANE))
    },
  })
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
        pl="12px"
        align="center"
        bg="skyTop"
        cursor="grab"
        touchAction="none"
        {...lift}
      >
        <Box flex="1" minW="0" color={chosen ? 'selectedInk' : 'ink'}>
          <NameField
            label="Layer name"
            value={layer.name}
            onCommit={(name) => void edit({ kind: 'change layer', layer: layer.id, name })}
          />
        </Box>
        {(over || chosen || layer.locked) && (
          <Tool
            icon={layer.locked ? Lock : LockOpen}
            label={`${layer.locked ? 'Unlock' : 'Lock'} ${layer.name}`}
            size={22}
            onClick={() => void edit({ kind: 'change layer', layer: layer.id, locked: !layer.locked })}
          />
        )}
        {(over || chosen || !layer.visible) && (
          <Tool
            icon={layer.visible ? Eye : EyeOff}
            label={`${layer.visible ? 'Hide' : 'Show'} ${layer.name}`}
            size={22}
            onClick={() => void edit({ kind: 'change layer', layer: layer.id, visible: !layer.visible })}
          />
        )}
      </Flex>
      {start == null || end == null || info.landing == null ? (
        <Text color="danger" pl="2">
          Its frame is not in the ground any more
        </Text>
      ) : (
        <Box
          position="absolute"
          left={`${LABEL + start * per}px`}
          w={`${Math.max(6, (end - start) * per)}px`}
          h={`${LANE - 6}px`}
          bg={chosen ? 'selectedWash' : 'card'}
          border={chosen ? '2px solid' : '1px solid'}
          borderColor={chosen ? 'selected' : 'rule'}
          borderRadius="soft"
          cursor="pointer"
          data-span={`${start}:${end}`}
          onPointerDown={() => chooseLayer(layer.id)}
          onDoubleClick={carve}
        >
          <Flex
            role="button"
            tabIndex={0}
            aria-label={`${layer.name}: ${words}, frames ${start} to ${end - 1}`}
            aria-description="Enter chooses it, and once more carves it; page up and down move it"
            aria-pressed={chosen}
            onKeyDown={(e) => {
              if (e.key !== 'Enter') return
              if (chosen) carve()
              else chooseLayer(layer.id)
            }}
            h="100%"
            align="center"
            gap="1.5"
            pl="8px"
            pr="10px"
            overflow="hidden"
            justify={info.free === 'start' ? 'flex-end' : 'flex-start'}
          >
            <Image
              src={`/api/projects/${view!.project.id}/layers/${layer.id}/thumbnail.png?side=48&r=${view!.revision}`}
              alt=""
              h="22px"
              w="26px"
              objectFit="contain"
              draggable={false}
            />
            <Text color="soft" fontSize="12px" whiteSpace="nowrap">
              {words}
            </Text>
          </Flex>
          {info.free && <SpanEnd layer={layer} info={info} per={per} height={LANE / 2 - 5} />}
        </Box>
      )}
      {Object.entries(info.keys).map(([id, frame]) => (
        <Box
          as="button"
          key={id}
          aria-label={`Key at frame ${frame}`}
          position="absolute"
          left={`${LABEL + (frame + 0.5) * per - 6}px`}
          top={`${LANE / 2 - 2}px`}
          w="12px"
          h="16px"
          cursor="pointer"
          zIndex="1"
          onClick={() => {
            chooseLayer(layer.id)
            chooseKey(id)
            seek(frame)
            go('fly')
          }}
        >
          <Kite chosen={id === chosenKey} size={12} />
        </Box>
      ))}
    </Flex>
  )
}
