import { Box, Flex, Text } from '@chakra-ui/react'
import { Check, ChevronLeft, ChevronRight, Circle, Flag, Scissors, Sparkles } from 'lucide-react'
import { type Edit, type ItemView, newId, type ShotView, type Watched } from '../../api/client'
import { Act, Choice, Tool } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { timecode, together, useOf, useStudio } from '../../store'
import { CarveAll, carveAll } from './CarveAll'
import { type Choosing, useChoices } from './choice'
import { Thumb } from './Thumb'
import { type Candidate, shareWords, type useChosen } from './useChosen'

interface Props {
  shot: ShotView
  item: ItemView
  watched: Watched | undefined
  chosen: ReturnType<typeof useChosen>
  onSeek: (frame: number) => void
  onNudge: (base: number, frame: number) => void
}

const WORDS = ['these', 'this', 'these two', 'these three', 'these four', 'these five', 'these six', 'these seven']

/** Which frames to hold: those found, or an even spacing; and what to do with them. */
export function Frames(p: Props) {
  const { shot, item, watched, chosen } = p
  const { choosing, picks, frames } = chosen
  const { view, edit, go, chooseLayers } = useOf('view', 'edit', 'go', 'chooseLayers')
  const change = useChoices((s) => s.change)
  const put = (changes: Partial<Choosing>) => change(item.id, changes)
  const carving = useStudio((s) =>
    s.jobs.some((j) => j.kind === 'carve' && (j.state === 'running' || j.state === 'waiting')),
  )
  const these = WORDS[frames.length] ?? `these ${frames.length}`
  // “Crispest” says why a frame was proposed, and nothing of what it shows.
  const named = picks
    .filter((c) => c.kept)
    .map((c) => ({ frame: c.frame, name: nameOf(c.why === 'crispest' ? '' : c.why) }))
  const hold = async () => {
    const layers: string[] = []
    const held = new Map(
      view!.project.layers.flatMap((l) => {
        const known = view!.layers[l.id]?.hold
        const its = known ? view!.holds[known] : undefined
        return its?.shot === shot.id ? [[its.frame, l.id] as const] : []
      }),
    )
    const edits = named.flatMap((c): Edit[] => {
      const known = held.get(c.frame)
      const layer = known ?? newId()
      layers.push(layer)
      if (known) return []
      return [{ kind: 'hold', item: item.id, frame: c.frame, layer, ...(c.name ? { name: c.name } : {}) }]
    })
    const all = together(edits)
    if (all && !(await edit(all))) return
    chooseLayers(layers)
    go('carve')
  }
  const flag = () => {
    const known = new Set(shot.moments.map((m) => m.frame))
    const fresh = named.filter((c) => !known.has(c.frame))
    const edits = fresh.map((c): Edit => ({
      kind: 'add moment',
      shot: shot.id,
      frame: c.frame,
      ...(c.name ? { name: c.name } : {}),
    }))
    const all = together(edits)
    if (all) void edit(all)
  }
  return (
    <>
      <Flex gap="1.5" my="2" wrap="wrap">
        <Act
          icon={Sparkles}
          main
          disabled={!frames.length || carving}
          hint="Hold them and cut the subject out of each: found in one, carried to the others"
          onClick={() => void carveAll(item.id, named)}
        >
          {`Cut out of ${these}`}
        </Act>
        <Flex gap="1" wrap="wrap">
          <Act
            icon={Scissors}
            disabled={!frames.length}
            hint="Hold them, to carve each yourself"
            onClick={() => void hold()}
          >
            {`Hold ${these}`}
          </Act>
          <Act icon={Flag} disabled={!frames.length} hint="Flag them as moments" onClick={flag}>
            {`Flag ${these}`}
          </Act>
        </Flex>
      </Flex>
      <CarveAll />
      <Choice
        label="How frames are chosen"
        value={choosing.way}
        onChange={(way) => put({ way, dropped: [], nudged: {} })}
        options={[
          { value: 'found', label: 'Found for you', hint: 'Where the movement peaks, and the subject is crisp' },
          { value: 'even', label: 'Evenly', hint: 'From a first to a last frame, evenly spaced' },
        ]}
      />
      {choosing.way === 'found' ? (
        <NumberField
          slider
          label="How many"
          min={1}
          max={Math.max(1, Math.min(24, watched?.proposals.length ?? 1))}
          value={Math.min(chosen.count, Math.max(1, watched?.proposals.length ?? 1))}
          initial={Math.max(1, watched?.unasked ?? 1)}
          onDraft={(count) => put({ count })}
          onCommit={(count) => put({ count })}
        />
      ) : (
        <Spacing
          choosing={choosing}
          first={chosen.first}
          last={chosen.last}
          item={item}
          put={put}
          count={picks.length}
        />
      )}
      {watched?.note && (
        <Text color="soft" my="1.5" role="note">
          {watched.note}
        </Text>
      )}
      {watched && !watched.note && choosing.way === 'found' && !picks.length && (
        <Text color="soft" my="1.5">
          {done(watched) < shot.frames
            ? 'The shot is being looked through. What stands out comes in here.'
            : 'Nothing stands out here. Space frames evenly, or hold the one on screen.'}
        </Text>
      )}
      <Box mt="1">
        {picks.map((c) => (
          <Row key={c.base} pick={c} number={c.kept ? frames.indexOf(c.frame) + 1 : 0} {...p} put={put} />
        ))}
      </Box>
      {chosen.overlaps.length > 0 && (
        <Text color="soft" fontSize="12px" mt="1" className="figures">
          Overlaps:{' '}
          {chosen.overlaps
            .slice(0, 6)
            .map((o) => `${frames.indexOf(o.one) + 1} and ${frames.indexOf(o.other) + 1} by ${shareWords(o.share)}`)
            .join(', ')}
        </Text>
      )}
    </>
  )
}

function done(watched: Watched): number {
  return watched.known.reduce((sum, [a, b]) => sum + b - a, 0)
}

function nameOf(why: string): string | null {
  return why ? why[0]!.toUpperCase() + why.slice(1) : null
}

function Spacing(p: {
  choosing: Choosing
  first: number
  last: number
  item: ItemView
  count: number
  put: (changes: Partial<Choosing>) => void
}) {
  const { choosing, first, last, put } = p
  const span = Math.max(1, last - first)
  const step = choosing.every ?? Math.max(1, Math.round(span / Math.max(1, choosing.many - 1)))
  return (
    <>
      <NumberField
        label="Every"
        unit="fr"
        min={1}
        max={span}
        value={step}
        onDraft={(every) => put({ every, by: 'time', nudged: {} })}
        onCommit={(every) => put({ every, by: 'time', nudged: {} })}
      />
      <NumberField
        label="or how many"
        min={1}
        max={60}
        value={choosing.every === null ? choosing.many : p.count}
        onDraft={(many) => put({ many, every: null, nudged: {} })}
        onCommit={(many) => put({ many, every: null, nudged: {} })}
      />
      <Choice
        label="Spaced by"
        value={choosing.by}
        onChange={(by) =>
          put({
            by,
            nudged: {},
            ...(by === 'distance' ? { every: null, many: Math.max(2, p.count || choosing.many) } : {}),
          })
        }
        options={[
          { value: 'time', label: 'In time', hint: 'As many frames between each' },
          { value: 'distance', label: 'By distance', hint: 'The body goes as far between each: even on the screen' },
        ]}
      />
    </>
  )
}

/** One chosen frame: keep or drop it, see it, nudge it. */
function Row({
  pick,
  number,
  shot,
  item,
  put,
  chosen,
  onSeek,
  onNudge,
}: Props & {
  pick: Candidate
  number: number
  put: (changes: Partial<Choosing>) => void
}) {
  const view = useStudio((s) => s.view)!
  const { dropped } = chosen.choosing
  const index = item.frames.indexOf(pick.frame)
  const next = (by: 1 | -1) => item.frames[index + by]
  const moved = pick.frame !== pick.base
  const name = nameOf(pick.why) ?? (moved ? `Nudged from ${pick.base}` : `Frame ${pick.frame}`)
  return (
    <Flex
      align="center"
      gap="2"
      p="1"
      mb="1"
      borderRadius="soft"
      bg={pick.kept ? 'selectedWash' : 'transparent'}
      data-proposal={pick.frame}
    >
      {/* Its picture alone is pale: words and buttons have to be read all the same. */}
      <Box opacity={pick.kept ? 1 : 0.55} flexShrink="0">
        <Thumb shot={shot} frame={pick.frame} label={`Look at frame ${pick.frame}`} onGo={() => onSeek(pick.frame)} />
      </Box>
      <Box flex="1" minW="0">
        <Text fontWeight="600" fontSize="13px" truncate lineHeight="1.25">
          {number > 0 ? `${number} · ` : ''}
          {name}
        </Text>
        <Text color="soft" fontSize="12px" className="figures" truncate>
          {pick.frame} · {index >= 0 ? timecode(item.start + index, view.project.rate) : 'trimmed away'} ·{' '}
          <span title="How crisp the subject is, of 100">
            {moved && `${percent(pick.before)} → `}
            {percent(pick.crisp)}
          </span>
        </Text>
      </Box>
      <Flex gap="0" flexShrink="0">
        <Tool
          icon={ChevronLeft}
          size={20}
          label={`Frame ${pick.frame} one back`}
          disabled={next(-1) === undefined}
          onClick={() => {
            onNudge(pick.base, next(-1)!)
            onSeek(next(-1)!)
          }}
        />
        <Tool
          icon={ChevronRight}
          size={20}
          label={`Frame ${pick.frame} one on`}
          disabled={next(1) === undefined}
          onClick={() => {
            onNudge(pick.base, next(1)!)
            onSeek(next(1)!)
          }}
        />
        <Tool
          icon={pick.kept ? Check : Circle}
          size={24}
          on={pick.kept}
          label={pick.kept ? `Drop frame ${pick.frame}` : `Keep frame ${pick.frame}`}
          onClick={() => put({ dropped: pick.kept ? [...dropped, pick.base] : dropped.filter((f) => f !== pick.base) })}
        />
      </Flex>
    </Flex>
  )
}

const percent = (share: number) => Math.round(100 * share)
