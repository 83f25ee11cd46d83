import { Box, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { Edit } from '../api/client'
import { useDrag } from '../parts/useDrag'
import { useOf, useStudio } from '../shell/store'
import { LABEL } from '../sky/measures'
import { GROUND } from './place'

/** The sounds of their own, below the ground's: press one to choose it, drag it to another frame, Delete removes it. */
export const CueLane = memo(function CueLane({ per }: { per: number }) {
  const view = useStudio((s) => s.view)!
  if (!view.project.cues.length) return null
  return (
    <Box position="absolute" left="0" top={`${GROUND - 6}px`} h="22px" data-testid="cues">
      {view.project.cues.map((cue) => (
        <Bar key={cue.id} id={cue.id!} per={per} />
      ))}
    </Box>
  )
})

function Bar({ id, per }: { id: string; per: number }) {
  const {
    view,
    cue: chosen,
    chooseCue,
    edit,
    setDraft,
    go,
  } = useOf('view', 'cue', 'chooseCue', 'edit', 'setDraft', 'go')
  const cue = view!.project.cues.find((c) => c.id === id)
  const place = view!.cues[id]
  const drag = useDrag({
    slack: 3,
    start: () => {
      chooseCue(id)
      return { offset: cue?.tie?.offset ?? 0, last: null as Edit | null }
    },
    move: (dx, _dy, h) => {
      const offset = h.offset + Math.round(dx / per)
      h.last = { kind: 'change cue', cue: id, changes: { tie: { ...cue!.tie, offset } } }
      setDraft(h.last)
    },
    end: (moved, h) => {
      if (moved && h.last) void edit(h.last)
      else go('sound')
    },
  })
  if (!cue || !place || place.frame === null) return null
  const on = chosen === id
  return (
    <Box
      as="button"
      aria-label={`Sound ${cue.name}, frame ${place.frame}`}
      aria-pressed={on}
      title={`${cue.name}. Drag it to another frame`}
      position="absolute"
      left={`${LABEL + place.start * per}px`}
      w={`${Math.max(10, (place.end - place.start) * per)}px`}
      h="20px"
      borderRadius="4px"
      border="1px solid"
      borderColor={on ? 'selected' : 'sound'}
      boxShadow={on ? 'inset 0 0 0 1px {colors.selected}' : undefined}
      bg="card"
      opacity={cue.muted ? 0.5 : 1}
      overflow="hidden"
      textAlign="left"
      cursor="grab"
      touchAction="none"
      data-cue={cue.name}
      {...drag}
      onKeyDown={(e) => {
        if (e.key !== 'Delete') return
        e.preventDefault()
        e.stopPropagation()
        void edit({ kind: 'remove cues', cues: [id] })
      }}
    >
      <Box
        position="absolute"
        top="0"
        bottom="0"
        left={`${(place.frame - place.start) * per}px`}
        w="2px"
        bg="sound"
        aria-hidden
      />
      <Text fontSize="11px" lineHeight="18px" pl="5px" whiteSpace="nowrap" color="ink">
        {cue.name}
      </Text>
    </Box>
  )
}
