import { Flex } from '@chakra-ui/react'
import {
  AlignCenterHorizontal,
  AlignCenterVertical,
  AlignEndHorizontal,
  AlignEndVertical,
  AlignHorizontalDistributeCenter,
  AlignStartHorizontal,
  AlignStartVertical,
  AlignVerticalDistributeCenter,
} from 'lucide-react'
import type { Edit } from '../../api/client'
import { Tool } from '../../parts/buttons'
import { useStudio } from '../../store'

const EDGES = [
  ['left', AlignStartVertical, 'Left edges'],
  ['centre', AlignCenterVertical, 'Middles, across'],
  ['right', AlignEndVertical, 'Right edges'],
  ['top', AlignStartHorizontal, 'Top edges'],
  ['middle', AlignCenterHorizontal, 'Middles, down'],
  ['bottom', AlignEndHorizontal, 'Bottom edges'],
] as const

/** Puts layers in line at the playhead: one with the canvas, several with one another. */
export function AlignBar({ layers, disabled }: { layers: string[]; disabled?: boolean }) {
  const edit = useStudio((s) => s.edit)
  const several = layers.length > 1
  const align = (edge: (typeof EDGES)[number][0]): Edit => ({
    kind: 'align',
    layers,
    edge,
    frame: useStudio.getState().playhead,
    to: several ? 'each other' : 'canvas',
  })
  return (
    <Flex wrap="wrap">
      {EDGES.map(([edge, icon, name]) => (
        <Tool
          key={edge}
          icon={icon}
          size={27}
          label={`${name} ${several ? 'in line' : 'to the canvas'}`}
          disabled={disabled}
          onClick={() => void edit(align(edge))}
        />
      ))}
      {several && (
        <>
          <Tool
            icon={AlignHorizontalDistributeCenter}
            size={27}
            label="Spread evenly across"
            disabled={disabled || layers.length < 3}
            onClick={() =>
              void edit({ kind: 'distribute', layers, axis: 'across', frame: useStudio.getState().playhead })
            }
          />
          <Tool
            icon={AlignVerticalDistributeCenter}
            size={27}
            label="Spread evenly down"
            disabled={disabled || layers.length < 3}
            onClick={() =>
              void edit({ kind: 'distribute', layers, axis: 'down', frame: useStudio.getState().playhead })
            }
          />
        </>
      )}
    </Flex>
  )
}
