import { Box, Flex, Input, SimpleGrid } from '@chakra-ui/react'
import { ArrowLeft } from 'lucide-react'
import { useState } from 'react'
import { answer, api, type Edit, newId } from '../api/client'
import { Heading, Tool } from '../parts/buttons'
import { SwitchRow } from '../parts/SwitchRow'
import { Filling, Tile } from '../parts/Tile'
import { useCatalog } from '../parts/useCatalog'
import { useTrial } from '../parts/useTrial'
import { useOf, useStudio } from '../store'

/** For how many frames a card is there where nothing is chosen that it could go along with. */
const FRAMES = 75
/** From how much of it a subject would hide on a card lies in front of it. */
const HIDDEN = 0.3
/** How many frames before the playhead a card begins while it is tried, so that it is seen at rest. */
const BEFORE = 40

/**
 * A name and a line, and every card as it would look with them. Resting on one shows it in the picture, where there is
 * room for it beside the head; a press puts it there, along with what is chosen if that is there at the playhead.
 */
export function CardChoices({ done, back }: { done: () => void; back: () => void }) {
  const { view, edit, chooseLayer, seek, trouble, say } = useOf('view', 'edit', 'chooseLayer', 'seek', 'trouble', 'say')
  const chosen = useStudio((s) => s.layer)
  const [name, setName] = useState('')
  const [line, setLine] = useState('')
  const [behind, setBehind] = useState(true)
  const cards = useCatalog()?.cards ?? []
  const { rest, leave } = useTrial('cards')
  const layer = view!.project.layers.find((l) => l.id === chosen)
  const span = layer && view!.layers[layer.id]
  const words = { name: name.trim() || 'Name', line: line.trim() }
  const project = view!.project.id
  const make = async (kind: string, trial: boolean): Promise<Extract<Edit, { kind: 'add card' }>> => {
    const { playhead } = useStudio.getState()
    const along = span?.start != null && span.end != null && span.start <= playhead && playhead < span.end
    const start = along ? span.start! : playhead
    const frames = along ? Math.max(2, span.end! - start) : FRAMES
    // There is room where the subject leaves any once it is where it stays.
    const frame = trial || !along ? playhead : Math.min(span.end! - 1, start + Math.floor(frames / 2))
    const params = { path: { project, kind }, query: { frame, behind, ...words } }
    const { shared, ...room } = await answer(api.GET('/api/projects/{project}/cards/{kind}/room', { params }))
    // Where most of it would be hidden it lies in front after all.
    const tucked = along && behind && shared < HIDDEN
    if (along && behind && !tucked && !trial) say(`There is no room behind ${layer!.name}, so it lies in front.`)
    return {
      kind: 'add card',
      card: { kind } as Extract<Edit, { kind: 'add card' }>['card'],
      ...words,
      at: trial ? Math.max(0, playhead - BEFORE) : start,
      frames: trial ? 2 * BEFORE : frames,
      ...room,
      above: along && !tucked ? layer!.id : null,
      below: tucked ? layer!.id : null,
      group: newId(),
    }
  }
  const add = async (kind: string) => {
    leave()
    done()
    try {
      const card = await make(kind, false)
      if (!(await edit(card))) return
      chooseLayer(card.group!)
      // As it begins there is nothing of it to see yet.
      seek(card.at + Math.floor(card.frames! / 2))
    } catch (error) {
      trouble(error)
    }
  }
  const field = (label: string, value: string, set: (v: string) => void, most: number, hint: string) => (
    <Input
      aria-label={label}
      placeholder={hint}
      size="sm"
      h="32px"
      bg="raised"
      borderRadius="soft"
      maxLength={most}
      value={value}
      onChange={(e) => set(e.target.value)}
      onKeyDown={(e) => e.stopPropagation()}
    />
  )
  return (
    <>
      <Heading aside={<Tool icon={ArrowLeft} size={26} label="Back to all there is to add" onClick={back} />}>
        A card
      </Heading>
      <Flex gap="2">
        {field('Name on the card', name, setName, 80, 'A name')}
        {field('Line on the card', line, setLine, 120, 'A line below it')}
      </Flex>
      {layer && (
        <SwitchRow label="Behind what is chosen" on={behind} onChange={setBehind}>
          <Box flex="1">Behind {layer.name}</Box>
        </SwitchRow>
      )}
      <SimpleGrid columns={4} gap="2" mt="2" maxH="304px" overflowY="auto">
        {cards.map((k) => (
          <Tile
            key={k.kind}
            label={k.title}
            hint={k.hint}
            chosen={false}
            disabled={false}
            h="66px"
            picture={
              <Filling
                src={`/api/projects/${project}/cards/${k.kind}.jpg?${new URLSearchParams(words)}&r=${view!.project.palette.join('').replaceAll('#', '')}`}
              />
            }
            onPick={() => void add(k.kind)}
            onRest={() => rest(() => make(k.kind, true))}
            onLeave={leave}
          />
        ))}
      </SimpleGrid>
    </>
  )
}
