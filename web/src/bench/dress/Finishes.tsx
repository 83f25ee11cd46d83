import { Flex, SimpleGrid, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { answer, api, type KindView, type Layer, newId } from '../../api/client'
import { Choice } from '../../parts/buttons'
import { settingsOf } from '../../parts/schema'
import { Filling, Tile } from '../../parts/Tile'
import { useCatalog } from '../../parts/useCatalog'
import { useTrial } from '../../parts/useTrial'
import { useOf, useStudio } from '../../store'
import { can, changing, type Owner, targetOf } from '../../parts/finishes'
import { Faces } from './Faces'
import { FAMILIES as KINDS, Kinds } from './Kinds'

const FAMILIES: [string, string][] = [
  ['edge', 'Edge'],
  ['tone', 'Tone'],
  ['fill', 'Fill'],
  ['drawing', 'Drawing'],
  ['light', 'Light'],
  ['lens', 'Lens'],
  ['break-up', 'Break up'],
  ['geometry', 'Form'],
]

/** All finishes by family, each as a small picture of the thing itself: one press puts one on. */
export function Finishes({ owner }: { owner: Owner }) {
  const { view, edit, trouble } = useOf('view', 'edit', 'trouble')
  const target = targetOf(owner)
  // Of the ground what is seen now is shown; of what flies what it is itself.
  const at = useStudio((s) => (target === 'ground' ? s.settled : 0))
  const catalog = useCatalog()
  const looksOf = (o: Owner) => catalog?.sources.find((s) => s.kind === o.source.kind)?.looks
  const known = (catalog?.finishes ?? []).filter((f) => f.on.includes(target))
  const own: [string, string][] = can(owner, 'worded') ? [['faces', 'Faces']] : []
  const looks = looksOf(owner) ?? ''
  if (looks in KINDS) own.push([looks, KINDS[looks]!])
  const families = [...own, ...FAMILIES.filter(([looks]) => known.some((f) => f.looks === looks))]
  const [chosen, setChosen] = useState<string | null>(null)
  // Until one is chosen it is what the layer is; what there is of that may be known only later.
  const wanted = chosen ?? own[0]?.[0] ?? 'edge'
  const family = families.some(([looks]) => looks === wanted) ? wanted : (families[0]?.[0] ?? '')
  const { rest, leave } = useTrial(`${owner.id} ${family}`)
  const locked = 'locked' in owner && owner.locked
  /** A finish to put on; what it begins with where that depends on what there is the server says. */
  const put = async (f: KindView) => {
    const path = { project: view!.project.id, owner: owner.id, kind: f.kind }
    const url = '/api/projects/{project}/fitting/{owner}/{kind}/beginning' as const
    const depends = settingsOf(f.settings).some((s) => s.sort === 'shelved' || s.sort === 'tones')
    const settings = depends
      ? await answer(api.GET(url, { params: { path, query: { frame: useStudio.getState().playhead } } }))
      : {}
    return { id: newId(), kind: f.kind, settings, visible: true }
  }
  const hover = (f: KindView) => locked || rest(() => put(f).then((made) => changing(owner, (all) => [...all, made])()))
  const add = (f: KindView) => void put(f).then((made) => edit(changing(owner, (all) => [...all, made])), trouble)
  return (
    <>
      <Choice
        label="Family of finishes"
        value={family}
        onChange={setChosen}
        options={families.map(([value, label]) => ({ value, label }))}
      />
      {family === 'faces' && <Faces owner={owner as Layer} />}
      {family in KINDS && <Kinds owner={owner as Layer} family={family} />}
      <SimpleGrid minChildWidth="102px" gap="2" mt="2.5">
        {known
          .filter((f) => f.looks === family)
          .map((f) => (
            <Tile
              key={f.kind}
              label={f.title}
              hint={f.hint}
              chosen={owner.finishes.some((x) => x.kind === f.kind)}
              disabled={locked}
              h="78px"
              picture={
                <Filling
                  src={`/api/projects/${view!.project.id}/fitting/${owner.id}/${f.kind}.jpg?frame=${at}&r=${view!.revision}`}
                />
              }
              onPick={() => add(f)}
              onRest={() => hover(f)}
              onLeave={leave}
            />
          ))}
      </SimpleGrid>
      {!own.some(([looks]) => looks === family) && (
        <Flex mt="2.5" color="soft" fontSize="12px">
          <Text>Rest on one to see it in the picture; press to put it on.</Text>
        </Flex>
      )}
    </>
  )
}
