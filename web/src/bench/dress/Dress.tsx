import { Box, Flex, Text } from '@chakra-ui/react'
import { Eye, EyeOff, Plus, Trash2 } from 'lucide-react'
import { type Edit, type Finish, type GroundItem, type KindView, type Layer, newId } from '../../api/client'
import { Act, Empty, Heading, Tool } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { KeyMark } from '../../parts/KeyMark'
import type { Setting } from '../../parts/schema'
import { useCatalog } from '../../parts/useCatalog'
import { useLayer, useOf, useStudio } from '../../shell/store'

/** The chain of finishes on the selected cutout, or on the selected piece of footage. */
export function Dress() {
  const found = useLayer()
  const { view, item: itemId, chooseItem } = useOf('view', 'item', 'chooseItem')
  const item = view!.project.ground.find((g) => g.id === itemId)
  const first = view!.project.ground[0]
  if (item) {
    const place = view!.items.find((i) => i.id === item.id)
    return (
      <Chain
        key={item.id}
        target="ground"
        name={place?.name ?? 'Footage'}
        owner={item}
        frames={view!.itemKeys[item.id] ?? {}}
      />
    )
  }
  if (found && !found.info.gathers) {
    return (
      <Chain
        key={found.layer.id}
        target="cutout"
        name={found.layer.name}
        owner={found.layer}
        frames={found.info.keys}
        aside={first && <Act onClick={() => chooseItem(first.id)}>Dress the footage</Act>}
      />
    )
  }
  return (
    <Empty
      title="Dress it"
      action={
        first && (
          <Act main onClick={() => chooseItem(first.id)}>
            Dress the footage
          </Act>
        )
      }
    >
      Choose a cutout in the sky to outline it, or footage in the ground to blur it out of the way.
    </Empty>
  )
}

interface ChainProps {
  target: 'cutout' | 'ground'
  name: string
  owner: Layer | GroundItem
  /** The project frame of each of its keys. */
  frames: Record<string, number>
  aside?: React.ReactNode
}

function Chain(p: ChainProps) {
  const { edit } = useOf('edit')
  const { finishes } = p.owner
  const known = (useCatalog()?.finishes ?? []).filter((f) => f.on.includes(p.target))
  const add = (f: KindView) =>
    void edit(changing(p, (all) => [...all, { id: newId(), kind: f.kind, settings: {}, visible: true }]))
  return (
    <Flex h="100%" minH="0">
      <Box w="220px" flexShrink="0" borderRight="1px solid {colors.rule}" px="4" pb="3" overflowY="auto">
        <Heading>Finishes for {p.target === 'cutout' ? 'cutouts' : 'footage'}</Heading>
        <Flex direction="column" align="flex-start" gap="2">
          {known.map((f) => (
            <Act key={f.kind} icon={Plus} onClick={() => add(f)}>
              {f.title}
            </Act>
          ))}
        </Flex>
        {p.aside && <Box mt="5">{p.aside}</Box>}
      </Box>
      <Box flex="1" minW="0" px="4" pb="3" overflowY="auto">
        <Heading>On {p.name}, in this order</Heading>
        {finishes.length === 0 && (
          <Text color="soft">As filmed. Put a finish on from the left; the picture shows it at once.</Text>
        )}
        {finishes.map((f) => (
          <Link key={f.id} finish={f} kind={known.find((k) => k.kind === f.kind)} chain={p} />
        ))}
      </Box>
    </Flex>
  )
}

/** The layer or ground item as it is by now: an edit that waits for others goes by what they have made of it. */
function newest({ target, owner }: ChainProps): Layer | GroundItem {
  const project = useStudio.getState().view?.project
  const all: (Layer | GroundItem)[] = (target === 'ground' ? project?.ground : project?.layers) ?? []
  return all.find((x) => x.id === owner.id) ?? owner
}

/** The edit that makes other finishes of those there are when its turn comes. */
function changing(chain: ChainProps, make: (finishes: Finish[]) => Finish[]) {
  return (): Edit => {
    const { id, finishes } = newest(chain)
    return chain.target === 'ground'
      ? { kind: 'change ground', item: id, finishes: make(finishes) }
      : { kind: 'change layer', layer: id, finishes: make(finishes), clear: [] }
  }
}

/** One finish of the chain: on or off, its settings, each with its kite where it can have keys. */
function Link({ finish: f, kind, chain }: { finish: Finish; kind: KindView | undefined; chain: ChainProps }) {
  const { edit, setDraft, playhead, frames } = useOf(
    'edit',
    'setDraft',
    'playhead',
    'frames',
    'keysVersion',
    'readyCount',
  )
  const { owner, target } = chain
  const with_ = (change: (x: Finish) => Finish) =>
    changing(chain, (all) => all.map((x) => (x.id === f.id ? change(x) : x)))
  const header = frames?.peek(playhead)?.header
  const given =
    target === 'ground'
      ? header?.source?.item === owner.id
        ? header.source.values
        : {}
      : header?.layers.find((o) => o.id === owner.id)?.values
  const channel = (setting: string) => `${f.id}.${setting}`
  const keysOf = (setting: string) => owner.keys.filter((k) => k.channel === channel(setting))
  const values = Object.fromEntries(
    Object.entries(f.settings).map(([name, v]) => [name, keysOf(name).length ? (given?.[channel(name)]?.[0] ?? v) : v]),
  )
  const whose = target === 'ground' ? { item: owner.id } : { layer: owner.id }
  /** A setting with keys gets one here; without, it is what it is all along. */
  const put =
    (name: string, value: unknown, key = false) =>
    (): Edit =>
      key || newest(chain).keys.some((k) => k.channel === channel(name))
        ? { kind: 'set value', ...whose, channel: channel(name), frame: playhead, value: [Number(value)], key }
        : with_((x) => ({ ...x, settings: { ...x.settings, [name]: value } }))()
  const kite = (s: Setting) => {
    if (!s.keyable) return <Box w="22px" />
    const here = keysOf(s.name).find((k) => chain.frames[k.id] === playhead)
    const toggle = () =>
      void edit(here ? { kind: 'remove key', ...whose, key: here.id } : put(s.name, values[s.name], true))
    return <KeyMark name={s.label.toLowerCase()} here={Boolean(here)} onToggle={toggle} />
  }
  return (
    <Box
      border="1px solid {colors.rule}"
      borderRadius="soft"
      bg="paper"
      px="3"
      py="1.5"
      mb="2"
      maxW="440px"
      opacity={f.visible ? 1 : 0.6}
      data-finish={f.kind}
    >
      <Flex align="center">
        <Text flex="1" fontWeight="650">
          {kind?.title ?? f.kind}
        </Text>
        <Tool
          icon={f.visible ? Eye : EyeOff}
          size={26}
          label={`${f.visible ? 'Switch off' : 'Switch on'} ${kind?.title}`}
          onClick={() => void edit(with_((x) => ({ ...x, visible: !f.visible })))}
        />
        <Tool
          icon={Trash2}
          size={26}
          label={`Remove ${kind?.title}`}
          onClick={() => void edit(changing(chain, (all) => all.filter((x) => x.id !== f.id)))}
        />
      </Flex>
      {kind && (
        <Controls
          schema={kind.settings}
          values={values}
          onDraft={(name, value) => setDraft(put(name, value)())}
          onCommit={(name, value) => void edit(put(name, value))}
          after={kite}
        />
      )}
    </Box>
  )
}
