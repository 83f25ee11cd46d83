import { Box, Flex, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import { Heading, Tool } from '../../parts/buttons'
import { useCatalog } from '../../parts/useCatalog'
import { useOf } from '../../store'
import type { asked } from './sending'

export type Asked = ReturnType<typeof asked>

/** What waits to be sent in one go with what is chosen. */
export function Together(p: { waiting: Asked[]; onRemove: (n: number) => void }) {
  const { view } = useOf('view')
  const formats = useCatalog()?.formats ?? []
  if (p.waiting.length === 0) return null
  const words = ({ writer, sending }: Asked) => {
    const names = sending.layers.map((id) => view!.project.layers.find((l) => l.id === id)?.name ?? '?')
    const what = sending.what === 'layers' ? names.join(', ') : `the ${sending.what}`
    const size = sending.size ? `, ${sending.size[0]} × ${sending.size[1]}` : ''
    return `${formats.find((f) => f.kind === writer.kind)?.title ?? writer.kind}, ${what}${size}`
  }
  return (
    <Box mt="2">
      <Heading>Sent with it</Heading>
      {p.waiting.map((one, n) => (
        <Flex key={n} align="center" gap="1" data-together={one.writer.kind}>
          <Text flex="1" minW="0" truncate fontSize="12px" title={words(one)}>
            {words(one)}
          </Text>
          <Tool icon={X} size={24} label={`Do not send the ${words(one)}`} onClick={() => p.onRemove(n)} />
        </Flex>
      ))}
    </Box>
  )
}
