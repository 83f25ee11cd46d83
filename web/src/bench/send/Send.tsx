import { Box, Flex, Text } from '@chakra-ui/react'
import { Pause, Play, Plus, Send as SendIcon } from 'lucide-react'
import { useState } from 'react'
import { answer, api, Refused } from '../../api/client'
import { Act, Empty, Heading, Tool } from '../../parts/buttons'
import { useCatalog } from '../../parts/useCatalog'
import { chosenLayers, useOf, useStudio } from '../../store'
import { HandOn } from './HandOn'
import { asked, span, START } from './sending'
import { filesOf, Played, Sent } from './Sent'
import { Snags } from './Snags'
import { type Asked, Together } from './Together'
import { What } from './What'

/** What is sent (left), what came of it (middle), and what waits or was sent (right). */
export function Send() {
  const { view, jobs, say, takeJob, go } = useOf('view', 'jobs', 'say', 'takeJob', 'go')
  const formats = useCatalog()?.formats ?? []
  const [wanted, setWanted] = useState(START)
  const [together, setTogether] = useState<Asked[]>([])
  const [shown, setShown] = useState<string | null>(null)
  if (!view || view.length === 0) {
    return (
      <Empty
        title="Send it"
        action={
          <Act main onClick={() => go('catch')}>
            Catch a frame
          </Act>
        }
      >
        There is nothing to send yet. Import a video first.
      </Empty>
    )
  }
  const { project } = view
  const exports = jobs.filter((j) => j.kind === 'export')
  const files = exports.flatMap(filesOf)
  const looked = files.find((f) => f.url === shown) ?? files[0]
  const going = exports.filter((j) => j.state === 'running' || j.state === 'waiting')
  const waiting = going.filter((j) => j.state === 'waiting')
  const held = going.some((j) => j.held)
  const attempt = async (work: () => Promise<unknown>) => {
    try {
      await work()
    } catch (error) {
      say(error instanceof Refused ? error.message : 'That did not work. Try it again.', 'trouble')
    }
  }
  const hold = (on: boolean) => attempt(() => answer(api.POST('/api/sending', { body: { held: on } })))
  const first = (job: string) =>
    attempt(async () => takeJob(await answer(api.POST('/api/jobs/{job}/first', { params: { path: { job } } }))))
  const chosen = () => {
    const now = useStudio.getState()
    const single = formats.find((f) => f.kind === wanted.kind)?.on.includes('single') ?? false
    const layers = chosenLayers(now)
    return asked(wanted, layers, span(wanted, now.view!, layers, now.playhead, single))
  }
  const start = async () => {
    const path = { project: project.id }
    const body = { ...chosen(), also: together }
    try {
      takeJob(await answer(api.POST('/api/projects/{project}/exports', { params: { path }, body })))
      setTogether([])
      setShown(null)
    } catch (error) {
      say(error instanceof Refused ? error.message : 'The piece could not be sent.', 'trouble')
    }
  }
  return (
    <Flex h="100%" minH="0">
      <Box w="292px" flexShrink="1" minW="236px" borderRight="1px solid {colors.rule}" px="4" pb="3" overflowY="auto">
        <What wanted={wanted} onChange={(given) => setWanted((w) => ({ ...w, ...given }))} />
        <Together waiting={together} onRemove={(n) => setTogether((those) => those.filter((_, k) => k !== n))} />
        <Flex mt="3" gap="1.5">
          <Act main icon={SendIcon} onClick={() => void start()}>
            {together.length ? `Send all ${together.length + 1}` : 'Send'}
          </Act>
          <Act
            icon={Plus}
            hint="Keep this, choose another format or size, and send them in one go: all is drawn once"
            onClick={() => setTogether((those) => [...those, chosen()])}
          >
            And another
          </Act>
        </Flex>
        <HandOn />
      </Box>
      <Flex
        flex="1"
        minW="120px"
        p="3"
        align="center"
        justify="center"
        overflow="hidden"
        css={{ containerType: 'inline-size' }}
      >
        {looked ? (
          <Played key={looked.url} file={looked} />
        ) : (
          <Text color="soft" textAlign="center" maxW="260px">
            What was sent is played here, beside the piece, frame by frame.
          </Text>
        )}
      </Flex>
      <Box w="252px" flexShrink="1" minW="180px" borderLeft="1px solid {colors.rule}" px="4" pb="3" overflowY="auto">
        <Snags />
        <Flex align="center" justify="space-between">
          <Heading>Sent</Heading>
          {going.length > 0 && (
            <Tool
              icon={held ? Play : Pause}
              size={28}
              label={held ? 'Go on sending' : 'Hold up what is sent'}
              onClick={() => void hold(!held)}
            />
          )}
        </Flex>
        {exports.length === 0 && (
          <Text color="soft">
            Nothing yet. A file appears here, and in the data folder’s “exports”, only when it is complete.
          </Text>
        )}
        {exports.map((j) => (
          <Box key={j.id} py="2" borderBottom="1px solid {colors.rule}" data-export={j.state}>
            <Sent
              job={j}
              shown={looked?.url}
              onShow={setShown}
              onFirst={j.state === 'waiting' && waiting.length > 1 ? () => void first(j.id) : undefined}
            />
          </Box>
        ))}
      </Box>
    </Flex>
  )
}
