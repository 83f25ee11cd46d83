import { Box, Flex, Input, SimpleGrid, Text } from '@chakra-ui/react'
import { Check, Trash2, Wand } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { answer, api, Refused } from '../../api/client'
import { Act, Empty, Heading } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { Tile } from '../../parts/Tile'
import { useCatalog } from '../../parts/useCatalog'
import { cancelJob, Working } from '../../shelf/Shelf'
import { useOf } from '../../shell/store'
import { Loop, Says } from './Loop'
import { useMissing } from './useRecipes'

/** Frames before what was made. */
const BEFORE = 12

/** What somebody wants to make: recipes, each as it would look with their own footage (left), and its controls (right). */
export function Make() {
  const { view, jobs, say, takeJob, edit, go, chooseLayer, seek } = useOf(
    'view',
    'jobs',
    'say',
    'takeJob',
    'edit',
    'go',
    'chooseLayer',
    'seek',
  )
  const recipes = useCatalog()?.recipes ?? []
  const missing = useMissing()
  const made = view?.project.made.at(-1)
  const [kind, setKind] = useState<string | null>(made?.recipe.kind ?? null)
  const [given, setGiven] = useState<Record<string, unknown>>({})
  const last = useRef(made?.id)
  useEffect(() => {
    if (made && made.id !== last.current) {
      // What was made is looked at from shortly before it begins.
      const starts = made.layers.map((id) => view?.layers[id]?.start).filter((at) => at != null)
      if (starts.length) seek(Math.max(0, Math.min(...starts) - BEFORE))
    }
    last.current = made?.id
  }, [made, view, seek])
  if (!view || view.length === 0)
    return (
      <Empty title="What do you want to make?">
        Import a video first, or drop one anywhere. Then each of {recipes.length} recipes shows what it makes of it.
      </Empty>
    )
  const chosen = recipes.find((r) => r.kind === kind)
  const job = jobs.find((j) => j.kind === 'make' && j.state !== 'cancelled')
  const going = job && (job.state === 'running' || job.state === 'waiting') ? job : null
  const own = made?.recipe.kind === kind ? (made?.recipe as unknown as Record<string, unknown>) : {}
  const values: Record<string, unknown> = { ...own, ...given }
  const start = async () => {
    const { kind: _, ...settings } = values
    const body = { recipe: { ...settings, kind }, instead: made?.id ?? null }
    try {
      const path = { project: view.project.id }
      takeJob(await answer(api.POST('/api/projects/{project}/recipes', { params: { path }, body })))
    } catch (error) {
      say(error instanceof Refused ? error.message : 'That could not be made. Try it again.', 'trouble')
    }
  }
  const doubtful = (job?.state === 'done' ? ((job.result?.doubtful as string[] | undefined) ?? []) : []).filter((id) =>
    view.project.layers.some((l) => l.id === id),
  )
  const set = (name: string, value: unknown) => setGiven((g) => ({ ...g, [name]: value }))
  return (
    <Flex h="100%" minH="0" data-testid="make">
      <Box flex="1" minW="0" px="4" pb="3" overflowY="auto">
        <Heading>What do you want to make?</Heading>
        <SimpleGrid minChildWidth="118px" gap="2">
          {recipes.map((r) => (
            <Tile
              key={r.kind}
              label={r.title}
              hint={missing[r.kind] ?? r.hint}
              chosen={r.kind === kind}
              disabled={false}
              h="176px"
              picture={
                missing[r.kind] ? (
                  <Flex h="100%" align="center" justify="center" position="relative">
                    <Says>{missing[r.kind]!}</Says>
                  </Flex>
                ) : (
                  <Loop kind={r.kind} />
                )
              }
              onPick={() => {
                setKind(r.kind)
                setGiven({})
              }}
              onRest={() => undefined}
              onLeave={() => undefined}
            />
          ))}
        </SimpleGrid>
      </Box>
      <Box w="268px" flexShrink="0" borderLeft="1px solid {colors.rule}" px="4" pb="3" overflowY="auto">
        {!chosen ? (
          <Text color="soft" mt="4">
            Choose one. All that it makes are ordinary layers, to be changed as you like.
          </Text>
        ) : (
          <>
            <Heading>{chosen.title}</Heading>
            <Text fontSize="12px" mb="2">
              {chosen.hint}. {chosen.when}
            </Text>
            {chosen.words &&
              (['name', 'line'] as const).map((field) => (
                <Flex key={field} align="center" gap="2" minH="36px">
                  <Text w="48px">{field === 'name' ? 'Name' : 'Line'}</Text>
                  <Input
                    aria-label={field === 'name' ? 'Name' : 'Line'}
                    size="sm"
                    h="30px"
                    bg="raised"
                    borderRadius="soft"
                    maxLength={80}
                    value={String(values[field] ?? (field === 'name' ? 'Your name' : ''))}
                    onChange={(e) => set(field, e.target.value)}
                  />
                </Flex>
              ))}
            <Controls
              schema={chosen.settings}
              values={values}
              onDraft={set}
              onCommit={set}
              shows={(s) => s.name !== 'name' && s.name !== 'line'}
            />
            <Box mt="3">
              {going ? (
                <Working
                  name={going.message ?? going.title}
                  share={going.progress}
                  remaining={going.remaining ?? null}
                  cancel="Stop making it"
                  hint="What is done until now stays"
                  onCancel={() => void cancelJob(going.id)}
                />
              ) : (
                <Flex gap="1.5" wrap="wrap">
                  <Act main icon={Wand} disabled={Boolean(missing[chosen.kind])} onClick={() => void start()}>
                    {made ? (made.recipe.kind === kind ? 'Make it anew' : 'Make this instead') : 'Make it'}
                  </Act>
                  {made && (
                    <Act icon={Trash2} onClick={() => void edit({ kind: 'remove made', made: made.id })}>
                      Take it away
                    </Act>
                  )}
                </Flex>
              )}
            </Box>
            {job?.state === 'failed' && (
              <Text color="danger" fontSize="12px" mt="2">
                {job.message}
              </Text>
            )}
            {made && !going && (
              <Flex align="center" gap="1" mt="2" fontSize="12px" data-testid="made">
                <Check size={14} aria-hidden="true" />
                <Text>{recipes.find((r) => r.kind === made.recipe.kind)?.title} is in the piece.</Text>
              </Flex>
            )}
            {doubtful.length > 0 && (
              <Box mt="2">
                <Text fontSize="12px">Look at these mattes, the most doubtful first:</Text>
                <Flex gap="1.5" wrap="wrap" mt="1">
                  {doubtful.map((id) => (
                    <Act
                      key={id}
                      onClick={() => {
                        chooseLayer(id)
                        go('carve')
                      }}
                    >
                      {view.project.layers.find((l) => l.id === id)?.name}
                    </Act>
                  ))}
                </Flex>
              </Box>
            )}
            <Text color="soft" fontSize="12px" mt="3">
              {chosen.film}
            </Text>
            <Text color="soft" fontSize="12px" mt="1.5">
              Often goes wrong: {chosen.missed}
            </Text>
          </>
        )}
      </Box>
    </Flex>
  )
}
