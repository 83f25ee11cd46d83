import { Box } from '@chakra-ui/react'
import { useRef } from 'react'
import type { Edit, GroundItem, ItemView, ShotView } from '../api/client'
import { useDrag } from '../parts/useDrag'
import { useOf } from '../store'
import { letGo, snapFrames, snapped } from './snap'
import { lasting, pace, STRIP, TOP } from './place'

interface Props {
  item: GroundItem
  place: ItemView
  shot: ShotView | undefined
  end: 'start' | 'end'
  at: number
  per: number
}

/** An end of what lies in the ground, to drag: what comes after it moves along while that is done. */
export function ItemEnd({ item, place, shot, end, at, per }: Props) {
  const { edit, setDraft } = useOf('edit', 'setDraft')
  const wanted = useRef<Edit | null>(null)

  /** The edit that moves the end by so many project frames; null if it stays. */
  const moved = (by: number): Edit | null => {
    const change = { kind: 'change ground' as const, item: item.id }
    const longer = lasting(item, place.length + (end === 'end' ? by : -by))
    if (longer) return longer.lasting === place.length ? null : { ...change, source: longer }
    if (!place.range) return null
    const [first, past] = place.range
    const source = Math.round(by * pace(place))
    const most = place.footage && shot ? shot.frames : 1e6
    if (end === 'start') {
      const to = Math.max(0, Math.min(past - 1, first + source))
      return to === first ? null : { ...change, first: to }
    }
    const to = Math.max(first + 1, Math.min(most, past + source))
    return to === past ? null : { ...change, past: to }
  }
  const now = end === 'start' ? place.start : place.start + place.length
  const drag = useDrag({
    start: (e) => {
      e.stopPropagation()
      wanted.current = null
      // Its own places move along with it.
      return { now, snaps: snapFrames([]).filter((f) => f !== place.start && f !== place.start + place.length) }
    },
    move: (dx, _dy, h) => {
      const by = Math.round(dx / per)
      // Where the beginning is trimmed the end moves: that is what comes to lie on something.
      wanted.current = moved(end === 'end' ? snapped(h.now + by, h.snaps, per) - h.now : by)
      setDraft(wanted.current)
    },
    end: () => {
      letGo()
      if (wanted.current) void edit(wanted.current)
      else setDraft(null)
    },
  })
  return (
    <Box
      role="slider"
      tabIndex={0}
      aria-label={`${end === 'start' ? 'Beginning' : 'End'} of ${place.name}`}
      aria-valuenow={now}
      aria-valuemin={0}
      aria-valuemax={1e6}
      title="Drag to trim it; what comes after moves along"
      position="absolute"
      zIndex="2"
      top={`${TOP}px`}
      left={`${end === 'start' ? at - 1 : at - 8}px`}
      w="9px"
      h={`${STRIP}px`}
      cursor="ew-resize"
      touchAction="none"
      bg="selected"
      borderRadius={end === 'start' ? '4px 0 0 4px' : '0 4px 4px 0'}
      _after={{
        content: '""',
        position: 'absolute',
        left: '3px',
        top: '14px',
        bottom: '14px',
        w: '3px',
        borderInline: '1px solid {colors.onSelected}',
      }}
      {...drag}
      onKeyDown={(e) => {
        if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return
        e.preventDefault()
        e.stopPropagation()
        const change = moved((e.key === 'ArrowRight' ? 1 : -1) * (e.shiftKey ? 10 : 1))
        if (change) void edit(change)
      }}
    />
  )
}
