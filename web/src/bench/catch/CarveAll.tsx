import { Box, Flex, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import { answer, api, type Job } from '../../api/client'
import { Act, Progress, Tool } from '../../parts/buttons'
import { useOf, useStudio } from '../../store'
import { useChoices } from './choice'
import { cancelJob } from '../../parts/Working'
import { remainingWords } from '../../parts/words'

interface Done {
  frames: number
  left: number[]
  doubtful: string[]
  layers: string[]
}

/** Holds frames and cuts the subject out of each, as a job. */
export async function carveAll(item: string, frames: { frame: number; name: string | null }[]): Promise<void> {
  const s = useStudio.getState()
  try {
    const body = { item, frames: frames.map((f) => ({ frame: f.frame, ...(f.name ? { name: f.name } : {}) })) }
    const path = { project: s.view!.project.id }
    s.takeJob(await answer(api.POST('/api/projects/{project}/carve-all', { params: { path }, body })))
  } catch (error) {
    s.trouble(error)
  }
}

/** How far cutting out has come, or what came of it: what it doubts comes first. */
export function CarveAll() {
  const { jobs, view, chooseLayer, chooseLayers, go } = useOf('jobs', 'view', 'chooseLayer', 'chooseLayers', 'go')
  const { read, setRead } = useChoices()
  const job = jobs.find((j) => j.kind === 'carve')
  if (!job || job.id === read) return null
  const away = <Tool icon={X} size={22} label="Put this away" onClick={() => setRead(job.id)} />
  if (job.state === 'waiting' || job.state === 'running') return <Running job={job} />
  const name = (layer: string) => view?.project.layers.find((l) => l.id === layer)?.name
  if (job.state !== 'done') {
    return (
      <Flex mb="2" role="status" align="flex-start">
        <Text flex="1" color={job.state === 'failed' ? 'danger' : 'soft'}>
          {job.state === 'failed'
            ? job.message
            : 'Stopped. What was cut out by then is kept; once more goes on from there.'}
        </Text>
        {away}
      </Flex>
    )
  }
  const { frames, left, doubtful, layers } = job.result as unknown as Done
  const there = layers.filter((l) => name(l))
  if (!there.length) return null
  return (
    <Box mb="2" p="2" borderRadius="soft" border="1px solid {colors.rule}" role="status" data-testid="carved">
      <Flex align="center">
        <Text flex="1" fontWeight="600">
          {`${frames} cut out${left.length ? `, ${left.length} not reached` : ''}`}
        </Text>
        {away}
      </Flex>
      {doubtful.filter((l) => name(l)).length > 0 && <Text color="soft">Look at these first:</Text>}
      <Flex gap="1" wrap="wrap" my="1">
        {doubtful
          .filter((l) => name(l))
          .map((l) => (
            <Act
              key={l}
              onClick={() => {
                chooseLayer(l)
                go('carve')
              }}
            >
              {name(l)}
            </Act>
          ))}
      </Flex>
      <Act
        onClick={() => {
          chooseLayers(there)
          go('fly')
        }}
      >
        See them fly
      </Act>
    </Box>
  )
}

function Running({ job }: { job: Job }) {
  return (
    <Flex align="center" gap="2" mb="2" role="status">
      <Box flex="1" minW="0">
        <Text fontSize="13px">{job.state === 'waiting' ? 'Waits for its turn' : 'Cutting out…'}</Text>
        <Progress share={job.progress} label="Cutting out" />
        <Text color="soft" fontSize="12px">
          {remainingWords(job.remaining)}
        </Text>
      </Box>
      <Tool icon={X} size={26} label="Stop cutting out" onClick={() => void cancelJob(job.id)} />
    </Flex>
  )
}
