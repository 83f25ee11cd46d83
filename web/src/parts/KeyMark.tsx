import { Box } from '@chakra-ui/react'
import { Hint } from './buttons'
import { Kite } from './Kite'

/** The kite beside a value: whether there is a key here, and how to set or remove it. */
export function KeyMark({ name, here, onToggle }: { name: string; here: boolean; onToggle: () => void }) {
  return (
    <Hint text={here ? 'Remove the key here' : 'Set a key here'}>
      <Box
        as="button"
        aria-label={`${here ? 'Remove' : 'Set'} ${name} key`}
        aria-pressed={here}
        w="22px"
        h="22px"
        display="grid"
        placeItems="center"
        cursor="pointer"
        opacity={here ? 1 : 0.32}
        onClick={onToggle}
      >
        <Kite size={12} />
      </Box>
    </Hint>
  )
}
