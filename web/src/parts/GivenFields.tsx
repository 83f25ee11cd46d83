import { Flex, Text } from '@chakra-ui/react'
import { Import } from 'lucide-react'
import type { ReactNode } from 'react'
import { answer, api } from '../api/client'
import { pickFiles } from './pickFiles'
import { useOf, useStudio } from '../store'
import { Tool } from './buttons'
import { Pick } from './Pick'
import { can } from './finishes'

interface Props {
  label: ReactNode
  name: string
  disabled?: boolean
  onPick: (value: unknown) => void
}

/** A file of the shelf of one sort, and the way to import another one. */
export function ShelvedField(p: Props & { of: string; value: string | null }) {
  const { view } = useOf('view')
  const all = Object.values(view?.assets ?? {}).filter((a) => a.kind === p.of)
  return (
    <Flex align="center" minH="30px" gap="2">
      {p.label}
      <Flex w="128px">
        <Pick
          label={p.name}
          value={p.value ?? ''}
          options={[
            ['', all.length ? 'None' : 'None on the shelf'],
            ...all.map((a): [string, string] => [a.file, a.name]),
          ]}
          disabled={p.disabled || (!all.length && !p.value)}
          onPick={(file) => p.onPick(file || null)}
        />
      </Flex>
      <Tool
        icon={Import}
        size={24}
        label={p.of === 'table' ? 'Import a table' : 'Import a picture'}
        hint="Read a file into the shelf"
        disabled={p.disabled}
        onClick={() => pickFiles(p.of)}
      />
    </Flex>
  )
}

const GROUND = 'ground'

/** The tones of something else, taken at a press: of the ground as it is seen now, of a layer, of a picture. */
export function TonesField(p: Props & { taken: boolean }) {
  const { view, trouble } = useOf('view', 'trouble')
  const own = useStudio((s) => s.layer)
  // Its own tones it has already.
  const layers = (view?.project.layers ?? []).filter((l) => l.id !== own && !can(l, 'washes') && !can(l, 'gathers'))
  const pictures = Object.values(view?.assets ?? {}).filter((a) => a.kind === 'picture')
  const take = (what: string) => {
    const [sort, id] = what.split(':')
    const query = {
      frame: useStudio.getState().playhead,
      layer: sort === 'layer' ? id : undefined,
      asset: sort === 'picture' ? id : undefined,
    }
    const path = { project: view!.project.id }
    answer(api.GET('/api/projects/{project}/tones', { params: { path, query } })).then(p.onPick, trouble)
  }
  return (
    <Flex align="center" minH="30px" gap="2">
      {p.label}
      {p.taken && (
        <Text color="soft" fontSize="12px">
          taken
        </Text>
      )}
      <Flex w="148px">
        <Pick
          label={p.name}
          value=""
          options={[
            ['', p.taken ? 'Take anew from …' : 'Take from …'],
            [GROUND, 'The ground, as seen now'],
            ...layers.map((l): [string, string] => [`layer:${l.id}`, l.name]),
            ...pictures.map((a): [string, string] => [`picture:${a.id}`, a.name]),
          ]}
          disabled={p.disabled}
          onPick={(what) => what && take(what)}
        />
      </Flex>
    </Flex>
  )
}
