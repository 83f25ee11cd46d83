import { Flex } from '@chakra-ui/react'
import type { GroundItem, Layer } from '../api/client'
import { Pick } from './Pick'
import { useOf } from '../store'

/** The name of the selected thing, in a list to choose another from. */
export function Chosen({ owners }: { owners: (Layer | GroundItem)[] }) {
  const { view, chooseLayer, chooseItem } = useOf('view', 'chooseLayer', 'chooseItem')
  const layers = [...view!.project.layers].reverse().map((l): [string, string] => [l.id, l.name])
  const ground = view!.items.map((i): [string, string] => [i.id, i.name])
  const several = owners.length > 1
  return (
    <Flex
      css={{ '& select': { fontWeight: 700, fontSize: '14px', background: 'transparent', borderColor: 'transparent' } }}
      ml="-6px"
    >
      <Pick
        label="What is shown here"
        value={several ? 'several' : (owners[0]?.id ?? 'piece')}
        options={[
          ...(several ? ([['several', `${owners.length} layers`]] as [string, string][]) : []),
          ['piece', 'The whole piece'],
        ]}
        groups={{ Sky: layers, Ground: ground }}
        onPick={(id) => {
          if (id === 'piece') {
            chooseItem(null)
            return chooseLayer(null)
          }
          if (view!.items.some((i) => i.id === id)) chooseItem(id)
          else if (id !== 'several') chooseLayer(id)
        }}
      />
    </Flex>
  )
}
