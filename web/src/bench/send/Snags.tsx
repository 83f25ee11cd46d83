import { Box, Flex, Text } from '@chakra-ui/react'
import { Eye, Wand } from 'lucide-react'
import type { Edit } from '../../api/client'
import { Act, Heading } from '../../parts/buttons'
import { type Step, timecode, useOf } from '../../store'
import { type Snag, useSnags } from './useSnags'

/** What will look wrong, each with a way to it, and a way out of it where one press is enough. */
export function Snags() {
  const { view, edit, seek, go, chooseLayer, chooseItem } = useOf(
    'view',
    'edit',
    'seek',
    'go',
    'chooseLayer',
    'chooseItem',
  )
  const snags = useSnags()
  const show = (snag: Snag) => {
    if (snag.layer) chooseLayer(snag.layer)
    else if (snag.item) chooseItem(snag.item)
    if (snag.frame !== null) seek(snag.frame)
    go(snag.step as Step)
  }
  return (
    <>
      <Heading>{snags?.length ? `Snags (${snags.length})` : 'Snags'}</Heading>
      {!snags?.length && (
        <Text color="soft" fontSize="12px">
          {snags ? 'Nothing will look wrong, as far as can be told.' : 'Looking…'}
        </Text>
      )}
      {snags?.map((snag) => (
        <Box
          key={`${snag.check} ${snag.layer ?? snag.item} ${snag.says}`}
          py="1.5"
          borderBottom="1px solid {colors.rule}"
          data-snag={snag.check}
        >
          <Text fontSize="12.5px" title={snag.title}>
            {snag.frame !== null && (
              <Box as="span" color="soft" className="figures" mr="1.5">
                {timecode(snag.frame, view!.project.rate)}
              </Box>
            )}
            {snag.says}
          </Text>
          <Flex gap="1.5" mt="1" wrap="wrap">
            <Act icon={Eye} onClick={() => show(snag)}>
              Show me
            </Act>
            {snag.fix && (
              <Act icon={Wand} onClick={() => void edit(snag.fix as Edit)}>
                {snag.fixes}
              </Act>
            )}
          </Flex>
        </Box>
      ))}
    </>
  )
}
