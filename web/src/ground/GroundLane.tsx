import { Box, Flex, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { memo, useMemo } from 'react'
import { answer, api } from '../api/client'
import { useOf, useStudio } from '../store'
import { LABEL } from './measures'
import { roleColour } from '../theme/system'
import { CueLane, howMany } from './CueLane'
import { beatsOf } from './cues'
import { Item } from './Item'
import { CUES, GROUND, SLIM, STRIP, TOP, WAVE } from './place'

/** The ground in order, its flagged moments, its sound. */
export const GroundLane = memo(function GroundLane({ per }: { per: number }) {
  const view = useStudio((s) => s.view)!
  // They are in one line until somebody works on them.
  const slim = useStudio((s) => s.step !== 'sound')
  const cues = view.project.cues.length > 0
  const lanes = useMemo(() => howMany(view, per), [view, per])
  const high = !cues ? 0 : slim ? SLIM : lanes * CUES
  return (
    <Flex position="sticky" bottom="0" zIndex="4" bg="skyTop" h={`${GROUND + high}px`} mt="10px" data-ground>
      <Flex position="sticky" left="0" zIndex="3" w={`${LABEL}px`} bg="skyTop" pl="12px" pt="22px" flexShrink="0">
        <Text fontWeight="600">Ground</Text>
        {cues && !slim && (
          <Text position="absolute" top={`${GROUND - 6}px`} fontWeight="600">
            Sounds
          </Text>
        )}
      </Flex>
      {view.project.ground.map((item, n) => (
        <Item key={item.id} item={item} number={n} per={per} />
      ))}
      <Wave per={per} />
      <BeatTicks per={per} />
      <CueLane per={per} slim={slim} />
      <Landing per={per} />
    </Flex>
  )
})

/** Where what is dragged off the shelf would come to lie: between two takes, or under the frame where it is heard. */
function Landing({ per }: { per: number }) {
  const { target, carried } = useOf('target', 'carried')
  if (!carried || !target || target.zone === 'sky') return null
  const heard = target.zone === 'sounds'
  return (
    <Box
      position="absolute"
      pointerEvents="none"
      zIndex="2"
      top={`${heard ? TOP + STRIP + 4 : TOP - 4}px`}
      h={`${heard ? WAVE + 8 : STRIP + 8}px`}
      borderLeft="3px solid {colors.selected}"
      bg={heard ? 'selected/15' : undefined}
      data-testid="landing"
      style={{
        left: LABEL + target.frame * per - (heard ? 0 : 1),
        width: heard ? Math.max(24, carried.frames * per) : undefined,
      }}
    >
      <Text
        bg="selected"
        color="card"
        fontSize="11px"
        fontWeight="600"
        px="1.5"
        borderRightRadius="4px"
        whiteSpace="nowrap"
        w="max-content"
      >
        {carried.name}
      </Text>
    </Box>
  )
}

/** How high the marks of beats are. */
const TICKS = 8

/** The beats of the music, between the strip and the sound: those that begin bars are longer. */
function BeatTicks({ per }: { per: number }) {
  const view = useStudio((s) => s.view)!
  const beats = useMemo(() => beatsOf(view), [view])
  if (!beats.length) return null
  // Where they would lie too near to each other, bars alone are shown.
  const near = beats.length > 1 && (beats[1]!.frame - beats[0]!.frame) * per < 5
  const path = (bar: boolean) =>
    beats
      .filter((b) => b.bar === bar)
      .map((b) => `M${(b.frame * per).toFixed(1)},${bar ? 0 : 3}V${TICKS}`)
      .join('')
  return (
    <svg
      width={view.length * per}
      height={TICKS}
      data-testid="beats"
      aria-hidden="true"
      style={{ position: 'absolute', left: LABEL, top: TOP + STRIP + 1, pointerEvents: 'none' }}
    >
      {!near && <path d={path(false)} stroke={roleColour('ink')} strokeOpacity="0.65" />}
      <path d={path(true)} stroke={roleColour('ink')} strokeWidth="2" />
    </svg>
  )
}

function Wave({ per }: { per: number }) {
  const view = useStudio((s) => s.view)!
  const heard = Object.values(view.shots).some((s) => s.has_sound) || view.project.cues.length > 0
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
    <Box
      position="absolute"
      left={`${LABEL}px`}
      top={`${TOP + STRIP + 8}px`}
      w={`${view.length * per}px`}
      h={`${WAVE}px`}
    >
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
