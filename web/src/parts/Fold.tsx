import { Box, Flex } from '@chakra-ui/react'
import { ChevronDown, ChevronRight } from 'lucide-react'
import { type ReactNode, useState } from 'react'

/** A part of a column that folds to its heading, and stays as it was left. */
export function Fold(p: { name: string; title: ReactNode; aside?: ReactNode; closed?: boolean; children: ReactNode }) {
  const kept = globalThis.localStorage?.getItem(`fold ${p.name}`)
  const [open, setOpen] = useState(kept ? kept === 'open' : !p.closed)
  const Icon = open ? ChevronDown : ChevronRight
  const toggle = () => {
    localStorage.setItem(`fold ${p.name}`, open ? 'closed' : 'open')
    setOpen(!open)
  }
  return (
    <Box>
      <Flex align="center" justify="space-between" mt="2" minH="26px">
        <Flex
          as="button"
          align="center"
          gap="1"
          fontWeight="700"
          cursor="pointer"
          aria-expanded={open}
          onClick={toggle}
          ml="-4px"
        >
          <Icon size={14} />
          {p.title}
        </Flex>
        {p.aside}
      </Flex>
      {open && p.children}
    </Box>
  )
}
