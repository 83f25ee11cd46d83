import { Box, Flex, Text } from '@chakra-ui/react'
import { Pause } from 'lucide-react'
import { useRef, useState } from 'react'
import type { Edit, GroundItem, ItemView, ShotView, View } from '../api/client'
import { useDrag } from '../parts/useDrag'
import { useOf, useStudio } from '../store'
import { LABEL } from './measures'
import { roleColour } from '../theme/system'
import { Flag } from './Flag'
import { ItemEnd } from './ItemEnd'
import { frameOf, pace, STRIP, TOP } from './place'
import { can } from '../parts/finishes'

/** How far the pointer goes before a press becomes a drag. */
const SLACK = 5

/** What lies in the ground: press to choose it, drag to put it elsewhere, with Shift to slip its frames under it. */
export function Item({ item, number, per }: { item: GroundItem; number: number; per: number }) {
  const {
    view,
    item: chosenItem,
    more,
    chooseItem,
    alsoItem,
    seek,
    edit,
    setDraft,
  } = useOf('view', 'item', 'more', 'chooseItem', 'alsoItem', 'seek', 'edit', 'setDraft')
  const drafted = useStudio((s) => s.drafted.places[item.id])
  const [lifted, setLifted] = useState(0)
  const dragged = useRef(false)
  const place = view!.items.find((i) => i.id === item.id)
  const shot = place?.shot ? view!.shots[place.shot] : undefined
  const [start, end] = drafted ?? [place?.start ?? 0, (place?.start ?? 0) + (place?.length ?? 1)]
  const chosen = chosenItem === item.id || more.includes(item.id)

  const drag = useDrag({
    start: (e) => (place ? { slips: e.shiftKey && can(item, 'filmed'), by: 0, far: false } : null),
    move: (dx, _dy, from) => {
      from.far ||= Math.abs(dx) > SLACK
      if (!from.far) return
      if (!from.slips) return setLifted(dx)
      from.by = slip(place!, shot!, -dx / per)
      setDraft(from.by ? { kind: 'slip ground', item: item.id, by: from.by } : null)
    },
    end: (_moved, from) => {
      setLifted(0)
      dragged.current = from.far
      if (!from.far) return
      const to = landsAt(view!, number, lifted / per)
      if (from.by) void edit({ kind: 'slip ground', item: item.id, by: from.by })
      else if (!from.slips && to !== number) void edit({ kind: 'move ground', item: item.id, to })
    },
  })
  if (!place) return null
  const name = place.name
  const left = LABEL + start * per
  const width = (end - start) * per
  const reorder = (by: number): Edit => ({ kind: 'move ground', item: item.id, to: Math.max(0, number + by) })
  return (
    <>
      <Box
        as="button"
        aria-label={`${can(item, 'filmed') ? 'Footage ' : ''}${name}`}
        aria-description="Drag puts it elsewhere, with Shift it slips its frames; page up and down reorder"
        aria-pressed={chosen}
        data-item={name}
        data-place={`${start}:${end}`}
        position="absolute"
        top={`${TOP}px`}
        left={`${left}px`}
        w={`${Math.max(2, width)}px`}
        h={`${STRIP}px`}
        cursor="pointer"
        borderRadius="4px"
        overflow="hidden"
        touchAction="none"
        opacity={lifted ? 0.8 : 1}
        transform={lifted ? `translateX(${lifted}px)` : undefined}
        zIndex={lifted ? 2 : undefined}
        boxShadow={chosen ? '0 0 0 2px {colors.selected}' : '0 0 0 1px {colors.rule}'}
        bg={place.shade ?? undefined}
        bgImage={shot ? `url(${strip(view!, place, shot, width)})` : undefined}
        bgSize={place.stored ? 'auto 100%' : '100% 100%'}
        {...drag}
        onClick={(e) => {
          if (dragged.current) return
          if (e.ctrlKey || e.metaKey) return alsoItem(item.id)
          chooseItem(item.id)
          const box = e.currentTarget.getBoundingClientRect()
          if (e.detail > 0) seek(place.start + Math.floor((e.clientX - box.left) / per))
        }}
        onKeyDown={(e) => {
          if (e.key !== 'PageUp' && e.key !== 'PageDown') return
          e.preventDefault()
          void edit(reorder(e.key === 'PageUp' ? -1 : 1))
        }}
      >
        <Tag words={place.tag} stands={can(item, 'stands')} width={width} inset={chosen ? 11 : 3} />
        {item.fade > 0 && (
          <svg
            width={Math.max(2, item.fade * per)}
            height={STRIP}
            viewBox="0 0 10 10"
            preserveAspectRatio="none"
            style={{ position: 'absolute', left: 0, top: 0 }}
            aria-hidden="true"
          >
            <path d="M0 0V10L10 0Z" fill={roleColour('card')} opacity="0.7" />
            <path d="M0 10L10 0" stroke={roleColour('ink')} strokeWidth="1.4" vectorEffect="non-scaling-stroke" />
          </svg>
        )}
      </Box>
      {chosen && !lifted && <ItemEnd item={item} place={place} shot={shot} end="start" at={left} per={per} />}
      {chosen && !lifted && <ItemEnd item={item} place={place} shot={shot} end="end" at={left + width} per={per} />}
      {shot && can(item, 'filmed') && <Marks place={place} shot={shot} per={per} />}
    </>
  )
}

/** What kind of thing it is, in words, where it is not footage as filmed. */
function Tag({ words, stands, width, inset }: { words: string; stands: boolean; width: number; inset: number }) {
  if (!words || width < 28 + 2 * inset) return null
  return (
    <Flex
      position="absolute"
      left={`${inset}px`}
      bottom="3px"
      maxW={`calc(100% - ${2 * inset}px)`}
      align="center"
      gap="1"
      px="1"
      bg="card"
      color="ink"
      borderRadius="3px"
      fontSize="11px"
      lineHeight="15px"
      className="figures"
    >
      {stands && <Pause size={10} strokeWidth={2.6} aria-hidden />}
      <Text truncate>{words}</Text>
    </Flex>
  )
}

/** Where the footage itself cuts, and its flagged moments. */
function Marks({ place, shot, per }: { place: ItemView; shot: ShotView; per: number }) {
  const seek = useStudio((s) => s.seek)
  const [first, past] = place.range ?? [0, 0]
  const at = (source: number) => frameOf(place, source)
  return (
    <>
      {shot.cuts
        .filter((c) => c > first && c < past)
        .map((c) => (
          <Box
            as="button"
            key={c}
            aria-label={`Cut in the footage at frame ${c}`}
            title={`The footage cuts here: another take begins at frame ${c}`}
            position="absolute"
            top={`${TOP}px`}
            left={`${LABEL + at(c) * per - 4}px`}
            w="8px"
            h={`${STRIP}px`}
            cursor="pointer"
            onClick={() => seek(at(c))}
          >
            <svg viewBox={`0 0 8 ${STRIP}`} width="8" height={STRIP} aria-hidden="true">
              <path d={`M4 0V${STRIP}`} stroke={roleColour('card')} strokeWidth="3" />
              <path d={`M4 0V${STRIP}`} stroke={roleColour('ink')} strokeWidth="1.2" strokeDasharray="4 3" />
            </svg>
          </Box>
        ))}
      {shot.moments
        .filter((m) => m.frame >= first && m.frame < past)
        .map((m) => (
          <Flag key={m.id} moment={m} shot={shot.id} place={place} per={per} />
        ))}
    </>
  )
}

/** The address of the filmstrip that fills a width. */
function strip(view: View, place: ItemView, shot: ShotView, width: number): string {
  if (place.stored) return `/api/rasters/${place.stored}.png`
  const first = place.frames[0]!
  const [from, past] = place.can.includes('filmed') && place.range ? place.range : [first, first + 1]
  const thumb = (STRIP * shot.width) / shot.height
  const count = Math.max(1, Math.min(120, Math.round(width / thumb)))
  return `/api/projects/${view.project.id}/shots/${shot.id}/strip.jpg?first=${from}&past=${past}&count=${count}&height=88`
}

/** By how many source frames a take is slipped that was dragged by so many project frames, as far as its shot has them. */
function slip(place: ItemView, shot: ShotView, by: number): number {
  const [first, past] = place.range ?? [0, 1]
  return Math.max(-first, Math.min(shot.frames - past, Math.round(by * pace(place))))
}

/** The place in the order at which something comes to lie that was dragged by so many project frames. */
function landsAt(view: View, number: number, by: number): number {
  const own = view.items[number]!
  const middle = own.start + own.length / 2 + by
  const others = view.items.filter((_, n) => n !== number)
  return others.filter((o) => o.start + o.length / 2 < middle).length
}
