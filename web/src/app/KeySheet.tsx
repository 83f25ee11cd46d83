import { Box, Dialog, Flex, Grid, Portal, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import { Fragment } from 'react'
import { Tool } from '../parts/buttons'
import { sheet } from '../parts/keys'

/** All keys on one sheet. */
export function KeySheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={(e) => !e.open && onClose()} size="lg" placement="center">
      <Portal>
        <Dialog.Backdrop bg="blackAlpha.400" />
        <Dialog.Positioner>
          <Dialog.Content bg="card" borderRadius="soft" p="5" maxW="680px">
            <Flex justify="space-between" align="center" mb="3">
              <Dialog.Title fontFamily="heading" fontSize="19px">
                Keyboard
              </Dialog.Title>
              <Tool icon={X} label="Close" onClick={onClose} />
            </Flex>
            <Grid templateColumns="190px 1fr" rowGap="1.5" columnGap="4">
              {sheet().map(([keys, what]) => (
                <Fragment key={`${keys} ${what}`}>
                  <Box textAlign="right">
                    <Text as="kbd" fontFamily="body" fontWeight="600" bg="paper" px="2" py="0.5" borderRadius="soft">
                      {keys}
                    </Text>
                  </Box>
                  <Text>{what}</Text>
                </Fragment>
              ))}
            </Grid>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  )
}
