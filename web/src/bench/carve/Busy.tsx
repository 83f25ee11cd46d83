import { Box, Flex, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import { Progress, Tool } from '../../parts/buttons'
import { useStudio } from '../../store'
import { cancelJob } from '../../parts/Working'
import { remainingWords } from '../../parts/words'

/** What is being looked for, how far that is, and a way out. */
export function Busy({ words, job }: { words: string; job: boolean }) {
  const running = useStudio((s) =>
    job ? s.jobs.find((j) => j.kind === 'find' && (j.state === 'running' || j.state === 'waiting')) : undefined,
  )
  return (
    <Flex
      position="absolute"
      left="50%"
      top="48px"
      transform="translateX(-50%)"
      bg="card"
      borderRadius="soft"
      px="3"
      py="2"
      gap="3"
      align="center"
      role="status"
      border="1px solid {colors.rule}"
      onPointerDown={(e) => e.stopPropagation()}
    >
      <Box minW="170px">
        <Text fontWeight="600">{words}…</Text>
        {running && (
          <>
            <Progress share={running.progress} label={words} />
            <Text color="soft" fontSize="12px">
              {remainingWords(running.remaining)}
            </Text>
          </>
        )}
      </Box>
      {running && <Tool icon={X} size={26} label="Cancel" onClick={() => void cancelJob(running.id)} />}
    </Flex>
  )
}
