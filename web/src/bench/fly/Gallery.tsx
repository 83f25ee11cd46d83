import { Box, Flex, SimpleGrid, Text } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { answer, api, type Edit, type KindView, type Layer } from '../../api/client'
import { Act, Choice } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { NumberField } from '../../parts/fields'
import { useCatalog } from '../../parts/useCatalog'
import { useOf } from '../../store'
import { Behaviours } from './Behaviours'
import { MovingTile } from './MovingTile'
import { useAwake } from './useAwake'

type Side = 'in' | 'out' | 'always'
type Box4 = [number, number, number, number]
/** How long the pointer rests on a picture before the move is played in the picture. */
const PAUSE = 280

/** Moves in and out, and behaviours, as small moving pictures of the selected layer: one press puts one on. */
export function Gallery({ layers }: { layers: Layer[] }) {
  const { view, edit, setDraft } = useOf('view', 'edit', 'setDraft')
  const [side, setSide] = useState<Side>('in')
  const { awake, props } = useAwake()
  const [stagger, setStagger] = useState(0)
  const [by, setBy] = useState<'order' | 'distance'>('order')
  const catalog = useCatalog()
  const layer = layers[0]!
  const put = side === 'in' ? layer.entrance : side === 'out' ? layer.exit : null
  const project = view!.project.id
  const shown = useQuery({
    queryKey: ['rehearsal', project, layer.id, side, put, view!.revision],
    queryFn: () =>
      answer(
        api.POST('/api/projects/{project}/layers/{layer}/rehearsal', {
          params: { path: { project, layer: layer.id } },
          body: { side, put },
        }),
      ),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 30_000,
  }).data
  const locked = layers.some((l) => l.locked)
  const kinds = (side === 'always' ? catalog?.behaviours : catalog?.moves)?.filter((k) =>
    k.on.includes(side === 'always' ? 'sky' : side),
  )
  const move = (kind: string, settings?: Record<string, unknown>): Edit => ({
    kind: 'put move',
    layers: layers.map((l) => l.id),
    side: side as 'in' | 'out',
    move: { kind, settings: settings ?? (put?.kind === kind ? (put.settings ?? {}) : {}) },
    stagger,
    by,
  })
  const hover = useTried([side, layer.id].join(), (kind) => {
    const played = shown?.shown.find((s) => s.kind === kind)
    if (!played || side === 'always') return null
    const past = Math.min(view!.length, played.first + played.matrices.length + (layers.length - 1) * stagger)
    return { edit: move(kind), first: Math.max(0, played.first), past }
  })
  const look = ({ kind, title, hint }: KindView) => ({
    title,
    hint,
    shown: shown?.shown.find((s) => s.kind === kind),
    box: shown?.box as Box4 | undefined,
    home: shown?.home as Box4 | undefined,
    moves: awake,
    picture: pictureOf(project, layer, view!.revision),
    rate: view!.project.rate,
    disabled: locked,
  })
  const chosen = put && catalog?.moves.find((m) => m.kind === put.kind)
  const settings = (put?.settings ?? {}) as Record<string, unknown>
  const other = put && side !== 'always'
  return (
    <Box {...props}>
      <Flex align="center" justify="space-between" gap="2" mt="1" mb="2">
        <Choice<Side>
          label="In, out or always"
          value={side}
          onChange={setSide}
          options={[
            { value: 'in', label: 'In', hint: 'How it comes' },
            { value: 'out', label: 'Out', hint: 'How it leaves' },
            { value: 'always', label: 'Always', hint: 'What it does besides, all along' },
          ]}
        />
        {other && (
          <Act
            disabled={locked}
            hint={side === 'in' ? 'Takes the entrance off' : 'Takes the exit off'}
            onClick={() =>
              void edit({ kind: 'put move', layers: layers.map((l) => l.id), side, move: null, stagger: 0, by })
            }
          >
            Off
          </Act>
        )}
      </Flex>
      {side === 'always' ? (
        <Behaviours
          owner={layers.length === 1 ? layer : null}
          layers={layers}
          on="sky"
          tile={(kind, on, press) => (
            <MovingTile {...look(kind)} key={kind.kind} on={on} onPress={press} onHover={() => undefined} />
          )}
        />
      ) : (
        <>
          <SimpleGrid columns={3} gap="1.5">
            {kinds?.map((k) => (
              <MovingTile
                {...look(k)}
                key={k.kind}
                leaves={side === 'out'}
                on={put?.kind === k.kind}
                onPress={() => {
                  hover(k.kind, false)
                  void edit(move(k.kind))
                }}
                onHover={(over) => hover(k.kind, over)}
              />
            ))}
          </SimpleGrid>
          {layers.length > 1 && <Staggered {...{ stagger, setStagger, by, setBy }} />}
          {chosen && put ? (
            <Box mt="1">
              <Controls
                schema={chosen.settings}
                values={settings}
                disabled={locked}
                onDraft={(name, value) => setDraft(move(put.kind, { ...settings, [name]: value }))}
                onCommit={(name, value) => void edit(move(put.kind, { ...settings, [name]: value }))}
              />
            </Box>
          ) : (
            <Text color="soft" fontSize="12px" mt="2">
              {side === 'in'
                ? 'Rest on one to see it in the picture; press to put it on. Its keys are ordinary ones then.'
                : 'How it leaves. Mirror as exit has it leave the way it came.'}
            </Text>
          )}
        </>
      )}
    </Box>
  )
}

/** Moves of several things, one after the other. */
function Staggered(p: {
  stagger: number
  setStagger: (frames: number) => void
  by: 'order' | 'distance'
  setBy: (by: 'order' | 'distance') => void
}) {
  const { stagger, setStagger, by, setBy } = p
  return (
    <Box mt="1">
      <NumberField
        label="One after the other"
        unit="fr"
        value={stagger}
        initial={0}
        min={-90}
        max={90}
        onCommit={setStagger}
      />
      {stagger !== 0 && (
        <Choice
          label="Staggered by"
          value={by}
          onChange={setBy}
          options={[
            { value: 'order', label: 'In order', hint: 'In the order of their moments' },
            { value: 'distance', label: 'By distance', hint: 'By how far they are from the first' },
          ]}
        />
      )}
    </Box>
  )
}

/**
 * What the pointer rests on for a while is played in the picture, as long as it does; `of` is what they are tried on. What
 * it would be may not be known yet: then it is played once it is.
 */
function useTried(of: string, tried: (kind: string) => { edit: Edit; first: number; past: number } | null) {
  const { rehearse } = useOf('rehearse')
  const timer = useRef(0)
  const resting = useRef<string | null>(null)
  const newest = useRef(tried)
  useEffect(() => {
    newest.current = tried
  })
  useEffect(
    () => () => {
      clearInterval(timer.current)
      rehearse(null)
    },
    [of, rehearse],
  )
  return (kind: string, over: boolean) => {
    if (over && resting.current === kind) return
    clearInterval(timer.current)
    resting.current = over ? kind : null
    if (!over) return rehearse(null)
    timer.current = window.setInterval(() => {
      const played = newest.current(kind)
      if (!played) return
      clearInterval(timer.current)
      rehearse(played)
    }, PAUSE)
  }
}

function pictureOf(project: string, layer: Layer, revision: number): string {
  return `/api/projects/${project}/layers/${layer.id}/thumbnail.png?side=120&r=${revision}`
}
