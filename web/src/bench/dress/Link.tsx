import { Box, Flex, Text } from '@chakra-ui/react'
import { ChevronDown, ChevronRight, Eye, EyeOff, GripVertical, Spotlight, Trash2 } from 'lucide-react'
import type { Finish } from '../../api/client'
import { Tool } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { useCatalog } from '../../parts/useCatalog'
import { useDrag } from '../../parts/useDrag'
import { useKeyed } from '../../parts/useKeyed'
import { useOf } from '../../store'
import { changing, type Owner } from '../../parts/finishes'

interface Props {
  finish: Finish
  owner: Owner
  /** The project frame of each key of what wears it. */
  frames: Record<string, number>
  locked: boolean
  open: boolean
  onFold: () => void
  lifted: boolean
  /** Whether what is dragged would land before it. */
  before: boolean
  onDrag: (to: number | null) => void
  onDrop: (to: number) => void
  number: number
  count: number
}

/** One finish of a chain: on or off, its settings, each with its kite where it can have keys. */
export function Link({ finish: f, owner, frames: keyFrames, locked, open, ...p }: Props) {
  const { edit, setDraft } = useOf('edit', 'setDraft')
  const kind = useCatalog()?.finishes.find((k) => k.kind === f.kind)
  const with_ = (change: (x: Finish) => Finish) =>
    changing(owner, (all) => all.map((x) => (x.id === f.id ? change(x) : x)))
  const { values, put, kite } = useKeyed({
    owner,
    prefix: f.id,
    schema: kind?.settings ?? {},
    own: f.settings,
    frames: keyFrames,
    rest: (name, value) => with_((x) => ({ ...x, settings: { ...x.settings, [name]: value } }))(),
  })
  const title = kind?.title ?? f.kind
  const alone = f.visible && owner.finishes.length > 1 && owner.finishes.every((x) => x.id === f.id || !x.visible)
  const solo = () => void edit(changing(owner, (all) => all.map((x) => ({ ...x, visible: alone || x.id === f.id }))))
  const drag = useDrag({
    slack: 3,
    start: (e) => (locked || p.count < 2 ? null : e.currentTarget.closest('[data-finish]')!.parentElement!),
    move: (_dx, _dy, chain, e) => p.onDrag(placeAt(chain, f.id, e.clientY)),
    end: (moved, chain, e) => {
      p.onDrag(null)
      const to = placeAt(chain, f.id, e.clientY)
      if (moved && e.type === 'pointerup' && to !== p.number) p.onDrop(to)
    },
  })
  return (
    <Box
      border="1px solid {colors.rule}"
      borderTop={p.before ? '3px solid {colors.selected}' : undefined}
      borderRadius="soft"
      bg="paper"
      px="2"
      py="1"
      mb="2"
      opacity={p.lifted ? 0.5 : f.visible ? 1 : 0.6}
      data-finish={f.kind}
      data-id={f.id}
    >
      <Flex align="center" gap="1">
        <Flex
          as="button"
          aria-label={`Move ${title}`}
          aria-description="Drag it to another place; the up and down arrows move it as well"
          align="center"
          h="26px"
          color="soft"
          cursor={p.count > 1 ? 'grab' : 'default'}
          touchAction="none"
          {...drag}
          onKeyDown={(e) => {
            const to = p.number + (e.key === 'ArrowUp' ? -1 : e.key === 'ArrowDown' ? 1 : 0)
            if (to === p.number || to < 0 || to >= p.count) return
            e.preventDefault()
            e.stopPropagation()
            p.onDrop(to)
          }}
        >
          <GripVertical size={14} />
        </Flex>
        <Flex
          as="button"
          align="center"
          gap="1"
          flex="1"
          minW="0"
          fontWeight="650"
          textAlign="left"
          cursor="pointer"
          aria-expanded={open}
          onClick={p.onFold}
        >
          <Text truncate>{title}</Text>
          {open ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
        </Flex>
        {p.count > 1 && (
          <Tool
            icon={Spotlight}
            size={26}
            label={alone ? `All finishes with ${title}` : `Only ${title}`}
            on={alone}
            disabled={locked}
            onClick={solo}
          />
        )}
        <Tool
          icon={f.visible ? Eye : EyeOff}
          size={26}
          label={`${f.visible ? 'Switch off' : 'Switch on'} ${title}`}
          disabled={locked}
          onClick={() => void edit(with_((x) => ({ ...x, visible: !f.visible })))}
        />
        <Tool
          icon={Trash2}
          size={26}
          label={`Remove ${title}`}
          disabled={locked}
          onClick={() => void edit(changing(owner, (all) => all.filter((x) => x.id !== f.id)))}
        />
      </Flex>
      {open && kind && (
        <Box pl="1">
          <Controls
            schema={kind.settings}
            values={values}
            disabled={locked}
            onDraft={(name, value) => setDraft(put(name, value)())}
            onCommit={(name, value) => void edit(put(name, value))}
            after={kite}
          />
        </Box>
      )}
    </Box>
  )
}

/** Where in a chain something let go at a height of the page comes to lie, counted without it. */
function placeAt(chain: Element, id: string, y: number): number {
  const links = [...chain.querySelectorAll(':scope > [data-finish]')].filter((l) => l.getAttribute('data-id') !== id)
  return links.filter((l) => {
    const box = l.getBoundingClientRect()
    return box.top + box.height / 2 < y
  }).length
}
