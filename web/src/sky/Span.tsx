import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { useRef } from 'react'
import type { Edit, Layer, LayerView } from '../api/client'
import { useCatalog } from '../parts/useCatalog'
import { useDrag } from '../parts/useDrag'
import { chosenTops, together, useOf, useStudio } from '../store'
import { LABEL, LANE } from '../ground/measures'
import { letGo, snapFrames, snapped } from '../ground/snap'
import { SpanEnd } from './SpanEnd'
import { can } from '../parts/finishes'

interface Props {
  layer: Layer
  info: LayerView
  per: number
  chosen: boolean
  choose: (e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => void
}

/** What is dragged: where it began, what snaps to what, and the edit it has come to. */
interface Held {
  ids: string[]
  start: number
  end: number
  frames: number[]
  last: Edit | null
}

/** When a layer is there: press to choose it, drag what lies free to another time. */
export function Span({ layer, info, per, chosen, choose }: Props) {
  const { view, chooseLayer, edit, setDraft, seek, go } = useOf('view', 'chooseLayer', 'edit', 'setDraft', 'seek', 'go')
  const drafted = useStudio((s) => s.drafted.places[layer.id])
  const arranged = useCatalog()?.arrangements.find((a) => a.kind === layer.arrangement.kind)?.title ?? ''
  const [start, end] = drafted ?? [info.start ?? 0, info.end ?? 1]
  const members = info.gathers ? view!.project.layers.filter((l) => l.group === layer.id).length : 0
  const carved = info.carved ? arranged : `${arranged}, not carved yet`
  const washes = can(layer, 'washes')
  const words = washes
    ? `wash: ${layer.group ? 'what lies below it in its group' : 'everything below'}`
    : info.gathers
      ? `${members} layer${members === 1 ? '' : 's'}`
      : carved
  const held = useRef<Held | null>(null)
  const carve = () => {
    if (info.landing == null || !info.hold) return
    seek(info.landing)
    go('carve')
  }
  const loose = (id: string) => view!.layers[id]?.free.length === 2
  const drag = useDrag({
    slack: 4,
    start: (e) => {
      choose(e)
      const all = chosenTops(useStudio.getState())
      const ids = (all.includes(layer.id) ? all : [layer.id]).filter(
        (id) => loose(id) && !view!.project.layers.find((l) => l.id === id)?.locked,
      )
      held.current = { ids, start: info.start ?? 0, end: info.end ?? 1, frames: snapFrames(ids), last: null }
      return held.current
    },
    move: (dx, _dy, h) => {
      if (!h.ids.length) return
      const by = Math.round(dx / per)
      // Either end may snap; the one that has less far to go does.
      const first = snapped(h.start + by, h.frames, per) - h.start
      const last = snapped(h.end + by, h.frames, per) - h.end
      const nearer = first !== by && (last === by || Math.abs(first - by) <= Math.abs(last - by)) ? first : last
      if (nearer === first) snapped(h.start + by, h.frames, per)
      h.last = nearer
        ? together(h.ids.map((id) => ({ kind: 'change layer', layer: id, slide: nearer, clear: [] })))
        : null
      setDraft(h.last)
    },
    end: (moved, h, e) => {
      letGo()
      if (h.last) void edit(h.last)
      else if (moved && !h.ids.length)
        useStudio.getState().say('It goes by its moment. Make it lie free in Fly to move it in time.')
      else if (!moved && !e.shiftKey && !e.ctrlKey && !e.metaKey) chooseLayer(layer.id)
    },
  })
  const pinned = info.free.length === 1 && info.free[0] === 'start'
  return (
    <Box
      position="absolute"
      left={`${LABEL + start * per}px`}
      w={`${Math.max(6, (end - start) * per)}px`}
      h={`${LANE - 6}px`}
      bg={chosen ? 'selectedWash' : 'card'}
      border={chosen ? '2px solid' : '1px solid'}
      borderColor={chosen ? 'selected' : 'rule'}
      bgImage={
        washes ? 'repeating-linear-gradient(-45deg, transparent 0 6px, var(--chakra-colors-rule) 6px 8px)' : undefined
      }
      borderStyle={info.gathers ? 'double' : undefined}
      borderWidth={info.gathers ? '3px' : undefined}
      borderRadius="soft"
      cursor="pointer"
      touchAction="none"
      data-span={`${start}:${end}`}
      {...drag}
      onDoubleClick={carve}
    >
      <Flex
        role="button"
        tabIndex={0}
        aria-label={`${layer.name}: ${words}, frames ${start} to ${end - 1}`}
        aria-description="Enter chooses it, and once more carves it; page up and down move it"
        aria-pressed={chosen}
        onKeyDown={(e) => {
          if (e.key !== 'Enter') return
          if (chosen) carve()
          else chooseLayer(layer.id)
        }}
        h="100%"
        align="center"
        gap="1.5"
        pl="8px"
        pr="10px"
        overflow="hidden"
        justify={pinned ? 'flex-end' : 'flex-start'}
      >
        {!washes && (
          <Image
            src={`/api/projects/${view!.project.id}/layers/${layer.id}/thumbnail.png?side=48&r=${view!.revision}`}
            alt=""
            h="22px"
            w="26px"
            objectFit="contain"
            draggable={false}
          />
        )}
        <Text
          color="soft"
          fontSize="12px"
          whiteSpace="nowrap"
          px={washes ? '1.5' : undefined}
          bg={washes ? (chosen ? 'selectedWash' : 'card') : undefined}
          borderRadius="4px"
        >
          {words}
        </Text>
      </Flex>
      {info.free.map((end) => (
        <SpanEnd key={end} end={end} layer={layer} info={info} per={per} height={LANE / 2 - 5} />
      ))}
    </Box>
  )
}
