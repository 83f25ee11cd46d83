import { Box, Flex, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import { useEffect } from 'react'
import { Act, Tool } from '../parts/buttons'
import { useStudio } from '../store'

/** The last thing the program has to say, at the foot of the page. */
export function Message() {
  const message = useStudio((s) => s.message)
  const hush = useStudio((s) => s.hush)
  useEffect(() => {
    if (!message) return
    const timer = setTimeout(hush, message.tone === 'trouble' || message.undo ? 12000 : 5000)
    return () => clearTimeout(timer)
  }, [message, hush])
  if (!message) return null
  return (
    <Box position="fixed" bottom="14px" right="18px" zIndex="20" maxW="min(720px, 60vw)">
      <Flex
        role={message.tone === 'trouble' ? 'alert' : 'status'}
        align="center"
        gap="3"
        pl="4"
        pr="1"
        py="1"
        bg="raised"
        border="1px solid"
        borderLeft="4px solid"
        borderColor={message.tone === 'trouble' ? 'now' : 'selected'}
        borderRadius="soft"
        boxShadow="0 2px 10px rgba(0,0,0,.14)"
      >
        <Text py="1.5">{message.text}</Text>
        {message.undo && (
          <Act
            onClick={() => {
              message.undo?.()
              hush()
            }}
          >
            {message.does ?? 'Undo'}
          </Act>
        )}
        <Tool icon={X} label="Close message" size={28} onClick={hush} />
      </Flex>
    </Box>
  )
}
