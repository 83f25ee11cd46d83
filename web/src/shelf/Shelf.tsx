import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import {
  ArrowDownToLine,
  ArrowUpToLine,
  AudioLines,
  Import,
  Download,
  Palette,
  Scissors,
  Stamp,
  Trash2,
  TriangleAlert,
  Type,
  Wand,
  X,
} from 'lucide-react'
import { answer, api, type Asset, type Hold, Refused as Refusal, type Room, type SavedMatte } from '../api/client'
import { fresh, withPieces } from '../parts/clipboard'
import { Act, Heading, Tool } from '../parts/buttons'
import { NameField } from '../parts/fields'
import { download } from '../parts/download'
import { useCutout, useOf, useStudio } from '../store'
import { bytes, rateWords } from '../parts/words'
import { carriedOf, carrying, putDown } from '../sky/carried'
import { pickFiles } from '../parts/pickFiles'
import { cancelJob, Working } from '../parts/Working'

/** The drawer with the project's shots and holds, and what is being imported. */
export function Shelf() {
  const { shelf, view, toggleShelf, edit, jobs, uploads } = useOf(
    'shelf',
    'view',
    'toggleShelf',
    'edit',
    'jobs',
    'uploads',
  )
  const room = useRoom()
  const item = useStudio((s) => s.item)
  const importing = jobs.filter((j) => j.kind === 'import' && (j.state === 'running' || j.state === 'waiting'))
  const refused = useStudio((s) => s.refused.length)
  if (!view || (!shelf && !importing.length && !uploads.length && !refused)) return null
  const shots = Object.values(view.shots)
  const holds = Object.values(view.holds)
  const after = view.project.ground.findIndex((g) => g.id === item)
  return (
    <Box
      as="aside"
      aria-label="Shelf"
      w="232px"
      flexShrink="0"
      bg="card"
      borderLeft="1px solid {colors.rule}"
      overflowY="auto"
      p="3"
    >
      <Flex justify="space-between" align="center">
        <Text fontFamily="heading" fontWeight="680" fontSize="16px">
          Shelf
        </Text>
        {shelf && <Tool icon={X} label="Close shelf" size={28} onClick={toggleShelf} />}
      </Flex>
      <Heading
        aside={
          <Act icon={Import} onClick={() => pickFiles()}>
            Import
          </Act>
        }
      >
        Shots
      </Heading>
      {uploads.map((u) => (
        <Working key={u.id} name={`Reading in ${u.name}`} share={u.share} onCancel={u.stop} />
      ))}
      {importing.map((j) => (
        <Working
          key={j.id}
          name={j.title}
          share={j.progress}
          remaining={j.remaining}
          onCancel={() => void cancelJob(j.id)}
        />
      ))}
      {shots.length === 0 && !importing.length && (
        <Text color="soft">No shots yet. Drop videos, pictures or sounds anywhere.</Text>
      )}
      {shots.map((shot) => (
        <Flex key={shot.id} gap="2" align="center" py="1.5" cursor="grab" data-shot={shot.name} {...carrying(shot.id)}>
          <Image
            src={`/api/projects/${view.project.id}/shots/${shot.id}/frames/${Math.floor(shot.frames / 2)}.jpg?width=80`}
            alt=""
            draggable={false}
            w="40px"
            h="52px"
            objectFit="cover"
            borderRadius="4px"
          />
          <Box flex="1" minW="0">
            <Text fontWeight="600" truncate>
              {shot.name}
            </Text>
            <Text color="soft" fontSize="12px" className="figures">
              {shot.width} × {shot.height} · {Number(shot.seconds.toFixed(1))} s
            </Text>
            <Text color="soft" fontSize="12px" truncate>
              {rateWords(shot.rate)}
              {shot.variable && ' variable'}
              {room?.shots[shot.id] !== undefined && ` · ${bytes(room.shots[shot.id]!)}`} · {shot.colour}
            </Text>
            {shot.note && (
              <Flex color="danger" fontSize="12px" gap="1" title={shot.note}>
                <TriangleAlert size={13} style={{ flexShrink: 0, marginTop: 2 }} />
                <Text>{shot.note}</Text>
              </Flex>
            )}
          </Box>
          <Tool
            icon={ArrowDownToLine}
            size={28}
            label={`Add ${shot.name} to the ground`}
            hint={after < 0 ? 'Add to the end of the ground' : 'Add after what is chosen in the ground'}
            onClick={() => void edit({ kind: 'add ground', shot: shot.id, at: after < 0 ? null : after + 1 })}
          />
        </Flex>
      ))}
      <Refused />
      <Assets />
      <SavedMattes />
      <Heading>Holds</Heading>
      {holds.length === 0 && <Text color="soft">Holds you take appear here.</Text>}
      {holds.map((hold) => (
        <HoldRow key={hold.id} hold={hold} />
      ))}
      {room && (
        <Text color="soft" fontSize="12px" className="figures" mt="4" pt="2" borderTop="1px solid {colors.rule}">
          This project takes {bytes(room.bytes)}, with all that undo can bring back.
        </Text>
      )}
    </Box>
  )
}

/** A hold that was taken: a press chooses its first layer and carves it. */
function HoldRow({ hold }: { hold: Hold }) {
  const { view, chooseLayer, go } = useOf('view', 'chooseLayer', 'go')
  const users = view!.project.layers.filter((l) => view!.layers[l.id]?.hold === hold.id)
  const first = users[0]
  const at = hold.frame
  return (
    <Flex
      as="button"
      w="100%"
      gap="2"
      align="center"
      py="1"
      textAlign="left"
      cursor="pointer"
      onClick={() => {
        if (first) chooseLayer(first.id)
        go('carve')
      }}
    >
      {first && (
        <Image
          src={`/api/projects/${view!.project.id}/layers/${first.id}/thumbnail.png?side=80&r=${view!.revision}`}
          alt=""
          w="40px"
          h="40px"
          objectFit="contain"
        />
      )}
      <Box minW="0">
        <Text fontWeight="600" truncate>
          {hold.name}
        </Text>
        <Text color="soft" fontSize="12px">
          frame {at} · {users.length} layer{users.length === 1 ? '' : 's'}
        </Text>
      </Box>
    </Flex>
  )
}

/** Pictures and sounds that were imported: pictures to put into the sky, or into the ground. */
function Assets() {
  const { view, edit, layer, item } = useOf('view', 'edit', 'layer', 'item')
  const project = view!.project.id
  const after = view!.project.ground.findIndex((g) => g.id === item)
  const sorts = [
    { kind: 'picture', title: 'Pictures' },
    { kind: 'sound', title: 'Sounds' },
    { kind: 'table', title: 'Tables' },
    { kind: 'font', title: 'Fonts' },
    { kind: 'recipe', title: 'Recipes' },
  ] as const
  const { takeJob, trouble, make } = useOf('takeJob', 'trouble', 'make')
  const asShot = (a: Asset) => {
    const path = { project: view!.project.id, asset: a.id }
    const url = '/api/projects/{project}/assets/{asset}/shot' as const
    answer(api.POST(url, { params: { path } })).then(takeJob, trouble)
  }
  const fly = (a: Asset) => {
    const what = carriedOf(a.id)
    if (what) void putDown(what, { zone: 'sky', frame: useStudio.getState().playhead, row: 0, above: layer })
  }
  return sorts.map(({ kind, title }) => {
    const all = Object.values(view!.assets).filter((a) => a.kind === kind)
    if (!all.length) return null
    return (
      <Box key={kind}>
        <Heading>{title}</Heading>
        {all.map((a) => (
          <Flex
            key={a.id}
            gap="2"
            align="center"
            py="1"
            data-asset={a.name}
            {...((kind === 'picture' || kind === 'sound') && { cursor: 'grab', ...carrying(a.id) })}
          >
            <Flex w="40px" h="40px" align="center" justify="center" bg="paper" borderRadius="4px" flexShrink="0">
              {kind === 'recipe' ? (
                <Image src={`/api/recipes/${a.file}.webp`} alt="" maxW="100%" maxH="100%" />
              ) : kind === 'picture' ? (
                <Image
                  src={`/api/projects/${project}/assets/${a.id}.png?side=80`}
                  alt=""
                  draggable={false}
                  maxW="100%"
                  maxH="100%"
                />
              ) : kind === 'sound' ? (
                <AudioLines size={18} />
              ) : kind === 'font' ? (
                <Type size={18} />
              ) : (
                <Palette size={18} />
              )}
            </Flex>
            <Box flex="1" minW="0">
              <NameField
                label={`${title.slice(0, -1)} name`}
                value={a.name}
                onCommit={(name) => void edit({ kind: 'rename asset', asset: a.id, name })}
              />
              <Text color="soft" fontSize="12px" className="figures" truncate title={sizeOf(a)}>
                {sizeOf(a)}
              </Text>
            </Box>
            {kind === 'picture' && (
              <>
                <Tool
                  icon={ArrowUpToLine}
                  size={26}
                  label={`Add ${a.name} to the sky`}
                  disabled={!view!.length}
                  onClick={() => fly(a)}
                />
                <Tool
                  icon={ArrowDownToLine}
                  size={26}
                  label={`Add ${a.name} to the ground`}
                  onClick={() => void edit({ kind: 'add picture', asset: a.id, at: after < 0 ? null : after + 1 })}
                />
                <Tool
                  icon={Scissors}
                  size={26}
                  label={`Use ${a.name} as a shot`}
                  hint="Put it into the ground as footage of one frame, to hold it and cut somebody out"
                  onClick={() => asShot(a)}
                />
              </>
            )}
            {kind === 'recipe' && (
              <>
                <Tool icon={Wand} size={26} label={`Make ${a.name}`} onClick={make} />
                <Tool
                  icon={Download}
                  size={26}
                  label={`Hand out ${a.name}`}
                  hint="Saves it as a file, to be dropped into another project"
                  onClick={() => download(`/api/projects/${project}/assets/${a.id}.json`)}
                />
              </>
            )}
            <Tool
              icon={Trash2}
              size={26}
              label={`Take ${a.name} off the shelf`}
              onClick={() => void edit({ kind: 'remove asset', asset: a.id })}
            />
          </Flex>
        ))}
      </Box>
    )
  })
}

/** How large something of the shelf is, in words. */
function sizeOf(a: Asset): string {
  if (a.kind === 'sound') return `${Number(a.seconds.toFixed(1))} s`
  if (a.kind === 'recipe') return 'made at Make'
  if (a.kind === 'font') return 'a face for lettering'
  if (a.kind === 'picture') return `${a.width} × ${a.height}`
  return a.height > 1 ? `${a.width} × ${a.width} × ${a.width} colours` : `${a.width} steps each`
}

/** What could not be imported, and why. */
function Refused() {
  const { refused, forgetRefused } = useOf('refused', 'forgetRefused')
  if (!refused.length) return null
  return (
    <Box mt="3" p="2" border="1px solid {colors.danger}" borderRadius="soft" data-testid="refused">
      <Flex align="center" justify="space-between">
        <Text fontWeight="700" fontSize="13px">
          Not imported
        </Text>
        <Tool icon={X} size={24} label="Clear the list" onClick={forgetRefused} />
      </Flex>
      {refused.map((r, n) => (
        <Box key={n} py="1" fontSize="12.5px">
          <Text fontWeight="600" truncate>
            {r.name}
          </Text>
          <Text color="soft">{r.why}</Text>
        </Box>
      ))}
    </Box>
  )
}

/** How much of the disk the open project takes; asked anew while the shelf is open and something has changed. */
function useRoom(): Room | undefined {
  const { view, shelf } = useOf('view', 'shelf')
  const project = view?.project.id ?? ''
  const found = useQuery({
    queryKey: ['room', project, view?.revision],
    queryFn: () => answer(api.GET('/api/projects/{project}/room', { params: { path: { project } } })),
    enabled: Boolean(project) && shelf,
    placeholderData: (before) => before,
    gcTime: 0,
  })
  return found.data
}

/** Mattes that were saved for any hold of any project. */
function SavedMattes() {
  const { say, edit, go } = useOf('say', 'edit', 'go')
  const found = useCutout()
  const queries = useQueryClient()
  const saved = useQuery({
    queryKey: ['mattes'],
    queryFn: () => answer(api.GET('/api/mattes')) as Promise<SavedMatte[]>,
    staleTime: 30_000,
  })
  if (!saved.data?.length) return null
  const putOn = async (m: SavedMatte) => {
    if (!found) return
    const { hold, shot } = found
    const pieces = fresh(m.matte.pieces, shot.width / m.width, shot.height / m.height)
    if (await edit({ kind: 'change matte', hold: hold.id, matte: withPieces(hold.matte, pieces), frame: null }))
      go('carve')
  }
  const forget = async (m: SavedMatte) => {
    try {
      await answer(api.DELETE('/api/mattes/{matte}', { params: { path: { matte: m.id } } }))
      await queries.invalidateQueries({ queryKey: ['mattes'] })
    } catch (error) {
      say(error instanceof Refusal ? error.message : 'That did not work. Try it again.', 'trouble')
    }
  }
  return (
    <>
      <Heading>Mattes</Heading>
      {saved.data.map((m) => (
        <Flex key={m.id} align="center" gap="1" data-saved-matte={m.name}>
          <Box flex="1" minW="0">
            <Text fontWeight="600" truncate>
              {m.name}
            </Text>
            <Text color="soft" fontSize="12px" className="figures">
              {m.matte.pieces.length} piece{m.matte.pieces.length === 1 ? '' : 's'} · {m.width} × {m.height}
            </Text>
          </Box>
          <Tool
            icon={Stamp}
            size={28}
            label={`Put ${m.name} on the chosen hold`}
            disabled={!found}
            onClick={() => void putOn(m)}
          />
          <Tool icon={Trash2} size={28} label={`Take ${m.name} off the shelf`} onClick={() => void forget(m)} />
        </Flex>
      ))}
    </>
  )
}
