import { Box, Flex, Menu, Portal, Text } from '@chakra-ui/react'
import { ChevronLeft, ChevronRight, ClipboardCopy, FileImage, Grid3x3, Pause, Trash2 } from 'lucide-react'
import { memo, useState } from 'react'
import type { ItemView, ShotView } from '../../api/client'
import { Act, Heading, Tool } from '../../parts/buttons'
import { NameField, NumberField } from '../../parts/fields'
import { download } from '../../parts/download'
import { keyHint } from '../../parts/keys'
import { copyText } from '../../parts/copyText'
import { timecode, useOf, useStudio } from '../../store'
import { useHere } from './here'
import { tagColour, TAGS } from '../../parts/tags'
import { Thumb } from './Thumb'
import { moveMoment, standHere } from '../../store/doing'
import { rateWords } from '../../parts/words'

/** A contact sheet of more frames than this leaves some out. */
const MOST = 60

/** The frames that were flagged; the one that is looked at is marked. */
export const Moments = memo(function Moments({ shot, place }: { shot: ShotView; place: ItemView }) {
  const here = useHere(place)
  const { view, say } = useOf('view', 'say')
  const rate = view!.project.rate
  const at = (frame: number) => {
    const index = place.frames.indexOf(frame)
    return index < 0 ? null : place.start + index
  }
  const copy = async () => {
    const lines = shot.moments.map((m) => {
      const frame = at(m.frame)
      return [frame === null ? '' : timecode(frame, rate), m.frame, m.name, m.tag ?? ''].join('\t')
    })
    const done = await copyText([`Timecode\tFrame of ${shot.name}\tName\tTag`, ...lines].join('\n'))
    say(
      done
        ? `Copied ${lines.length} moment${lines.length === 1 ? '' : 's'} as text.`
        : 'This browser does not let text be copied.',
    )
  }
  const [first, past] = place.range ?? [0, shot.frames]
  const base = `/api/projects/${view!.project.id}/shots/${shot.id}`
  const [sheet, setSheet] = useState<[number, number] | null>(null)
  const [from, to] = sheet ?? [first, past - 1]
  const every = Math.ceil((to + 1 - from) / MOST)
  return (
    <>
      {shot.moments.length === 0 && (
        <Text color="soft" my="2">
          Flag the frames worth holding: those found for you, or the one on screen. Holding a frame flags it too.
        </Text>
      )}
      {shot.moments.map((m) => (
        <Row key={m.id} moment={m} shot={shot} place={place} at={at(m.frame)} here={m.frame === here} />
      ))}
      {shot.moments.length > 0 && (
        <Flex gap="1.5" my="2" align="center">
          <Act icon={ClipboardCopy} hint="Copy them as text: timecode, frame, name and tag" onClick={() => void copy()}>
            Copy as text
          </Act>
        </Flex>
      )}
      {shot.moments.length > 1 && (
        <Text color="soft">{keyHint('momentBefore', 'momentAfter', 'jump between them')}</Text>
      )}
      <Heading>Stills</Heading>
      <Flex gap="1.5" wrap="wrap">
        <Act
          icon={FileImage}
          hint="The frame on screen as PNG, in its own size, named by its timecode"
          onClick={() => download(`${base}/frames/${here}.png?at=${useStudio.getState().playhead}`)}
        >
          Frame
        </Act>
        <Act
          icon={Grid3x3}
          hint={`Frames ${from} to ${to} in one PNG, numbered${every > 1 ? `: every ${every}, so that it is no larger` : ''}`}
          onClick={() => download(`${base}/sheet.png?first=${from}&past=${to + 1}&every=${every}`)}
        >
          Contact sheet
        </Act>
      </Flex>
      <NumberField
        label="Sheet from"
        unit="fr"
        min={0}
        max={to}
        value={from}
        initial={first}
        onCommit={(v) => setSheet([v, to])}
      />
      <NumberField
        label="Sheet to"
        unit="fr"
        min={from}
        max={shot.frames - 1}
        value={to}
        initial={past - 1}
        onCommit={(v) => setSheet([from, v])}
      />
      <Heading>Footage</Heading>
      <Text color="soft" className="figures">
        {shot.width} × {shot.height}, {rateWords(shot.rate)}
        {shot.variable ? ' (variable)' : ''}
        <br />
        {shot.frames} frame{shot.frames === 1 ? '' : 's'}
        {shot.cuts.length > 0 ? ` in ${shot.cuts.length + 1} takes` : ''}, {shot.colour}
        {shot.depth > 8 ? `, ${shot.depth} bit` : ''}
        {shot.rotation ? `, turned ${shot.rotation}°` : ''}
        <br />
        {shot.has_sound ? 'With sound' : 'No sound'}
      </Text>
    </>
  )
})

function Row(p: {
  moment: ShotView['moments'][number]
  shot: ShotView
  place: ItemView
  at: number | null
  here: boolean
}) {
  const { moment: m, shot, place, at } = p
  const { view, edit, seek } = useOf('view', 'edit', 'seek')
  const index = place.frames.indexOf(m.frame)
  const step = (by: 1 | -1) => {
    const to = index < 0 ? undefined : place.frames[index + by]
    if (to !== undefined) void moveMoment(shot.id, m.id, to)
  }
  const change = (changes: object) => void edit({ kind: 'change moment', shot: shot.id, moment: m.id, ...changes })
  return (
    <Flex
      align="center"
      gap="1.5"
      py="1"
      px="1"
      borderRadius="soft"
      bg={p.here ? 'selectedWash' : undefined}
      data-moment={m.frame}
    >
      <Thumb shot={shot} frame={m.frame} label={`Go to ${m.name}`} away={at === null} onGo={() => seek(at!)} />
      <Box flex="1" minW="0">
        <Flex align="center">
          <Tagged tag={m.tag} name={m.name} onTag={(tag) => change(tag ? { tag } : { clear: ['tag'] })} />
          <NameField label="Moment name" value={m.name} onCommit={(name) => change({ name })} />
        </Flex>
        <Flex align="center">
          <Text color="soft" fontSize="12px" className="figures" flex="1" truncate>
            {m.frame} · {at === null ? 'trimmed away' : timecode(at, view!.project.rate)}
          </Text>
          <Tool
            icon={ChevronLeft}
            size={20}
            label={`${m.name} one frame back`}
            disabled={index < 1}
            onClick={() => step(-1)}
          />
          <Tool
            icon={ChevronRight}
            size={20}
            label={`${m.name} one frame on`}
            disabled={index < 0 || index + 1 >= place.length}
            onClick={() => step(1)}
          />
          <Tool
            icon={Pause}
            label={`Stand still at ${m.name}`}
            hint="Everything stops at this frame for a second, under a cutout of it"
            size={20}
            disabled={at === null || !place.footage}
            onClick={() => {
              seek(at!)
              void standHere(true)
            }}
          />
          <Tool
            icon={Trash2}
            label={`Remove ${m.name}`}
            size={20}
            onClick={() => void edit({ kind: 'remove moment', shot: shot.id, moment: m.id })}
          />
        </Flex>
      </Box>
    </Flex>
  )
}

/** A moment's tag, as a flag in its colour: choose another. */
function Tagged({ tag, name, onTag }: { tag?: string | null; name: string; onTag: (tag: string | null) => void }) {
  return (
    <Menu.Root>
      <Menu.Trigger asChild>
        <Box
          as="button"
          aria-label={`Tag of ${name}: ${tag ?? 'none'}`}
          title={tag ? `Tagged ${tag}` : 'Tag it'}
          cursor="pointer"
          w="18px"
          h="20px"
          flexShrink="0"
        >
          <Pennant tag={tag} />
        </Box>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="card" color="ink" minW="120px">
            {['', ...Object.keys(TAGS)].map((t) => (
              <Menu.Item key={t} value={t || 'none'} onClick={() => onTag(t || null)} gap="2">
                <Box w="16px">
                  <Pennant tag={t} />
                </Box>
                {t || 'no tag'}
              </Menu.Item>
            ))}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  )
}

function Pennant({ tag }: { tag?: string | null }) {
  return (
    <svg viewBox="0 0 14 18" width="12" height="16" aria-hidden="true">
      <path d="M2 1V17" stroke={tagColour(tag)} strokeWidth="1.6" />
      <path d="M2 1.5 12.5 4.7 2 8.2Z" fill={tag ? tagColour(tag) : 'none'} stroke={tagColour(tag)} />
    </svg>
  )
}
