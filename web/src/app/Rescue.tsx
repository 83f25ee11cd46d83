import { Box, Flex, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { LifeBuoy, Undo2 } from 'lucide-react'
import { answer, api, Refused } from '../api/client'
import { Act } from '../parts/buttons'
import { PlainHeader } from './Header'
import { useOf } from '../store'
import { moment } from '../parts/words'

/** A project that cannot be shown: its steps, to take back the last of them until it can be. */
export function Rescue({ project, onSheet }: { project: string; onSheet: () => void }) {
  const { open, close, say } = useOf('open', 'close', 'say')
  const list = useQuery({
    queryKey: ['steps', project],
    queryFn: () => answer(api.GET('/api/projects/{project}/steps', { params: { path: { project } } })),
    staleTime: 0,
    gcTime: 0,
  })
  const takeBack = async (step: number) => {
    try {
      await answer(api.POST('/api/projects/{project}/rescue', { params: { path: { project } }, body: { step } }))
      await open(project)
    } catch (error) {
      const more = error instanceof Refused && error.rescue
      say(
        more
          ? 'It still cannot be shown. Take one more step back.'
          : error instanceof Refused
            ? error.message
            : 'That did not work. Try it again.',
        'trouble',
      )
      await list.refetch()
    }
  }
  const names = useQuery({ queryKey: ['projects'], queryFn: () => answer(api.GET('/api/projects')), staleTime: 60_000 })
  const name = names.data?.find((e) => e.id === project)?.name
  const steps = list.data ?? []
  const last = steps.find((s) => !s.undone)
  return (
    <>
      <PlainHeader onSheet={onSheet} onBrand={close} />
      <Box as="main" flex="1" overflowY="auto" px="6" py="8">
        <Box maxW="640px" mx="auto">
          <Flex align="center" gap="2.5" mb="2">
            <LifeBuoy size={24} aria-hidden />
            <Text as="h1" fontFamily="heading" fontWeight="680" fontSize="26px" letterSpacing="-0.01em">
              {name ? `“${name}”` : 'This project'} cannot be shown
            </Text>
          </Flex>
          <Text fontSize="14px" mb="5">
            Something that was done last left it in a state the program cannot lay out. Nothing is lost: footage, mattes
            and every step are there. Take back the last step, and it opens as it was before that; if not, one more.
            What is taken back can be done again with redo.
          </Text>
          <Flex gap="2" mb="6">
            {last && (
              <Act icon={Undo2} main onClick={() => void takeBack(last.number)}>
                Take back “{last.title}”
              </Act>
            )}
            <Act onClick={close}>All projects</Act>
          </Flex>
          {list.isError && <Text color="danger">{list.error.message}</Text>}
          {list.data && !last && (
            <Text color="soft">
              There is no step left to take back. “nervykite doctor” on the command line looks at the data folder.
            </Text>
          )}
          <Box as="ol" aria-label="Steps, the newest first" listStyleType="none" m="0" p="0">
            {steps.map((s) => (
              <Flex
                as="li"
                key={s.number}
                align="center"
                gap="3"
                minH="38px"
                px="3"
                bg={s.undone ? 'transparent' : 'card'}
                border="1px solid {colors.rule}"
                borderTopWidth={s === steps[0] ? '1px' : '0'}
              >
                <Text className="figures" color="soft" fontSize="12px" w="120px" flexShrink="0">
                  {moment(s.made)}
                </Text>
                <Text flex="1" truncate color={s.undone ? 'soft' : 'ink'}>
                  {s.title}
                </Text>
                {s.undone ? (
                  <Text color="soft" fontSize="12px">
                    taken back
                  </Text>
                ) : (
                  <Act
                    hint="Takes back this step and all after it"
                    label={`Back to before this: ${s.title}`}
                    onClick={() => void takeBack(s.number)}
                  >
                    Back to before this
                  </Act>
                )}
              </Flex>
            ))}
          </Box>
        </Box>
      </Box>
    </>
  )
}
