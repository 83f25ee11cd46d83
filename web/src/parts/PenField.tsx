import { Flex, Text } from '@chakra-ui/react'
import { PenLine } from 'lucide-react'
import { answer, api, type Layer } from '../api/client'
import { useOf, useStudio } from '../store'
import { Act } from './buttons'
import { can, newest } from './finishes'
import { Pick } from './Pick'

/** How far outside of a thing a line around it runs, in project pixels. */
const AWAY = 24

/** The ways to a path: drawn anew on the picture, or along the line around something that is seen now. */
export function PenField(p: { disabled?: boolean }) {
  const { view, edit, drawing, setDrawing, settled, trouble } = useOf(
    'view',
    'edit',
    'drawing',
    'setDrawing',
    'settled',
    'trouble',
  )
  const own = useStudio((s) => s.layer)
  const there = (view?.project.layers ?? []).filter((l) => {
    const { start, end } = view!.layers[l.id] ?? {}
    const seen = start != null && end != null && start <= settled && settled < end
    return seen && l.id !== own && l.visible && !can(l, 'washes') && !can(l, 'gathers')
  })
  const around = (layer: string) => {
    const params = { path: { project: view!.project.id, layer }, query: { frame: settled, away: AWAY } }
    answer(api.GET('/api/projects/{project}/layers/{layer}/line', { params })).then((points) => {
      const penned = view!.project.layers.find((l) => l.id === own)
      if (!penned) return
      void edit(() => ({
        kind: 'change layer',
        layer: penned.id,
        clear: [],
        source: { ...newest(penned).source, points, closed: true } as Layer['source'],
      }))
    }, trouble)
  }
  return (
    <>
      <Flex align="center" minH="30px" gap="2">
        <Text flex="1" color="soft" fontSize="12px">
          {drawing ? 'Draw, or set points; Enter ends.' : 'Drag its points in the picture.'}
        </Text>
        <Act icon={PenLine} disabled={p.disabled} onClick={() => setDrawing(!drawing)}>
          {drawing ? 'Leave it' : 'Draw'}
        </Act>
      </Flex>
      {there.length > 0 && (
        <Flex align="center" minH="30px" gap="2">
          <Text flex="1">Around</Text>
          <Flex w="160px">
            <Pick
              label="Run around a layer"
              value=""
              options={[['', 'A layer …'], ...there.map((l): [string, string] => [l.id, l.name])]}
              disabled={p.disabled}
              onPick={(id) => id && around(id)}
            />
          </Flex>
        </Flex>
      )}
    </>
  )
}
