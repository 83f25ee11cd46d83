import { Box, Flex, Input, Text } from '@chakra-ui/react'
import { Check, Trash2, Wand } from 'lucide-react'
import { useState } from 'react'
import { answer, api, type Job, type Made, Refused } from '../../api/client'
import { Act, Choice, Heading } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { Pick } from '../../parts/Pick'
import { useCatalog } from '../../parts/useCatalog'
import { useOf } from '../../store'
import type { Offered } from './useRecipes'
import { cancelJob, Working } from '../../parts/Working'

/** The recipe that was chosen: of what it is made, its large controls, the making, and how to film for it. */
export function Recipe({ chosen, made }: { chosen: Offered | undefined; made: Made | undefined }) {
  const { view, jobs, say, takeJob, edit, layer, moreLayers } = useOf(
    'view',
    'jobs',
    'say',
    'takeJob',
    'edit',
    'layer',
    'moreLayers',
  )
  const own = made && chosen && isOf(made, chosen) ? (made.recipe as unknown as Record<string, unknown>) : {}
  const [given, setGiven] = useState<Record<string, unknown>>({})
  const takes = useTakes()
  const [items, setItems] = useState<string[]>([])
  const cutouts = [layer, ...moreLayers].filter((id): id is string => Boolean(id && view!.layers[id]?.hold))
  const [from, setFrom] = useState<'best' | 'chosen'>('best')
  if (!chosen)
    return (
      <Text color="soft" mt="4">
        Choose one. All that it makes are ordinary layers, to be changed as you like.
      </Text>
    )
  const job = jobs.find((j) => j.kind === 'make' && j.state !== 'cancelled')
  const going = job && (job.state === 'running' || job.state === 'waiting') ? job : null
  const texts = (given.texts ?? own.texts ?? chosen.asks.map((a) => a.words)) as string[]
  const values: Record<string, unknown> = { ...own, ...given, ...(chosen.asks.length && { texts }) }
  const set = (name: string, value: unknown) => setGiven((g) => ({ ...g, [name]: value }))
  const picked = chosen.takes <= takes.length && takes.length > 1
  const used = Array.from({ length: chosen.takes }, (_, n) => items[n] ?? takes[n]?.id ?? '')
  const start = async () => {
    const { kind: _, what: __, ...settings } = values
    const body = {
      recipe: { ...settings, kind: chosen.kind, ...(chosen.file && { file: chosen.file }) },
      items: picked ? used : null,
      layers: from === 'chosen' ? cutouts : [],
      instead: made?.id ?? null,
    }
    try {
      const path = { project: view!.project.id }
      takeJob(await answer(api.POST('/api/projects/{project}/recipes', { params: { path }, body })))
    } catch (error) {
      say(error instanceof Refused ? error.message : 'That could not be made. Try it again.', 'trouble')
    }
  }
  const again = made && isOf(made, chosen)
  return (
    <>
      <Heading>{chosen.title}</Heading>
      <Text fontSize="12px" mb="2">
        {chosen.hint}. {chosen.when}
      </Text>
      {chosen.words &&
        (['name', 'line'] as const).map((field) => (
          <Words
            key={field}
            label={field === 'name' ? 'Name' : 'Line'}
            value={String(values[field] ?? (field === 'name' ? 'Your name' : ''))}
            onType={(text) => set(field, text)}
          />
        ))}
      {chosen.asks.map((asked, n) => (
        <Words
          key={n}
          label={asked.title}
          value={texts[n] ?? asked.words}
          onType={(text) =>
            set(
              'texts',
              chosen.asks.map((a, m) => (m === n ? text : (texts[m] ?? a.words))),
            )
          }
        />
      ))}
      {cutouts.length > 0 && (
        <Choice
          label="Made of"
          value={from}
          onChange={setFrom}
          options={[
            { value: 'best', label: 'Best moments', hint: 'The program finds them in the footage' },
            {
              value: 'chosen',
              label: cutouts.length > 1 ? `${cutouts.length} chosen cutouts` : 'Chosen cutout',
              hint: 'The frames of the cutouts that are chosen',
            },
          ]}
        />
      )}
      {picked && from === 'best' && <TakesOf recipe={chosen} takes={takes} used={used} onItems={setItems} />}
      <Controls
        schema={chosen.schema}
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
            <Act main icon={Wand} disabled={Boolean(chosen.missing)} onClick={() => void start()}>
              {made ? (again ? 'Make it anew' : 'Make this instead') : 'Make it'}
            </Act>
            {made && (
              <Act icon={Trash2} onClick={() => void edit({ kind: 'remove made', made: made.id })}>
                Take it away
              </Act>
            )}
          </Flex>
        )}
      </Box>
      <Came job={job} made={going ? undefined : made} />
      {chosen.film && (
        <Text color="soft" fontSize="12px" mt="3">
          {chosen.film}
        </Text>
      )}
      {chosen.missed && (
        <Text color="soft" fontSize="12px" mt="1.5">
          Often goes wrong: {chosen.missed}
        </Text>
      )}
    </>
  )
}

/** Which takes it is made of. */
function TakesOf(p: {
  recipe: Offered
  takes: { id: string; name: string }[]
  used: string[]
  onItems: (items: string[]) => void
}) {
  const { recipe, takes, used, onItems } = p
  return (
    <Box mb="1">
      {used.map((item, n) => (
        <Flex key={n} align="center" gap="2" minH="34px">
          <Text w="64px">{recipe.takes > 1 ? (n ? 'Onto' : 'From') : 'Take'}</Text>
          <Pick
            label={recipe.takes > 1 ? (n ? 'Onto take' : 'From take') : 'Take it is made of'}
            value={item}
            options={takes
              .filter((_, at) => at >= n && at + recipe.takes - n <= takes.length)
              .map((t) => [t.id, t.name])}
            onPick={(id) => {
              const at = takes.findIndex((t) => t.id === id)
              // Two takes lie one after the other: choosing the one says which the other is.
              onItems(used.map((_, m) => takes[at + m - n]?.id ?? ''))
            }}
          />
        </Flex>
      ))}
    </Box>
  )
}

/** Whether something was made by that recipe. */
export function isOf(made: Made, recipe: Offered): boolean {
  return recipe.file ? nameOf(made) === recipe.title : made.recipe.kind === recipe.kind
}

/** What a recipe of one's own is called; none for the others. */
function nameOf(made: Made): string | null {
  return (made.recipe as { what?: { name: string } }).what?.name ?? null
}

/** The takes in the ground, by their names. What a standstill parts is one. */
function useTakes(): { id: string; name: string }[] {
  const { view } = useOf('view')
  const played = view!.items.filter((i) => i.footage && i.range)
  const goesOn = (n: number) =>
    n > 0 && played[n]!.shot === played[n - 1]!.shot && played[n]!.range![0] === played[n - 1]!.range![1]
  return played.filter((_, n) => !goesOn(n)).map((t) => ({ id: t.id, name: t.name }))
}

function Words(p: { label: string; value: string; onType: (text: string) => void }) {
  return (
    <Flex align="center" gap="2" minH="36px">
      <Text w="64px" truncate title={p.label}>
        {p.label}
      </Text>
      <Input
        aria-label={p.label}
        size="sm"
        h="30px"
        bg="raised"
        borderRadius="soft"
        maxLength={80}
        value={p.value}
        onChange={(e) => p.onType(e.target.value)}
      />
    </Flex>
  )
}

/** What came of making it: what is in the piece, which mattes to look at, or why it failed. */
function Came({ job, made }: { job: Job | undefined; made: Made | undefined }) {
  const { view, chooseLayer, go } = useOf('view', 'chooseLayer', 'go')
  const kinds = useCatalog()?.recipes
  const recipe = made && (nameOf(made) ?? kinds?.find((r) => r.kind === made.recipe.kind)?.title)
  const doubtful = (job?.state === 'done' ? ((job.result?.doubtful as string[] | undefined) ?? []) : []).filter((id) =>
    view!.project.layers.some((l) => l.id === id),
  )
  return (
    <>
      {job?.state === 'failed' && (
        <Text color="danger" fontSize="12px" mt="2">
          {job.message}
        </Text>
      )}
      {made && (
        <Flex align="center" gap="1" mt="2" fontSize="12px" data-testid="made">
          <Check size={14} aria-hidden="true" />
          <Text>{recipe} is in the piece.</Text>
        </Flex>
      )}
      {made?.said.map((sentence) => (
        <Text key={sentence} fontSize="12px" mt="1" data-testid="said">
          {sentence}
        </Text>
      ))}
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
                {view!.project.layers.find((l) => l.id === id)?.name}
              </Act>
            ))}
          </Flex>
        </Box>
      )}
    </>
  )
}
