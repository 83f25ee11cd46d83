import { Box } from '@chakra-ui/react'
import { useRef } from 'react'
import type { Edit, Layer, LayerView } from '../api/client'
import { useDrag } from '../parts/useDrag'
import { useOf } from '../shell/store'

/** The free end of a span, to drag. Where that may be is the server's to say: the bar follows what it answers. */
export function SpanEnd({ layer, info, per, height }: { layer: Layer; info: LayerView; per: number; height: number }) {
  const { view, edit, setDraft } = useOf('view', 'edit', 'setDraft')
  const end = info.free === 'end'
  const now = (end ? info.end : info.start) ?? 0
  const length = view!.length
  const change = (until: number): Edit => ({ kind: 'change layer', layer: layer.id, until, clear: [] })
  const landing = info.landing ?? 0
  const within = (f: number) =>
    end ? Math.max(landing + 1, Math.min(length, f)) : Math.max(0, Math.min(landing - 1, f))
  const to = useRef(now)
  const drag = useDrag({
    start: (e) => {
      e.stopPropagation()
      to.current = now
      return now
    },
    move: (dx, _dy, from) => {
      const next = within(Math.round(from + dx / per))
      if (next === to.current) return
      to.current = next
      setDraft(change(next))
    },
    end: (_moved, from) => {
      if (to.current !== from) void edit(change(to.current))
    },
  })
  return (
    <Box
      role="slider"
      tabIndex={0}
      aria-label={`${end ? 'End' : 'Beginning'} of ${layer.name}`}
      aria-valuenow={now}
      aria-valuemin={0}
      aria-valuemax={length}
      title={
        end
          ? 'Drag to end it elsewhere; double-click: to the end of the ground'
          : 'Drag to begin it elsewhere; double-click: from the beginning'
      }
      position="absolute"
      zIndex="2"
      top="0"
      h={`${height}px`}
      right={end ? '-4px' : undefined}
      left={end ? undefined : '-4px'}
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
      {...drag}
      onDoubleClick={(e) => {
        e.stopPropagation()
        void edit({ kind: 'change layer', layer: layer.id, clear: ['until'] })
      }}
      onKeyDown={(e) => {
        if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return
        e.preventDefault()
        e.stopPropagation()
        void edit(change(within(now + (e.key === 'ArrowRight' ? 1 : -1) * (e.shiftKey ? 10 : 1))))
      }}
    />
  )
}
