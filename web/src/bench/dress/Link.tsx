import { Box, Flex, Text } from '@chakra-ui/react'
import { ChevronDown, ChevronRight, Eye, EyeOff, Spotlight, Trash2 } from 'lucide-react'
import type { Finish } from '../../api/client'
import { Tool } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { Grip } from '../../parts/Ordered'
import { useCatalog } from '../../parts/useCatalog'
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
}

/** One finish of a chain: on or off, its settings, each with its kite where it can have keys. */
export function Link({ finish: f, owner, frames: keyFrames, locked, open, onFold }: Props) {
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
  return (
    <Box
      border="1px solid {colors.rule}"
      borderRadius="soft"
      bg="paper"
      px="2"
      py="1"
      mb="2"
      opacity={f.visible ? 1 : 0.6}
      data-finish={f.kind}
      data-id={f.id}
    >
      <Flex align="center" gap="1">
        <Grip id={f.id} />
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
          onClick={onFold}
        >
          <Text truncate>{title}</Text>
          {open ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
        </Flex>
        {owner.finishes.length > 1 && (
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
