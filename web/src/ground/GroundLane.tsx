import { Box, Flex, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { memo, useMemo } from 'react'
import { answer, api } from '../api/client'
import { useStudio } from '../shell/store'
import { LABEL } from '../sky/measures'
import { roleColour } from '../theme/system'
import { CueLane, howMany } from './CueLane'
import { Item } from './Item'
import { CUES, GROUND, STRIP, TOP, WAVE } from './place'

/** The ground in order, its flagged moments, its sound. */
export const GroundLane = memo(function GroundLane({ per }: { per: number }) {
  const view = useStudio((s) => s.view)!
  const lanes = useMemo(() => howMany(view, per), [view, per])
  return (
    <Flex position="sticky" bottom="0" zIndex="4" bg="skyTop" h={`${GROUND + lanes * CUES}px`} mt="10px">
      <Flex position="sticky" left="0" zIndex="3" w={`${LABEL}px`} bg="skyTop" pl="12px" pt="22px" flexShrink="0">
        <Text fontWeight="600">Ground</Text>
      </Flex>
      {view.project.ground.map((item, n) => (
        <Item key={item.id} item={item} number={n} per={per} />
      ))}
      <Wave per={per} />
      <CueLane per={per} />
    </Flex>
  )
})

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
      top={`${TOP + STRIP + 4}px`}
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
