import { Box, Flex, Grid, Image, Text } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { ChevronDown, ChevronRight, Copy, PackageOpen, Pencil, Plus, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { answer, api, type Entry, openHanded, Refused } from '../api/client'
import { Act, Empty, Tool } from '../parts/buttons'
import { NameField } from '../parts/fields'
import { DropArea } from './DropArea'
import { PlainHeader } from './Header'
import { useOf } from '../store'
import { chooseFiles } from '../parts/pickFiles'
import { bytes, day } from '../parts/words'

/** Whether a file is a piece that was handed on. */
const isHanded = (file: File) => /\.(zip|otioz?)$/i.test(file.name)

/** All projects: open, make, rename, duplicate, delete. */
export function ProjectList({ onSheet }: { onSheet: () => void }) {
  const { open, say, importFiles } = useOf('open', 'say', 'importFiles')
  const queries = useQueryClient()
  const list = useQuery({
    queryKey: ['projects'],
    queryFn: () => answer(api.GET('/api/projects')),
    staleTime: 0,
    gcTime: 0,
  })
  const again = () => queries.invalidateQueries({ queryKey: ['projects'] })
  const attempt = async (work: () => Promise<unknown>) => {
    try {
      await work()
      await again()
    } catch (error) {
      say(error instanceof Refused ? error.message : 'That did not work. Reload the page and try again.', 'trouble')
    }
  }
  const make = (name = 'New piece') =>
    attempt(async () => {
      const view = await answer(api.POST('/api/projects', { body: { name } }))
      await open(view.project.id)
    })
  const opened = (file: File) => {
    say(`Opening ${file.name}…`)
    return attempt(async () => {
      const { project, left } = await openHanded(file)
      await open(project)
      if (left.length) say(`Not taken over: ${left.join(' ')}`)
    })
  }
  /** Bundles and timelines are opened; of all else a project is made that is called as the first of them. */
  const dropped = async (files: File[]) => {
    const [bundles, others] = [files.filter(isHanded), files.filter((f) => !isHanded(f))]
    for (const file of bundles) await opened(file)
    if (!others.length) return
    await make(others[0]!.name.replace(/\.[^.]*$/, '').slice(0, 80) || undefined)
    await importFiles(others)
  }
  const bundle = () => chooseFiles('.zip,.otioz,.otio,application/zip', ([file]) => void opened(file!))
  return (
    <DropArea says="Let go to make a new piece of it" onFiles={(files) => void dropped(files)}>
      <PlainHeader onSheet={onSheet} />
      <Box as="main" flex="1" overflowY="auto" px={{ base: '6', lg: '12' }} py="8">
        <Flex align="center" justify="space-between" mb="5" maxW="1280px" mx="auto">
          <Text as="h1" fontFamily="heading" fontWeight="680" fontSize="26px" letterSpacing="-0.01em">
            Projects
          </Text>
          <Flex gap="2">
            <Act
              icon={PackageOpen}
              hint="A piece that was handed on with all that it needs, or a timeline (.otioz, .otio)"
              onClick={bundle}
            >
              Open a bundle
            </Act>
            <Act icon={Plus} main onClick={() => void make()}>
              New project
            </Act>
          </Flex>
        </Flex>
        {list.data?.length === 0 && (
          <Empty
            title="Nothing on the line yet"
            action={
              <Act icon={Plus} main onClick={() => void make()}>
                New project
              </Act>
            }
          >
            A project holds your footage and the cutouts that fly over it. Make one, or drop a video here.
          </Empty>
        )}
        {list.isError && <Empty title="The projects cannot be read">{list.error.message}</Empty>}
        <Grid templateColumns="repeat(auto-fill, minmax(210px, 1fr))" gap="5" maxW="1280px" mx="auto">
          {list.data?.map((e) => (
            <Card key={e.id} entry={e} attempt={attempt} />
          ))}
        </Grid>
        <Deleted attempt={attempt} />
      </Box>
    </DropArea>
  )
}

type Attempt = (work: () => Promise<unknown>) => Promise<void>

/** One project: its picture, its name, and what can be done with it. */
function Card({ entry: e, attempt }: { entry: Entry; attempt: Attempt }) {
  const { open, say } = useOf('open', 'say')
  const [renaming, setRenaming] = useState(false)
  const at = (project: string) => ({ params: { path: { project } } })
  const remove = () =>
    attempt(async () => {
      await answer(api.DELETE('/api/projects/{project}', at(e.id)))
      say(
        `${e.name} was deleted.`,
        'info',
        () => void attempt(() => answer(api.POST('/api/projects/{project}/restore', at(e.id)))),
      )
    })
  return (
    <Box bg="card" border="1px solid {colors.rule}" borderRadius="soft" overflow="hidden" data-project={e.name}>
      <Box
        as="button"
        aria-label={`Open ${e.name}`}
        display="block"
        w="100%"
        h="250px"
        bg="surround"
        cursor="pointer"
        onClick={() => void open(e.id)}
      >
        <Poster entry={e} />
      </Box>
      <Flex align="center" pl="3" pr="1" py="1.5" gap="1">
        <Box flex="1" minW="0">
          <Called
            name={e.name}
            renaming={renaming}
            onOpen={() => void open(e.id)}
            onEnd={() => setRenaming(false)}
            onCommit={(name) =>
              void attempt(() =>
                answer(
                  api.POST('/api/projects/{project}/edits', {
                    ...at(e.id),
                    body: { revision: e.revision, edit: { kind: 'rename project', name } },
                  }),
                ),
              )
            }
          />
          <Text color="soft" fontSize="12px" className="figures" truncate>
            {day(e.changed)}
          </Text>
          <Text color="soft" fontSize="12px" className="figures" truncate>
            {e.width} × {e.height} · {bytes(e.bytes)}
          </Text>
        </Box>
        <Tool icon={Pencil} label={`Rename ${e.name}`} size={24} onClick={() => setRenaming(true)} />
        <Tool
          icon={Copy}
          label={`Duplicate ${e.name}`}
          size={24}
          onClick={() => void attempt(() => answer(api.POST('/api/projects/{project}/duplicate', at(e.id))))}
        />
        <Tool icon={Trash2} label={`Delete ${e.name}`} size={24} onClick={() => void remove()} />
      </Flex>
    </Box>
  )
}

/** Projects that were deleted: for a week they can be brought back, or their room given back at once. */
function Deleted({ attempt }: { attempt: Attempt }) {
  const [shown, setShown] = useState(false)
  const list = useQuery({
    queryKey: ['projects', 'deleted'],
    queryFn: () => answer(api.GET('/api/deleted-projects')),
    staleTime: 0,
    gcTime: 0,
  })
  const at = (project: string) => ({ params: { path: { project } } })
  if (!list.data?.length) return null
  return (
    <Box as="section" aria-label="Deleted projects" maxW="1280px" mx="auto" mt="8">
      <Flex align="center" gap="3">
        <Act icon={shown ? ChevronDown : ChevronRight} onClick={() => setShown(!shown)}>
          Deleted ({list.data.length})
        </Act>
        <Text color="soft">They go for good a week after they were deleted.</Text>
      </Flex>
      {shown &&
        list.data.map((e) => (
          <Flex key={e.id} align="center" gap="3" minH="42px" borderBottom="1px solid {colors.rule}" px="1">
            <Text flex="1" minW="0" truncate fontWeight="600">
              {e.name}
            </Text>
            <Text color="soft" fontSize="12px" className="figures">
              deleted {day(e.deleted ?? e.changed)} · {bytes(e.bytes)}
            </Text>
            <Act
              label={`Restore ${e.name}`}
              onClick={() => void attempt(() => answer(api.POST('/api/projects/{project}/restore', at(e.id))))}
            >
              Restore
            </Act>
            <Act
              icon={Trash2}
              label={`Delete for good: ${e.name}`}
              hint="This cannot be undone"
              onClick={() => void attempt(() => answer(api.DELETE('/api/deleted-projects/{project}', at(e.id))))}
            >
              Delete for good
            </Act>
          </Flex>
        ))}
    </Box>
  )
}

function Poster({ entry }: { entry: Entry }) {
  return (
    <Image
      src={`/api/projects/${entry.id}/poster.jpg?height=480&revision=${entry.revision}`}
      alt=""
      w="100%"
      h="100%"
      objectFit="contain"
      onError={(e) => {
        e.currentTarget.style.visibility = 'hidden'
      }}
    />
  )
}

/** A project's name: press it to open the project. */
function Called(p: {
  name: string
  renaming: boolean
  onOpen: () => void
  onEnd: () => void
  onCommit: (name: string) => void
}) {
  if (p.renaming) return <NameField strong label="Project name" value={p.name} onCommit={p.onCommit} onEnd={p.onEnd} />
  return (
    <Box
      as="button"
      aria-label={`${p.name}, open`}
      display="block"
      maxW="100%"
      truncate
      textAlign="left"
      fontWeight="600"
      cursor="pointer"
      onClick={p.onOpen}
    >
      {p.name}
    </Box>
  )
}
