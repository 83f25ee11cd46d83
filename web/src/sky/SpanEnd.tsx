import { Box } from '@chakra-ui/react'
import { useRef } from 'react'
import type { Edit, Layer, LayerView } from '../api/client'
import { useDrag } from '../parts/useDrag'
import { chosenLayers, together, useOf, useStudio } from '../store'
import { letGo, snapFrames, snapped } from '../ground/snap'

interface Props {
  end: 'start' | 'end'
  layer: Layer
  info: LayerView
  per: number
  height: number
}

/**
 * A free end of a span, to drag; the same ends of what is chosen besides go along. Where that may be is the server's to
 * say: the bars follow what it answers.
 */
export function SpanEnd({ end: which, layer, info, per, height }: Props) {
  const { view, edit, setDraft } = useOf('view', 'edit', 'setDraft')
  const end = which === 'end'
  const now = (end ? info.end : info.start) ?? 0
  const length = view!.length
  /** The chosen layers that have such an end. */
  const alike = () => {
    const all = chosenLayers(useStudio.getState())
    const ids = all.includes(layer.id) ? all : [layer.id]
    return ids.filter((id) => view!.layers[id]?.free.includes(which))
  }
  const change = (ids: string[], to: number): Edit | null =>
    together(
      ids.map((id) => {
        const own = view!.layers[id]!
        const frame = limits(own)((end ? own.end! : own.start!) + to - now)
        const field = own.free.length > 1 && !end ? { since: frame } : { until: frame }
        return { kind: 'change layer', layer: id, clear: [], ...field }
      }),
    )
  const limits = (own: LayerView) => {
    const free = own.free.length > 1
    const low = end ? ((free ? own.start : own.landing) ?? 0) + 1 : 0
    const high = end ? length : ((free ? own.end : own.landing) ?? length) - 1
    return (frame: number) => Math.max(low, Math.min(high, frame))
  }
  const within = limits(info)
  const to = useRef(now)
  const drag = useDrag({
    start: (e) => {
      e.stopPropagation()
      to.current = now
      const ids = alike()
      return { ids, frames: snapFrames(ids) }
    },
    move: (dx, _dy, { ids, frames }) => {
      const next = within(snapped(Math.round(now + dx / per), frames, per))
      if (next === to.current) return
      to.current = next
      setDraft(change(ids, next))
    },
    end: (_moved, { ids }) => {
      letGo()
      const made = change(ids, to.current)
      if (made && to.current !== now) void edit(made)
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
        const made = change([layer.id], within(now + (e.key === 'ArrowRight' ? 1 : -1) * (e.shiftKey ? 10 : 1)))
        if (made) void edit(made)
      }}
    />
  )
}
