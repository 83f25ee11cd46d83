import { Box, Flex } from '@chakra-ui/react'
import { Diff, PersonStanding, Wind } from 'lucide-react'
import { Tool } from '../../parts/buttons'
import { withKey } from '../../parts/keys'
import { PAN, type ToolName, TOOLS } from './tools'

interface Props {
  tool: ToolName
  /** Whether something is being looked for. */
  busy: boolean
  plate: boolean
  onTool: (tool: ToolName) => void
  onPick: (kind: 'mover' | 'person' | 'difference') => void
}

/** The tools at the left: those of the hand, and the picks. */
export function Rail(p: Props) {
  return (
    <Flex
      direction="column"
      align="center"
      gap="0.5"
      w="42px"
      py="1.5"
      borderRight="1px solid {colors.rule}"
      flexShrink="0"
      overflowY="auto"
    >
      {TOOLS.map((group, i) => (
        <Flex
          key={i}
          direction="column"
          align="center"
          gap="0.5"
          borderTop={i ? '1px solid {colors.rule}' : undefined}
          pt={i ? '1' : undefined}
          mt={i ? '0.5' : undefined}
        >
          {group.map((t) => (
            <Tool
              key={t.name}
              size={30}
              icon={t.icon}
              label={t.label}
              hint={withKey(t.hint, t.name)}
              on={p.tool === t.name}
              onClick={() => p.onTool(t.name)}
            />
          ))}
        </Flex>
      ))}
      <Box w="24px" h="1px" bg="rule" my="0.5" flexShrink="0" />
      <Tool
        size={30}
        icon={Wind}
        label="Pick mover"
        hint="Pick mover: find what moves against the scene"
        disabled={p.busy}
        onClick={() => p.onPick('mover')}
      />
      <Tool
        size={30}
        icon={PersonStanding}
        label="Pick person"
        hint="Pick person: find the people in the frame"
        disabled={p.busy}
        onClick={() => p.onPick('person')}
      />
      <Tool
        size={30}
        icon={Diff}
        label="Pick difference"
        hint={
          p.plate
            ? 'Pick difference: what the clean plate does not show'
            : 'Pick difference needs a clean plate: build one at the right'
        }
        disabled={p.busy || !p.plate}
        onClick={() => p.onPick('difference')}
      />
      <Box w="24px" h="1px" bg="rule" my="0.5" flexShrink="0" />
      <Tool
        size={30}
        icon={PAN.icon}
        label={PAN.label}
        hint={withKey(PAN.hint, 'pan')}
        on={p.tool === 'pan'}
        onClick={() => p.onTool('pan')}
      />
    </Flex>
  )
}
