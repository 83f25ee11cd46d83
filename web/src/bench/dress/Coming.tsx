import { Flex } from '@chakra-ui/react'
import { ArrowRightFromLine, ArrowRightToLine } from 'lucide-react'
import { type Edit, type Layer, newId } from '../../api/client'
import { Act } from '../../parts/buttons'
import { useOf } from '../../store'

/** For how many frames letters come in, or go out, to begin with. */
const FRAMES = 18

/** Keys by which letters come in from a layer's first frame on, or go out towards its last, in one press. */
export function Coming({ layer }: { layer: Layer }) {
  const { edit } = useOf('edit')
  const source = layer.source as Extract<Layer['source'], { kind: 'lettering' }>
  if (source.way === 'all there') return null
  const keyed = (channel: string, tie: 'start' | 'end', ends: [number, number][]): Edit => ({
    kind: 'several',
    edits: [
      ...layer.keys
        .filter((k) => k.channel === channel)
        .map((k) => ({ kind: 'remove key' as const, layer: layer.id, key: k.id })),
      ...ends.map(([offset, value]) => ({
        kind: 'set key' as const,
        layer: layer.id,
        key: { id: newId(), channel, tie, to: null, offset, value: [value], bend: null, made: null },
      })),
    ] as Extract<Edit, { kind: 'several' }>['edits'],
  })
  const come = () =>
    keyed('source.entered', 'start', [
      [0, 0],
      [FRAMES, 1],
    ])
  // On the last frame nothing is left of them.
  const go = () =>
    keyed('source.gone', 'end', [
      [-1 - FRAMES, 0],
      [-1, 1],
    ])
  return (
    <Flex gap="2" mt="1.5">
      <Act
        icon={ArrowRightToLine}
        disabled={layer.locked}
        hint={`Keys by which they come in over its first ${FRAMES} frames`}
        onClick={() => void edit(come)}
      >
        Come in
      </Act>
      <Act
        icon={ArrowRightFromLine}
        disabled={layer.locked}
        hint={`Keys by which they go out over its last ${FRAMES} frames`}
        onClick={() => void edit(go)}
      >
        Go out
      </Act>
    </Flex>
  )
}
