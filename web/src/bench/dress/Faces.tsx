import { Box, Flex, SimpleGrid } from '@chakra-ui/react'
import { Import } from 'lucide-react'
import type { Edit, Layer } from '../../api/client'
import { Act } from '../../parts/buttons'
import { newest } from '../../parts/finishes'
import { Tile } from '../../parts/Tile'
import { useFaces } from '../../parts/useFaces'
import { useTrial } from '../../parts/useTrial'
import { pickFiles } from '../../parts/pickFiles'
import { useOf } from '../../store'

/** The words of a layer in every face: resting on one shows it in the picture, a press takes it. */
export function Faces({ owner }: { owner: Layer }) {
  const { view, edit } = useOf('view', 'edit')
  const { rest, leave } = useTrial(owner.id)
  const faces = useFaces()
  const source = owner.source as Extract<Layer['source'], { kind: 'lettering' }>
  const set = (face: string) => (): Edit => ({
    kind: 'change layer',
    layer: owner.id,
    clear: [],
    source: { ...newest(owner).source, face, axes: {} } as Layer['source'],
  })
  const words = encodeURIComponent(`${source.words} ${source.case}`.slice(0, 40))
  return (
    <>
      <Flex mt="2" justify="flex-end">
        <Act
          icon={Import}
          hint="A .ttf, .otf, .woff or .woff2 of your own, kept with the project"
          onClick={() => pickFiles('font')}
        >
          Import a font
        </Act>
      </Flex>
      <SimpleGrid minChildWidth="112px" gap="2" mt="2.5">
        {faces.map((f) => {
          const picture = `url("/api/projects/${view!.project.id}/layers/${owner.id}/faces/${f.id}.png?w=${words}")`
          const mask = `${picture} center / contain no-repeat`
          return (
            <Tile
              key={f.id}
              label={f.title}
              hint={`${f.title}, ${f.sort}`}
              aside={f.sort}
              chosen={f.id === source.face}
              disabled={owner.locked}
              h="52px"
              picture={<Box h="100%" bg="ink" style={{ mask, WebkitMask: mask }} />}
              onPick={() => f.id !== source.face && void edit(set(f.id))}
              onRest={() => f.id !== source.face && rest(set(f.id))}
              onLeave={leave}
            />
          )
        })}
      </SimpleGrid>
    </>
  )
}
