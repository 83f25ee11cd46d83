import { Box, Flex, SimpleGrid } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import type { Made } from '../../api/client'
import { Act, Empty, Heading } from '../../parts/buttons'
import { Tile } from '../../parts/Tile'
import { pickFiles } from '../../parts/pickFiles'
import { useOf } from '../../store'
import { Loop, Says } from './Loop'
import { isOf, Recipe } from './Recipe'
import { type Offered, useRecipes } from './useRecipes'

/** Frames before what was made. */
const BEFORE = 12

/** What somebody wants to make: recipes, each as it would look with their own footage (left), and its controls (right). */
export function Make() {
  const { view, seek } = useOf('view', 'seek')
  const recipes = useRecipes()
  const there = (m: Made) => m.layers.some((id) => view!.layers[id]) || m.items.some((id) => ground.includes(id))
  const ground = view?.project.ground.map((g) => g.id) ?? []
  const made = view?.project.made.filter(there).at(-1)
  const [picked, setPicked] = useState<string | null>(null)
  const last = useRef(made?.id)
  useEffect(() => {
    if (made && made.id !== last.current) {
      // What was made is looked at from shortly before it begins.
      const starts = made.layers.map((layer) => view?.layers[layer]?.start).filter((at) => at != null)
      if (starts.length) seek(Math.max(0, Math.min(...starts) - BEFORE))
    }
    last.current = made?.id
  }, [made, view, seek])
  if (!view || view.length === 0)
    return (
      <Empty
        title="What do you want to make?"
        action={
          <Act main onClick={pickFiles}>
            Import a video
          </Act>
        }
      >
        Drop a clip anywhere, or choose one. Each of {recipes.length || 'our'} recipes shows then what it makes of it;
        the one you take is cut out, arranged, dressed and sounded for you, in layers that you can change.
      </Empty>
    )
  const own = recipes.filter((r) => r.file)
  const ours = recipes.filter((r) => !r.file)
  const chosen = recipes.find((r) => (picked ? r.id === picked : made && isOf(made, r)))
  return (
    <Flex h="100%" minH="0" data-testid="make">
      <Box flex="1" minW="0" px="4" pb="3" overflowY="auto">
        {own.length > 0 && <Heading>Your recipes</Heading>}
        <Tiles recipes={own} chosen={chosen} onPick={setPicked} />
        <Heading>What do you want to make?</Heading>
        <Tiles recipes={ours} chosen={chosen} onPick={setPicked} />
      </Box>
      <Box w="268px" flexShrink="0" borderLeft="1px solid {colors.rule}" px="4" pb="3" overflowY="auto">
        <Recipe key={chosen?.id ?? ''} chosen={chosen} made={made} />
      </Box>
    </Flex>
  )
}

function Tiles(p: { recipes: Offered[]; chosen: Offered | undefined; onPick: (id: string) => void }) {
  return (
    <SimpleGrid minChildWidth="118px" gap="2">
      {p.recipes.map((r) => (
        <Tile
          key={r.id}
          label={r.title}
          hint={r.missing ?? r.hint}
          chosen={r.id === p.chosen?.id}
          disabled={false}
          h="176px"
          picture={r.missing ? <Missing recipe={r} /> : <Loop recipe={r} />}
          onPick={() => p.onPick(r.id)}
          onRest={() => undefined}
          onLeave={() => undefined}
        />
      ))}
    </SimpleGrid>
  )
}

/** What stands in the way; over its picture, where it has one. */
function Missing({ recipe }: { recipe: Offered }) {
  return (
    <Flex h="100%" align="center" justify="center" position="relative">
      {recipe.file && (
        <img
          src={`/api/recipes/${recipe.file}.webp`}
          alt=""
          style={{ width: '100%', height: '100%', objectFit: 'cover', opacity: 0.2 }}
        />
      )}
      <Says>{recipe.missing!}</Says>
    </Flex>
  )
}
