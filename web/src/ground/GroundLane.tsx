import { Box, Flex, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useMemo, useRef } from 'react'
import { answer, api, type GroundItem, type ItemView, type ShotView } from '../api/client'
import { useDrag } from '../parts/useDrag'
import { useOf, useStudio } from '../shell/store'
import { LABEL } from '../sky/measures'
import { roleColour } from '../theme/system'

const STRIP = 44
const WAVE = 26

/** The footage in order, its flagged moments, its sound. */
export function GroundLane({ per }: { per: number }) {
  const view = useStudio((s) => s.view)!
  return (
    <Flex position="sticky" bottom="0" zIndex="4" bg="skyTop" h={`${STRIP + WAVE + 24}px`} mt="10px">
      <Flex position="sticky" left="0" zIndex="1" w={`${LABEL}px`} bg="skyTop" pl="12px" pt="22px" flexShrink="0">
        <Text fontWeight="600">Ground</Text>
      </Flex>
      {view.project.ground.map((item) => (
        <Item key={item.id} item={item} per={per} />
      ))}
      <Wave per={per} />
    </Flex>
  )
}

function Item({ item, per }: { item: GroundItem; per: number }) {
  const { view, item: chosenItem, chooseItem, seek } = useOf('view', 'item', 'chooseItem', 'seek')
  const place = view!.items.find((i) => i.id === item.id)
  const shot = place?.shot ? view!.shots[place.shot] : undefined
  if (!shot || !place) return null
  const [first, past] = place.range ?? [place.frames[0]!, place.frames.at(-1)! + 1]
  const left = LABEL + place.start * per
  const width = place.length * per
  const thumb = (STRIP * shot.width) / shot.height
  const count = Math.max(1, Math.min(120, Math.round(width / thumb)))
  const chosen = chosenItem === item.id
  const at = (source: number) => frameOf(place, source)
  return (
    <>
      <Box
        as="button"
        aria-label={`Footage ${shot.name}`}
        aria-pressed={chosen}
        data-item={shot.name}
        position="absolute"
        top="12px"
        left={`${left}px`}
        w={`${width}px`}
        h={`${STRIP}px`}
        cursor="pointer"
        borderRadius="4px"
        boxShadow={chosen ? '0 0 0 2px {colors.selected}' : '0 0 0 1px {colors.rule}'}
        bgImage={`url(/api/projects/${view!.project.id}/shots/${shot.id}/strip.jpg?first=${first}&past=${past}&count=${count}&height=88)`}
        bgSize="100% 100%"
        onClick={(e) => {
          chooseItem(item.id)
          const box = e.currentTarget.getBoundingClientRect()
          if (e.detail > 0) seek(place.start + Math.floor((e.clientX - box.left) / per))
        }}
      />
      {shot.cuts
        .filter((c) => c > first && c < past)
        .map((c) => (
          <Box
            as="button"
            key={c}
            aria-label={`Cut in the footage at frame ${c}`}
            title={`The footage cuts here: another take begins at frame ${c}`}
            position="absolute"
            top="12px"
            left={`${LABEL + at(c) * per - 4}px`}
            w="8px"
            h={`${STRIP}px`}
            cursor="pointer"
            onClick={() => seek(at(c))}
          >
            <svg viewBox={`0 0 8 ${STRIP}`} width="8" height={STRIP} aria-hidden="true">
              <path d={`M4 0V${STRIP}`} stroke={roleColour('card')} strokeWidth="3" />
              <path d={`M4 0V${STRIP}`} stroke={roleColour('ink')} strokeWidth="1.2" strokeDasharray="4 3" />
            </svg>
          </Box>
        ))}
      {shot.moments
        .filter((m) => m.frame >= first && m.frame < past)
        .map((m) => (
          <Flag key={m.id} moment={m} shot={shot.id} place={place} per={per} />
        ))}
    </>
  )
}

/** The project frame at which a ground item shows a source frame, or the first one after it. */
function frameOf(place: ItemView, source: number): number {
  return (
    place.start +
    Math.max(
      0,
      place.frames.findIndex((f) => f >= source),
    )
  )
}

/** A flagged frame: press to go there, drag to another frame, Delete takes the flag away. */
function Flag(p: { moment: ShotView['moments'][number]; shot: string; place: ItemView; per: number }) {
  const { moment, shot, place, per } = p
  const { edit, seek } = useOf('edit', 'seek')
  const to = useRef(moment.frame)
  const at = (source: number) => frameOf(place, source)
  const drag = useDrag({
    start: () => {
      to.current = moment.frame
      return at(moment.frame) - place.start
    },
    move: (dx, _dy, from) => {
      const index = from + Math.round(dx / per)
      to.current = place.frames[Math.max(0, Math.min(place.length - 1, index))]!
      seek(at(to.current))
    },
    end: () => {
      if (to.current !== moment.frame) void edit({ kind: 'change moment', shot, moment: moment.id, frame: to.current })
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
        <path d="M2 1V21" stroke={roleColour('now')} strokeWidth="1.6" />
        <path d="M2 1.5 12.5 4.7 2 8.2Z" fill={roleColour('now')} />
      </svg>
    </Box>
  )
}

function Wave({ per }: { per: number }) {
  const view = useStudio((s) => s.view)!
  const heard = Object.values(view.shots).some((s) => s.has_sound)
  const points = Math.min(2000, Math.max(50, Math.round((view.length * per) / 2)))
  const peaks = useQuery({
    queryKey: ['peaks', view.project.id, view.sound, points],
    enabled: heard,
    queryFn: () =>
      answer(
        api.GET('/api/projects/{project}/peaks', { params: { path: { project: view.project.id }, query: { points } } }),
      ),
  })
  const path = useMemo(() => {
    const p = peaks.data
    if (!p) return ''
    const top = p.map((v, i) => `${i},${50 - Math.min(1, v * 1.6) * 50}`)
    const low = p.map((v, i) => `${i},${50 + Math.min(1, v * 1.6) * 50}`).reverse()
    return `M${top.join('L')}L${low.join('L')}Z`
  }, [peaks.data])
  return (
    <Box position="absolute" left={`${LABEL}px`} top={`${STRIP + 16}px`} w={`${view.length * per}px`} h={`${WAVE}px`}>
      {heard ? (
        <svg
          viewBox={`0 0 ${points} 100`}
          width="100%"
          height="100%"
          preserveAspectRatio="none"
          role="img"
          aria-label="Sound"
        >
          <path d={path} fill={roleColour('sound')} />
        </svg>
      ) : (
        <Text color="soft" fontSize="12px">
          No sound
        </Text>
      )}
    </Box>
  )
}
