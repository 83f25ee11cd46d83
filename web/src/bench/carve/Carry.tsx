import { Box, Flex } from '@chakra-ui/react'
import { FlagTriangleRight, Flag, Footprints, PersonStanding, X } from 'lucide-react'
import { useEffect, useRef } from 'react'
import { answer, api, type View, Refused } from '../../api/client'
import { Act, Heading } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { useCutout, useOf, useStudio } from '../../store'
import { cancelJob, Working } from '../../parts/Working'
import { finished } from '../../parts/finished'

type To = 'range' | 'next' | 'moments'

/** Starts carrying; it goes on beside one's work, and says how it went. */
async function startCarry(to: To): Promise<void> {
  const { view, layer, takeJob, say } = useStudio.getState()
  const hold = layer ? view?.layers[layer]?.hold : null
  if (!view || !hold) return
  try {
    const at = { params: { path: { project: view.project.id, hold } } }
    const job = await answer(api.POST('/api/projects/{project}/holds/{hold}/carry', { ...at, body: { to, again: [] } }))
    takeJob(job)
    const ended = await finished(job.id)
    if (ended.state !== 'done') return
    const { frames, doubtful, left } = ended.result as { frames: number; doubtful: number; left?: number }
    const what = to === 'range' ? 'frame' : 'moment'
    const rest = left ? `, and not to ${left} too far away or in another take` : ''
    const words = `Carried to ${frames} ${what}${frames === 1 ? '' : 's'}${rest}`
    say(
      doubtful
        ? `${words}; ${doubtful} of them ${doubtful === 1 ? 'is' : 'are'} doubtful. Look at those first.`
        : `${words}.`,
    )
  } catch (error) {
    say(error instanceof Refused ? error.message : 'Carrying did not work. Try it again.', 'trouble')
  }
}

/** The carrying that goes on for this project, if any. */
function useCarrying() {
  return useStudio((s) => s.jobs.find((j) => j.kind === 'carry' && (j.state === 'running' || j.state === 'waiting')))
}

/** A correction spreads to the carried frames beside it: a moment after the last one they are carried anew. */
export function useSpreading(hold: string, strip: View['strips'][string] | undefined): void {
  const carrying = !!useCarrying()
  const stale = Object.keys(strip ?? {})
    .filter((f) => strip![Number(f)] === 'stale')
    .join()
  const tried = useRef('')
  useEffect(() => {
    if (!stale || carrying || tried.current === stale) return
    const later = setTimeout(() => {
      tried.current = stale // stopped by hand, it waits for the next correction
      void startCarry('range')
    }, 1800)
    return () => clearTimeout(later)
  }, [hold, stale, carrying])
}

/** Taking the matte along: to other moments as holds of their own, or through a range as a travelling matte. */
export function Carry() {
  const { hold, shot, layer, view } = useCutout()!
  const { edit } = useOf('edit')
  const running = useCarrying()
  const empty = hold.matte.pieces.length === 0
  const travel = hold.travel
  const strip = view.strips[hold.id] ?? {}
  const waiting = travel
    ? Array.from({ length: travel.past - travel.first }, (_, k) => strip[travel.first + k]).filter(
        (s) => !s || s === 'stale',
      ).length
    : 0
  const [begins, ends] = view.takes[hold.id]!
  const later = shot.moments.some((m) => hold.frame < m.frame && m.frame < ends)
  const others = shot.moments.some((m) => hold.frame !== m.frame && begins <= m.frame && m.frame < ends)
  const setRange = (first: number, past: number) =>
    edit({
      kind: 'set travel',
      hold: hold.id,
      range: [Math.max(begins, Math.min(first, hold.frame)), Math.min(ends, Math.max(past, hold.frame + 1))],
    })
  return (
    <Box data-testid="carry">
      <Heading>Carry</Heading>
      {running ? (
        <Working
          name={`${running.title}…`}
          share={running.progress}
          remaining={running.remaining}
          cancel="Stop carrying"
          hint="Stop; what is done stays, and it goes on from there"
          onCancel={() => void cancelJob(running.id)}
        />
      ) : (
        <Flex gap="1.5" wrap="wrap">
          <Act
            icon={FlagTriangleRight}
            disabled={empty || !later}
            hint={
              later
                ? 'To the next moment: hold the next flagged frame, with this matte'
                : 'There is no later flag in this take: set one in Catch'
            }
            onClick={() => void startCarry('next')}
          >
            Next
          </Act>
          <Act
            icon={Flag}
            disabled={empty || !others}
            hint={
              others
                ? 'Hold every flagged frame of the take, with this matte'
                : 'There are no other flags in this take: set some in Catch'
            }
            onClick={() => void startCarry('moments')}
          >
            All flags
          </Act>
          {!travel && (
            <Act
              icon={Footprints}
              disabled={empty}
              hint="The matte travels with the subject: say through which frames, at first all of the take"
              onClick={() => void setRange(begins!, ends!)}
            >
              Travel
            </Act>
          )}
        </Flex>
      )}
      {travel && (
        <Box mt="2">
          <NumberField
            label="First frame"
            unit=""
            min={begins}
            max={hold.frame}
            step={1}
            digits={0}
            value={travel.first}
            onDraft={() => {}}
            onCommit={(v) => void setRange(Math.round(v), travel.past)}
          />
          <NumberField
            label="Last frame"
            unit=""
            min={hold.frame}
            max={ends - 1}
            step={1}
            digits={0}
            value={travel.past - 1}
            onDraft={() => {}}
            onCommit={(v) => void setRange(travel.first, Math.round(v) + 1)}
          />
          <Flex gap="1.5" wrap="wrap" mt="1">
            {!running && waiting > 0 && (
              <Act main icon={Footprints} disabled={empty} onClick={() => void startCarry('range')}>
                Carry to {waiting} frame{waiting === 1 ? '' : 's'}
              </Act>
            )}
            {layer.arrangement.kind !== 'along' && (
              <Act
                icon={PersonStanding}
                hint="The cutout moves as the footage does, all along this range"
                onClick={() =>
                  void edit({ kind: 'change layer', layer: layer.id, arrangement: { kind: 'along' }, clear: [] })
                }
              >
                Run along
              </Act>
            )}
            <Act
              icon={X}
              hint="Keep only the held frame's matte"
              disabled={!!running}
              onClick={() => void edit({ kind: 'set travel', hold: hold.id, range: null })}
            >
              Stay put
            </Act>
          </Flex>
        </Box>
      )}
    </Box>
  )
}
