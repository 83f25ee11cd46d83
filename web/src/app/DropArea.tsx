import { Flex, Text } from '@chakra-ui/react'
import { type DragEvent, type ReactNode, useState } from 'react'

/** All of the page, onto which files can be dropped. */
export function DropArea(p: { says: string; onFiles: (files: File[]) => void; children: ReactNode }) {
  const [over, setOver] = useState(false)
  const handlers = {
    onDragOver: (e: DragEvent) => {
      if (!e.dataTransfer.types.includes('Files')) return
      e.preventDefault()
      setOver(true)
    },
    onDragLeave: (e: DragEvent) => e.currentTarget === e.target && setOver(false),
    onDrop: (e: DragEvent) => {
      e.preventDefault()
      setOver(false)
      const files = Array.from(e.dataTransfer.files)
      if (files.length) p.onFiles(files)
    },
  }
  return (
    <Flex direction="column" h="100%" {...handlers}>
      {p.children}
      {over && (
        <Flex
          position="fixed"
          inset="0"
          align="center"
          justify="center"
          bg="selected/30"
          border="4px solid"
          borderColor="selected"
          pointerEvents="none"
          zIndex="10"
        >
          <Text bg="card" px="5" py="3" borderRadius="soft" fontFamily="heading" fontSize="20px" fontWeight="650">
            {p.says}
          </Text>
        </Flex>
      )}
    </Flex>
  )
}
