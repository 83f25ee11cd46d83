import { Box } from '@chakra-ui/react'
import { useRef } from 'react'
import type { ItemView, ShotView } from '../api/client'
import { useDrag } from '../parts/useDrag'
import { useOf } from '../store'
import { tagColour } from '../parts/tags'
import { LABEL } from './measures'
import { letGo, snapFrames, snapped } from './snap'
import { frameOf } from './place'
import { moveMoment } from '../store/doing'

/** A flagged frame: press to go there, drag to another frame, Delete takes the flag away. */
export function Flag(p: { moment: ShotView['moments'][number]; shot: string; place: ItemView; per: number }) {
  const { moment, shot, place, per } = p
  const { edit, seek } = useOf('edit', 'seek')
  const to = useRef(moment.frame)
  const at = (source: number) => frameOf(place, source)
  const drag = useDrag({
    start: () => {
      to.current = moment.frame
      const from = at(moment.frame)
      return { from, snaps: snapFrames([]).filter((f) => f !== from) }
    },
    move: (dx, _dy, { from, snaps }) => {
      const index = snapped(from + Math.round(dx / per), snaps, per) - place.start
      to.current = place.frames[Math.max(0, Math.min(place.length - 1, index))]!
      seek(at(to.current))
    },
    end: () => {
      letGo()
      if (to.current !== moment.frame) void moveMoment(shot, moment.id, to.current)
      else seek(at(moment.frame))
    },
  })
  return (
    <Box
      as="button"
      aria-label={`${moment.name}, frame ${moment.frame}`}
      title={`${moment.name}, frame ${moment.frame}. Drag to another frame`}
      position="absolute"
      zIndex="1"
      top="1px"
      left={`${LABEL + (at(moment.frame) + 0.5) * per - 2}px`}
      w="14px"
      h="22px"
      cursor="pointer"
      touchAction="none"
      {...drag}
      onKeyDown={(e) => {
        if (e.key !== 'Delete') return
        e.preventDefault()
        e.stopPropagation()
        void edit({ kind: 'remove moment', shot, moment: moment.id })
      }}
    >
      <svg viewBox="0 0 14 22" width="14" height="22" aria-hidden="true">
        <path d="M2 1V21" stroke={tagColour(moment.tag)} strokeWidth="1.6" />
        <path d="M2 1.5 12.5 4.7 2 8.2Z" fill={tagColour(moment.tag)} />
      </svg>
    </Box>
  )
}
