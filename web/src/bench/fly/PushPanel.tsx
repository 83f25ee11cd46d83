import { Box, Flex, Text } from '@chakra-ui/react'
import { Frame } from 'lucide-react'
import type { Edit, GroundItem, Layer } from '../../api/client'
import { Act } from '../../parts/buttons'
import { Fold } from '../../parts/Fold'
import { NumberField } from '../../parts/fields'
import { Pick } from '../../parts/Pick'
import { useOf } from '../../store'

/** A slow push: from one part of what is seen to another, drawn as two rectangles on the picture. */
export function PushPanel({ layer, item }: { layer?: Layer; item?: GroundItem }) {
  const {
    view,
    edit,
    setDraft,
    pushing,
    setPushing,
    rehearse,
    layer: chosenLayer,
  } = useOf('view', 'edit', 'setDraft', 'pushing', 'setPushing', 'rehearse', 'layer')
  const id = (layer ?? item)!.id
  const on = pushing?.owner === id
  const other = layer
    ? view!.project.ground.map((g): [string, string] => [
        g.id,
        view!.items.find((i) => i.id === g.id)?.name ?? 'Footage',
      ])
    : view!.project.layers.map((l): [string, string] => [l.id, l.name])
  const whose = (x: string) => (view!.project.layers.some((l) => l.id === x) ? { layer: x } : { item: x })
  const made = (p: NonNullable<typeof pushing>): Edit => ({
    kind: 'slow push',
    of: [{ ...whose(id), opposite: false }, ...(p.with ? [{ ...whose(p.with), opposite: true }] : [])],
    start: p.start,
    end: p.end,
  })
  const change = (given: Partial<NonNullable<typeof pushing>>) => setPushing({ ...pushing!, ...given })
  const begin = () => {
    const next = {
      owner: id,
      with: null,
      start: { across: 0, down: 0, size: 1 },
      end: { across: 0, down: 0, size: 0.88 },
    }
    setPushing(next)
    // What pushes it already would show another part than the rectangles speak of.
    const channels = layer
      ? ['position', 'across', 'down', 'scale']
      : ['framing.across', 'framing.down', 'framing.scale']
    const keys = (layer ?? item)!.keys.filter((k) => channels.includes(k.channel)).map((k) => k.id)
    if (keys.length) setDraft({ kind: 'remove keys', of: [{ ...whose(id), keys }] })
  }
  /** The frames over which it goes. */
  const span = () => {
    const place = view!.items.find((i) => i.id === id)
    const own = view!.layers[id]
    return place
      ? { first: place.start, past: place.start + place.length }
      : { first: own?.start ?? 0, past: own?.end ?? 1 }
  }
  const stop = () => {
    setPushing(null)
    setDraft(null)
  }
  return (
    <Fold name="push" title="Slow push" closed={Boolean(chosenLayer)}>
      {!on || !pushing ? (
        <Act
          icon={Frame}
          hint="Two rectangles on the picture: what is seen at its start, and at its end"
          disabled={layer?.locked}
          onClick={begin}
        >
          From here to there
        </Act>
      ) : (
        <>
          <NumberField
            label="Begins at"
            unit="%"
            value={Math.round(100 / pushing.start.size)}
            min={10}
            max={1000}
            onDraft={(v) => change({ start: { ...pushing.start, size: 100 / v } })}
            onCommit={(v) => change({ start: { ...pushing.start, size: 100 / v } })}
          />
          <NumberField
            label="Ends at"
            unit="%"
            value={Math.round(100 / pushing.end.size)}
            min={10}
            max={1000}
            onDraft={(v) => change({ end: { ...pushing.end, size: 100 / v } })}
            onCommit={(v) => change({ end: { ...pushing.end, size: 100 / v } })}
          />
          <Flex align="center" gap="2" minH="30px">
            <Text flex="1" whiteSpace="nowrap">
              Opposite
            </Text>
            <Flex w="120px">
              <Pick
                label="What is pushed the other way"
                value={pushing.with ?? ''}
                options={[['', 'nothing'], ...other]}
                onPick={(x) => change({ with: x || null })}
              />
            </Flex>
          </Flex>
          <Flex gap="1.5" mt="1">
            <Box
              onPointerEnter={() => rehearse({ edit: made(pushing), ...span() })}
              onPointerLeave={() => rehearse(null)}
            >
              <Act
                main
                onClick={() => {
                  rehearse(null)
                  const edit_ = made(pushing)
                  setPushing(null)
                  void edit(edit_)
                }}
              >
                Push
              </Act>
            </Box>
            <Act onClick={stop}>Leave it</Act>
          </Flex>
          <Text color="soft" fontSize="12px" mt="1">
            Drag the rectangles on the picture: the dashed one is where it begins. Rest on Push to see it.
          </Text>
        </>
      )}
    </Fold>
  )
}
