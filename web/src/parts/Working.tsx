import { Box, Flex, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import { answer, api } from '../api/client'
import { useStudio } from '../store'
import { Progress, Tool } from './buttons'
import { remainingWords } from './words'

export async function cancelJob(job: string): Promise<void> {
  useStudio.getState().takeJob(await answer(api.POST('/api/jobs/{job}/cancel', { params: { path: { job } } })))
}

/** Something that takes a while: how far it is, how long it will take, and a way to stop it. */
export function Working(p: {
  name: string
  share: number
  remaining?: number | null
  cancel?: string
  hint?: string
  onCancel: () => void
}) {
  return (
    <Box py="1.5">
      <Flex justify="space-between" align="center" gap="2">
        <Text truncate>{p.name}</Text>
        <Tool
          icon={X}
          label={p.cancel ?? `Cancel: ${p.name}`}
          hint={p.hint ?? 'Cancel'}
          size={24}
          onClick={p.onCancel}
        />
      </Flex>
      <Progress share={p.share} label={p.name} />
      {p.remaining !== undefined && (
        <Text color="soft" fontSize="12px" mt="1">
          {remainingWords(p.remaining)}
        </Text>
      )}
    </Box>
  )
}
