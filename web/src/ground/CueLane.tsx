import { Box, Text } from '@chakra-ui/react'
import { memo, useState } from 'react'
import type { View } from '../api/view'
import { useDrag } from '../parts/useDrag'
import { rateOf, useOf, useStudio } from '../store'
import { LABEL } from './measures'
import { letGo, snapFrames, snapped } from './snap'
import { begun, ended, lanesOf } from './cues'
import { CUES, GROUND, SLIM } from './place'

/** How many pixels of a sound's name are seen at least. */
const NAME = 58

/** The sounds of their own, below the ground's: press one to choose it, drag it to another frame, Delete removes it.
 * `slim` they lie in one line, without their names. */
export const CueLane = memo(function CueLane({ per, slim }: { per: number; slim: boolean }) {
  const view = useStudio((s) => s.view)!
  if (!view.project.cues.length) return null
  const lanes = slim ? {} : lanesOf(view, NAME / per)
  return (
    <Box position="absolute" left="0" top={`${GROUND - 6}px`} data-testid="cues">
      {view.project.cues.map((cue) => (
        <Bar key={cue.id} id={cue.id!} per={per} slim={slim} {...(lanes[cue.id!] ?? { lane: 0, seen: Infinity })} />
      ))}
    </Box>
  )
})

/** How many lanes the sounds of a piece take up. */
export function howMany(view: View, per: number): number {
  return Math.max(0, ...Object.values(lanesOf(view, NAME / per)).map(({ lane }) => lane + 1))
}

function Bar(p: { id: string; per: number; lane: number; seen: number; slim: boolean }) {
  const { id, per, lane, slim } = p
  const { view, cue: chosen, chooseCue, edit, go } = useOf('view', 'cue', 'chooseCue', 'edit', 'go')
  /** How many frames it has been dragged along so far. */
  const [by, setBy] = useState(0)
  const cue = view!.project.cues.find((c) => c.id === id)
  const place = view!.cues[id]
  const drag = useDrag({
    slack: 3,
    start: () => {
      chooseCue(id)
      return { frames: 0, snaps: snapFrames([]) }
    },
    move: (dx, _dy, h) => {
      const from = place?.frame ?? 0
      const frames = Math.round(dx / per)
      h.frames = frames ? snapped(from + frames, h.snaps, per) - from : 0
      setBy(h.frames)
    },
    end: (moved, { frames }) => {
      letGo()
      if (!moved) return go('sound')
      const tie = { ...cue!.tie, offset: (cue!.tie?.offset ?? 0) + frames }
      void edit({ kind: 'change cue', cue: id, changes: { tie } }).then(() => setBy(0))
    },
  })
  if (!cue || !place || place.frame === null) return null
  const on = chosen === id
  const wide = Math.max(slim ? 5 : NAME - 4, (place.end - place.start) * per)
  return (
    <>
      <Box
        as="button"
        aria-label={`Sound ${cue.name}, frame ${place.frame}`}
        aria-pressed={on}
        title={`${cue.name}. Drag it to another frame`}
        position="absolute"
        left={`${LABEL + (place.start + by) * per}px`}
        w={`${wide}px`}
        top={`${lane * CUES}px`}
        h={slim ? `${SLIM - 4}px` : '20px'}
        borderRadius="4px"
        border="1px solid"
        borderColor={on ? 'selected' : 'sound'}
        boxShadow={on ? 'inset 0 0 0 1px {colors.selected}' : undefined}
        bg={slim ? 'sound' : 'card'}
        opacity={cue.muted ? 0.25 : slim && !on ? 0.5 : 1}
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
          top={slim ? '0' : '13px'}
          bottom="0"
          left={`${(place.frame - place.start) * per}px`}
          w="2px"
          bg="sound"
          aria-hidden
        />
        {!slim && (
          <Text
            fontSize="11px"
            lineHeight="18px"
            pl="5px"
            color="ink"
            truncate
            style={{ maxWidth: Math.min(wide - 2, p.seen * per - 4) }}
          >
            {cue.name}
          </Text>
        )}
      </Box>
      {on && !slim && !by && (place.end - place.start) * per > 24 && (
        <>
          <End cue={cue} end="start" at={LABEL + place.start * per} lane={lane} per={per} />
          <End cue={cue} end="end" at={LABEL + place.start * per + wide} lane={lane} per={per} />
        </>
      )}
    </>
  )
}

/** An end of the sound that is chosen, to drag: more or less of it is heard. */
function End(p: { cue: View['project']['cues'][number]; end: 'start' | 'end'; at: number; lane: number; per: number }) {
  const { cue, end, per } = p
  const { view, edit } = useOf('view', 'edit')
  const [by, setBy] = useState(0)
  const drag = useDrag({
    start: (e) => {
      e.stopPropagation()
      return { by: 0 }
    },
    move: (dx, _dy, h) => {
      h.by = Math.round(dx / per)
      setBy(h.by)
    },
    end: (moved, h) => {
      const place = view!.cues[cue.id!]
      if (!moved || !h.by || !place) return setBy(0)
      const rate = rateOf(view!.project.rate)
      const speed = (cue.speed ?? 100) / 100
      const now = (cue.skip ?? 0) + (end === 'end' ? ((place.end - place.start) / rate) * speed : 0)
      const to = Math.max(0, Math.min(place.seconds, now + (h.by / rate) * speed))
      const changes = end === 'start' ? begun(cue, place, rate, to) : ended(cue, to)
      void edit({ kind: 'change cue', cue: cue.id!, changes }).then(() => setBy(0))
    },
  })
  return (
    <Box
      as="button"
      aria-label={end === 'start' ? `Beginning of ${cue.name}` : `End of ${cue.name}`}
      title="Drag to hear more or less of it"
      position="absolute"
      left={`${p.at + by * per - (end === 'start' ? 1 : 6)}px`}
      top={`${p.lane * CUES}px`}
      w="7px"
      h="20px"
      bg="selected"
      borderRadius="3px"
      cursor="ew-resize"
      touchAction="none"
      {...drag}
    />
  )
}
