import { Flex, Input, Text } from '@chakra-ui/react'
import { FlipHorizontal2, SquareArrowOutUpRight } from 'lucide-react'
import { useState } from 'react'
import type { Edit, Layer, LayerView } from '../../api/client'
import { Choice, Heading, Tool } from '../../parts/buttons'
import { useOf } from '../../store'
import { SourceSettings } from '../../parts/SourceSettings'
import { can } from '../../parts/finishes'

type Mode = NonNullable<Layer['framing']>['mode'] | 'below'

/** What a layer shows, how that rests on the canvas, and the word that somebody marked it with. */
export function Shown({ layer, info }: { layer: Layer; info: LayerView }) {
  const { view, edit } = useOf('view', 'edit')
  const change = (field: object): Edit => ({ kind: 'change layer', layer: layer.id, clear: [], ...field })
  const framing = layer.framing
  return (
    <>
      <SourceSettings layer={layer} />
      {!info.gathers && !can(layer, 'washes') && (
        <>
          <Heading
            aside={
              <Tool
                icon={FlipHorizontal2}
                label="Mirrored"
                hint="Left and right exchanged"
                size={26}
                on={framing?.mirrored ?? false}
                disabled={layer.locked}
                onClick={() =>
                  void edit(
                    change({
                      framing: { ...(framing ?? below(layer, view!.project.ground)), mirrored: !framing?.mirrored },
                    }),
                  )
                }
              />
            }
          >
            At rest on the canvas
          </Heading>
          <Choice<Mode>
            label="Framing"
            value={framing?.mode ?? 'below'}
            onChange={(mode) =>
              void edit(mode === 'below' ? change({ clear: ['framing'] }) : change({ framing: { ...framing, mode } }))
            }
            options={[
              ...(layer.over
                ? [{ value: 'below' as const, label: 'As below', hint: 'As the footage that it hangs over' }]
                : []),
              { value: 'fill', label: 'Fill', hint: 'Fills the canvas; what stands over is cut off' },
              { value: 'fit', label: 'Whole', hint: 'All of it, as large as fits' },
              ...(framing?.mode === 'hand' ? [{ value: 'hand' as const, label: 'By hand' }] : []),
            ]}
          />
        </>
      )}
      <Tag layer={layer} />
    </>
  )
}

/** How the footage rests that a layer hangs over. */
function below(layer: Layer, ground: { id: string; framing: NonNullable<Layer['framing']> }[]) {
  return ground.find((g) => g.id === layer.over)?.framing ?? { mode: 'fill' as const }
}

/** A word to find layers by, and to choose all that have it. */
function Tag({ layer }: { layer: Layer }) {
  const { view, edit, chooseLayers } = useOf('view', 'edit', 'chooseLayers')
  const [text, setText] = useState<string | null>(null)
  const alike = view!.project.layers.filter((l) => l.tag && l.tag === layer.tag)
  const done = () => {
    if (text !== null && text.trim() !== (layer.tag ?? '')) {
      const tag = text.trim()
      void edit({ kind: 'change layer', layer: layer.id, ...(tag ? { tag, clear: [] } : { clear: ['tag'] }) })
    }
    setText(null)
  }
  return (
    <Flex align="center" gap="2" mt="3" minH="28px">
      <Text flex="1">Tag</Text>
      <Input
        aria-label="Tag"
        size="2xs"
        h="24px"
        w="86px"
        px="1.5"
        bg="raised"
        borderRadius="soft"
        maxLength={24}
        disabled={layer.locked}
        value={text ?? layer.tag ?? ''}
        onChange={(e) => setText(e.target.value)}
        onBlur={done}
        onKeyDown={(e) => {
          e.stopPropagation()
          if (e.key === 'Enter') e.currentTarget.blur()
          if (e.key === 'Escape') setText(null)
        }}
      />
      <Tool
        icon={SquareArrowOutUpRight}
        label="Choose all with this tag"
        size={24}
        disabled={alike.length < 2}
        onClick={() => chooseLayers([layer.id, ...alike.map((l) => l.id).filter((id) => id !== layer.id)])}
      />
    </Flex>
  )
}
