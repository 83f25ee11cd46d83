import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import { answer, api, type ItemView, type ShotView, type Watched } from '../../api/client'
import { type Choosing, FRESH, useChoices } from './choice'

/** A frame that is proposed, or one of an even spacing; `kept`: it is to be held. */
export interface Candidate {
  /** As it was proposed. */
  base: number
  /** Where it is now, nudged. */
  frame: number
  why: string
  crisp: number
  before: number
  kept: boolean
}

export interface Overlap {
  one: number
  other: number
  share: number
}

const NONE: Overlap[] = []

/** The frames that are chosen in a ground item, in order, and which of their bodies cover each other. */
export function useChosen(project: string, shot: ShotView, item: ItemView, watched: Watched | undefined) {
  const choosing = useChoices((s) => s.of[item.id]) ?? FRESH
  const [first, last] = ends(choosing, item, shot, watched)
  const spacing = {
    first,
    last,
    count: choosing.many,
    every: choosing.every,
    by: choosing.by,
  }
  const spaced = useQuery({
    queryKey: ['cadence', project, shot.id, item.id, spacing, watched?.known.at(-1)],
    queryFn: () =>
      answer(
        api.POST('/api/projects/{project}/shots/{shot}/cadence', {
          params: { path: { project, shot: shot.id }, query: { item: item.id } },
          body: spacing,
        }),
      ),
    enabled: choosing.way === 'even',
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 5_000,
  }).data
  const found = watched?.proposals
  const count = choosing.count ?? Math.max(1, watched?.unasked ?? 1)
  const picks = useMemo((): Candidate[] => {
    const crisp = (frame: number) => watched?.crisp[Math.floor(frame / watched.step)] ?? 0
    // Of frames that are only evenly spaced, those are named that happen to be at a peak.
    const named = choosing.way === 'found' ? found : found?.filter((p) => p.peak > 0)
    const whys = new Map(named?.map((p) => [p.frame, p.why]))
    const bases = choosing.way === 'found' ? (found ?? []).slice(0, count).map((p) => p.frame) : (spaced ?? [])
    return bases
      .map((base) => {
        const frame = base + (choosing.nudged[base] ?? 0)
        return {
          base,
          frame,
          why: whys.get(frame) ?? whys.get(base) ?? '',
          crisp: crisp(frame),
          before: crisp(base),
          kept: !choosing.dropped.includes(base),
        }
      })
      .sort((a, b) => a.frame - b.frame)
  }, [choosing, found, count, spaced, watched])
  const frames = picks.filter((p) => p.kept).map((p) => p.frame)
  const key = frames.join()
  const overlaps = useQuery({
    queryKey: ['overlaps', project, shot.id, key, watched?.known.at(-1)],
    queryFn: () =>
      answer(
        api.POST('/api/projects/{project}/shots/{shot}/overlaps', {
          params: { path: { project, shot: shot.id } },
          body: { frames },
        }),
      ),
    enabled: frames.length > 1,
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 5_000,
  }).data
  return { choosing, picks, frames, count, first, last, overlaps: frames.length > 1 ? (overlaps ?? NONE) : NONE }
}

/** The first and the last frame of the spacing: what was chosen, or as long as the subject is seen in what the item shows. */
function ends(choosing: Choosing, item: ItemView, shot: ShotView, watched: Watched | undefined): [number, number] {
  const [from, past] = item.range ?? [0, shot.frames]
  const there = watched?.there ?? [from, past]
  const first = Math.min(past - 1, Math.max(from, choosing.first ?? there[0]))
  return [first, Math.max(first, Math.min(past - 1, choosing.last ?? there[1] - 1))]
}

/** How much of a body is covered, in words. */
export function shareWords(share: number): string {
  const words: [number, string][] = [
    [0.06, 'a little'],
    [0.15, 'a tenth'],
    [0.29, 'a quarter'],
    [0.42, 'a third'],
    [0.58, 'half'],
    [0.71, 'two thirds'],
    [0.9, 'most of it'],
  ]
  return words.find(([most]) => share < most)?.[1] ?? 'nearly all'
}
