import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { Eye, EyeOff, Lock, LockOpen } from 'lucide-react'
import { useRef, useState } from 'react'
import type { Edit, Layer, LayerView } from '../api/client'
import { Tool } from '../parts/buttons'
import { NameField } from '../parts/fields'
import { useOf, useStudio } from '../shell/store'
import { roleColour } from '../theme/system'
import { LABEL } from './Timeline'

export const LANE = 34
const WORDS = { trail: 'Trail', ahead: 'Ahead', along: 'Along' } as const

/** A layer's lane: its name at the left; its span with its thumbnail where it lands, its keys as small kites. */
export function Lane({ layer, info, row, per }: { layer: Layer; info: LayerView; row: number; per: number }) {
  const { view, layer: selected, key: chosenKey, chooseLayer, chooseKey, edit, seek, setDraft, go } = useOf('view', 'layer', 'key', 'chooseLayer', 'chooseKey', 'edit', 'seek', 'setDraft', 'go')
  const [over, setOver] = useState(false)
  const chosen = selected === layer.id
  const count = view!.project.layers.length
  const lift = useRef<number | null>(null)
  const [lifted, setLifted] = useState(0)

  const reorder = (by: number) => {
    const to = Math.max(0, Math.min(count - 1, count - 1 - (row + by)))
    if (to !== count - 1 - row) void edit({ kind: 'move layer', layer: layer.id, to })
  }
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
        onPointerDown={(e) => {
          chooseLayer(layer.id)
          if ((e.target as HTMLElement).closest('button, input')) return
          lift.current = e.clientY
        }}
        onPointerMove={(e) => {
          if (lift.current === null) return
          const by = e.clientY - lift.current
          // Captured only once it is carried: a captured pointer's double click would not reach the name.
          if (!e.currentTarget.hasPointerCapture(e.pointerId)) {
            if (Math.abs(by) < 4) return
            e.currentTarget.setPointerCapture(e.pointerId)
          }
          setLifted(by)
        }}
        onPointerLeave={(e) => {
          if (!e.currentTarget.hasPointerCapture(e.pointerId)) lift.current = null
        }}
        onPointerUp={() => {
          lift.current = null
          setLifted(0)
          reorder(Math.round(lifted / LANE))
        }}
        onKeyDown={(e) => {
          if (e.key !== 'PageUp' && e.key !== 'PageDown') return
          e.preventDefault()
          reorder(e.key === 'PageUp' ? -1 : 1)
        }}
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
      {info.start == null || info.end == null || info.landing == null ? (
        <Text color="danger" pl="2">
          Its frame is not in the ground any more
        </Text>
      ) : (
        <Box
          position="absolute"
          left={`${LABEL + info.start * per}px`}
          w={`${Math.max(6, (info.end - info.start) * per)}px`}
          h={`${LANE - 6}px`}
          bg={chosen ? 'selectedWash' : 'card'}
          border={chosen ? '2px solid' : '1px solid'}
          borderColor={chosen ? 'selected' : 'rule'}
          borderRadius="soft"
          cursor="pointer"
          data-span={`${info.start}:${info.end}`}
          onPointerDown={() => chooseLayer(layer.id)}
          onDoubleClick={() => {
            seek(info.landing!)
            go('carve')
          }}
        >
          <Flex
            h="100%"
            align="center"
            gap="1.5"
            pl="8px"
            pr="10px"
            overflow="hidden"
            justify={layer.arrangement === 'ahead' ? 'flex-end' : 'flex-start'}
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
              {info.carved ? WORDS[layer.arrangement] : `${WORDS[layer.arrangement]}, not carved yet`}
            </Text>
          </Flex>
          {layer.arrangement !== 'along' && <End layer={layer} info={info} per={per} onDraft={setDraft} onCommit={(e) => void edit(e)} />}
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

/** A key, drawn as a small kite. */
export function Kite({ chosen, size = 14 }: { chosen?: boolean; size?: number }) {
  return (
    <svg viewBox="0 0 14 18" width={size} height={(size * 18) / 14} aria-hidden="true">
      <path
        d="M7 1 12.5 7.5 7 17 1.5 7.5Z"
        fill={roleColour('key')}
        stroke={chosen ? roleColour('selected') : '#5B4410'}
        strokeWidth={chosen ? 2.4 : 1}
        strokeLinejoin="round"
      />
    </svg>
  )
}

/** The free end of a span, to drag: the end of a trail, the beginning of a layer that waits ahead. */
function End(p: { layer: Layer; info: LayerView; per: number; onDraft: (e: Edit) => void; onCommit: (e: Edit) => void }) {
  const { layer, info, per } = p
  const length = useStudio((s) => s.view!.length)
  const trail = layer.arrangement === 'trail'
  const drag = useRef<{ x: number; from: number; to: number } | null>(null)
  const change = (until: number): Edit => ({ kind: 'change layer', layer: layer.id, until })
  const limit = (f: number) =>
    trail ? Math.max(info.landing! + 1, Math.min(length, f)) : Math.max(0, Math.min(info.landing! - 1, f))
  const now = trail ? info.end! : info.start!
  return (
    <Box
      role="slider"
      tabIndex={0}
      aria-label={`${trail ? 'End' : 'Beginning'} of ${layer.name}`}
      aria-valuenow={now}
      aria-valuemin={0}
      aria-valuemax={length}
      title={trail ? 'Drag to end it elsewhere; double-click: to the end of the ground' : 'Drag to begin it elsewhere; double-click: from the beginning'}
      position="absolute"
      zIndex="2"
      top="0"
      h={`${LANE / 2 - 5}px`}
      right={trail ? '-4px' : undefined}
      left={trail ? undefined : '-4px'}
      w="11px"
      cursor="ew-resize"
      _after={{
        content: '""',
        position: 'absolute',
        left: '3px',
        top: '3px',
        bottom: '1px',
        w: '5px',
        borderInline: '1.5px solid {colors.soft}',
      }}
      touchAction="none"
      _hover={{ bg: 'selected', opacity: 0.35 }}
      borderRadius="soft"
      onPointerDown={(e) => {
        e.stopPropagation()
        e.currentTarget.setPointerCapture(e.pointerId)
        drag.current = { x: e.clientX, from: now, to: now }
      }}
      onPointerMove={(e) => {
        const d = drag.current
        if (!d) return
        const to = limit(Math.round(d.from + (e.clientX - d.x) / per))
        if (to === d.to) return
        d.to = to
        const bar = e.currentTarget.parentElement!
        if (trail) bar.style.width = `${(to - info.start!) * per}px`
        else {
          bar.style.left = `${LABEL + to * per}px`
          bar.style.width = `${(info.end! - to) * per}px`
        }
        p.onDraft(change(to))
      }}
      onPointerUp={() => {
        const d = drag.current
        drag.current = null
        if (d && d.to !== d.from) p.onCommit(change(d.to))
      }}
      onDoubleClick={(e) => {
        e.stopPropagation()
        p.onCommit({ kind: 'change layer', layer: layer.id, clear: ['until'] })
      }}
      onKeyDown={(e) => {
        if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return
        e.preventDefault()
        e.stopPropagation()
        p.onCommit(change(limit(now + (e.key === 'ArrowRight' ? 1 : -1) * (e.shiftKey ? 10 : 1))))
      }}
    />
  )
}
