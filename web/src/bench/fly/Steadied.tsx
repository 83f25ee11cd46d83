import { Flex, Text } from '@chakra-ui/react'
import { RefreshCw, Trash2 } from 'lucide-react'
import type { GroundItem } from '../../api/client'
import { Choice, Tool } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { SwitchRow } from '../../parts/SwitchRow'
import { useOf, useStudio } from '../../store'
import { follow } from '../../parts/follow'
import { knows, useFollowing } from './Pinned'
import { Trust } from './Trust'

const WAYS = [
  { value: 'off', label: 'As filmed', hint: 'Nothing is steadied' },
  { value: 'smooth', label: 'Smooth', hint: 'Goes where the camera went, without its shake' },
  { value: 'still', label: 'Still', hint: 'Stands as in the frame that it was followed from' },
]

/** Steadies a shot by its track: nothing that is pinned to it is lost. */
export function Steadied({ item }: { item: GroundItem }) {
  const { view, edit } = useOf('view', 'edit')
  const following = useFollowing()
  const info = view!.items.find((i) => i.id === item.id)
  const steady = item.steady ?? null
  const track = steady ? view!.tracks[steady.track] : undefined
  if (!info?.footage) return null
  if (following) return following
  type Steady = NonNullable<typeof steady>
  const put = (given: Partial<Steady>) =>
    edit({ kind: 'steady ground', item: item.id, steady: { ...steady!, ...given } as Steady })
  const choose = async (way: string) => {
    if (way === 'off') return void edit({ kind: 'steady ground', item: item.id, steady: null })
    if (steady) return void put({ how: way as Steady['how'] })
    const { playhead } = useStudio.getState()
    const inside = info.start <= playhead && playhead < info.start + info.length
    const frame = info.frames[inside ? playhead - info.start : 0]!
    const known = Object.values(view!.tracks).find(
      (t) => !t.patch && !t.touched && knows(t, { shot: info.shot!, frame }),
    )
    const how = way as Steady['how']
    if (known) return void put({ track: known.id, how, calm: 0.5, strength: 1, fills: true })
    await follow({ item: item.id, at: playhead })
    const made = useStudio.getState().view?.project.ground.find((g) => g.id === item.id)?.steady
    if (made && made.how !== how) void edit({ kind: 'steady ground', item: item.id, steady: { ...made, how } })
  }
  const costs = info.steadied
  return (
    <>
      <Choice label="How it is steadied" value={steady?.how ?? 'off'} options={WAYS} onChange={(w) => void choose(w)} />
      {steady && (
        <>
          <NumberField
            label="Strength"
            unit="%"
            value={Math.round(steady.strength! * 100)}
            initial={100}
            min={0}
            max={100}
            slider
            onCommit={(v) => void put({ strength: v / 100 })}
          />
          {steady.how === 'smooth' && (
            <NumberField
              label="Calm"
              unit="s"
              value={steady.calm!}
              initial={0.5}
              min={0.1}
              max={4}
              step={0.1}
              slider
              onCommit={(calm) => void put({ calm })}
            />
          )}
          <SwitchRow label="Fill the picture" on={steady.fills!} onChange={(fills) => void put({ fills })} />
          {costs && (
            <Text fontSize="12px" color={costs.edges ? 'inherit' : 'soft'} data-testid="steadied">
              {costs.larger > 1 && `Enlarged to ${Math.round(costs.larger * 1000) / 10} %. `}
              {costs.edges > 0
                ? `The edge of what was filmed is seen at ${costs.edges} of its frames: ${costs.larger >= 2 ? 'take less of it, or cut it shorter' : 'fill the picture, or take less of it'}.`
                : 'No edge is seen.'}
            </Text>
          )}
          {track && <Trust track={track} />}
          {track && (
            <Flex gap="0.5" mt="1">
              <Tool
                icon={RefreshCw}
                size={28}
                label="Follow it again"
                hint="All that goes by it goes by what is found then"
                onClick={() => void follow({ item: item.id, replaces: track.id })}
              />
              <Tool
                icon={Trash2}
                size={28}
                label="Forget how the camera went"
                hint="Lets go of all that goes by it"
                onClick={() => void edit({ kind: 'remove track', track: track.id })}
              />
            </Flex>
          )}
        </>
      )}
    </>
  )
}
