import { Box, Flex, Image, Popover, Portal, Text } from '@chakra-ui/react'
import { Brush, Film, Group, IdCard, PaintBucket, Plus, Shapes, Sparkles, Sun, Type } from 'lucide-react'
import { memo, type ReactNode, useState } from 'react'
import { type Asset, type Edit, newId } from '../api/client'
import { Act, Heading } from '../parts/buttons'
import { useShallow } from 'zustand/react/shallow'
import { chosenLayers, useOf, useStudio } from '../store'
import { pickFiles } from '../parts/pickFiles'
import type { Step } from '../store/types'
import { CardChoices } from './CardChoices'
import { offerBehind } from './behind'

type Source = Extract<Edit, { kind: 'add layer' }>['source']

/** Puts what was not caught into the sky at the playhead: a picture, a take, words, a colour; or makes a group. */
export const AddMenu = memo(function AddMenu() {
  const [open, setOpen] = useState(false)
  const [cards, setCards] = useState(false)
  return (
    <Popover.Root
      open={open}
      onOpenChange={(e) => {
        setOpen(e.open)
        setCards(false)
      }}
      positioning={{ placement: 'top-start' }}
      lazyMount
      unmountOnExit
    >
      <Popover.Trigger asChild>
        <Flex
          as="button"
          aria-label="Add to the sky"
          title="Add to the sky: pictures, takes, lettering, cards, shapes, backdrops, things in the air, groups"
          align="center"
          gap="1"
          h="26px"
          pl="1.5"
          pr="2"
          mr="1"
          borderRadius="soft"
          fontWeight="650"
          fontSize="13px"
          cursor="pointer"
          _hover={{ bg: 'paper' }}
        >
          <Plus size={15} />
          Add
        </Flex>
      </Popover.Trigger>
      <Portal>
        <Popover.Positioner>
          <Popover.Content
            w={cards ? '470px' : '300px'}
            bg="card"
            borderRadius="soft"
            border="1px solid {colors.rule}"
            boxShadow="md"
          >
            <Popover.Body px="3" pt="1" pb="3">
              {cards ? (
                <CardChoices done={() => setOpen(false)} back={() => setCards(false)} />
              ) : (
                <Choices done={() => setOpen(false)} cards={() => setCards(true)} />
              )}
            </Popover.Body>
          </Popover.Content>
        </Popover.Positioner>
      </Portal>
    </Popover.Root>
  )
})

function Choices({ done, cards }: { done: () => void; cards: () => void }) {
  const { view, edit, chooseLayer, go } = useOf('view', 'edit', 'chooseLayer', 'go')
  const project = view!.project.id
  const pictures = Object.values(view!.assets).filter((a) => a.kind === 'picture')
  const shots = Object.values(view!.shots)
  const chosen = useStudio(useShallow(chosenLayers))
  /** Puts a layer in. `behind`: it covers the whole canvas, and lies behind all that flies. */
  const put = async (
    source: Partial<Source>,
    { behind = false, then = 'fly' }: { behind?: boolean; then?: Step } = {},
  ) => {
    done()
    const layer = newId()
    const { layer: above, playhead } = useStudio.getState()
    // With something chosen that is there now it comes and goes along with that.
    const span = above ? view!.layers[above] : undefined
    const along = !behind && span?.start != null && span.end != null && span.start <= playhead && playhead < span.end
    const time = along ? { at: span.start!, frames: span.end! - span.start! } : { at: playhead }
    const add = { kind: 'add layer' as const, source: source as Source, ...time, above, layer }
    const lowest = { kind: 'move layer' as const, layers: [layer], group: null, to: 0 }
    if (!(await edit(behind ? { kind: 'several', edits: [{ ...add, above: null }, lowest] } : add))) return
    chooseLayer(layer)
    go(then)
    return layer
  }
  const picture = async ({ id, file, width, height }: Asset) => {
    const layer = await put({ kind: 'image', asset: id, file, width, height })
    if (layer) offerBehind(layer, useStudio.getState().playhead)
  }
  const group = async () => {
    done()
    const made = newId()
    if (await edit({ kind: 'make group', layers: chosen, group: made })) chooseLayer(made)
  }
  return (
    <>
      <Heading
        aside={
          <Act
            onClick={() => {
              done()
              pickFiles()
            }}
          >
            Import
          </Act>
        }
      >
        Pictures
      </Heading>
      {pictures.length === 0 && <Text color="soft">None on the shelf yet. Import one, or drop it anywhere.</Text>}
      <Flex gap="2" wrap="wrap" maxH="150px" overflowY="auto">
        {pictures.map((a) => (
          <Tile key={a.id} name={a.name} onClick={() => void picture(a)}>
            <Image src={`/api/projects/${project}/assets/${a.id}.png?side=96`} alt="" maxH="100%" maxW="100%" />
          </Tile>
        ))}
      </Flex>
      <Heading>Takes, in their own time</Heading>
      <Flex gap="2" wrap="wrap" maxH="150px" overflowY="auto">
        {shots.map((s) => (
          <Tile
            key={s.id}
            name={s.name}
            onClick={() => void put({ kind: 'take', shot: s.id, first: 0, past: s.frames })}
          >
            <Image
              src={`/api/projects/${project}/shots/${s.id}/frames/${Math.floor(s.frames / 2)}.jpg?width=80`}
              alt=""
              h="100%"
            />
            <Box position="absolute" left="2px" bottom="2px" color="#fff" filter="drop-shadow(0 0 2px #000)">
              <Film size={13} />
            </Box>
          </Tile>
        ))}
      </Flex>
      <Flex gap="2" mt="3" wrap="wrap">
        <Act
          icon={Type}
          hint="Words: a name, a line"
          onClick={() => void put({ kind: 'lettering', words: 'Name' }, { then: 'dress' })}
        >
          Lettering
        </Act>
        <Act icon={IdCard} hint="A name with a line below it, ready made" onClick={cards}>
          Card
        </Act>
        <Act
          icon={Shapes}
          hint="A box, a star, an arrow, a bubble"
          onClick={() => void put({ kind: 'box' }, { then: 'dress' })}
        >
          Shape
        </Act>
        <Act
          icon={Sun}
          hint="Rays, dots, a blot, torn paper"
          onClick={() => void put({ kind: 'rays' }, { behind: true, then: 'dress' })}
        >
          Backdrop
        </Act>
        <Act
          icon={Sparkles}
          hint="Confetti, embers, snow, rain"
          onClick={() => void put({ kind: 'confetti' }, { then: 'dress' })}
        >
          In the air
        </Act>
        <Act icon={PaintBucket} onClick={() => void put({ kind: 'colour', colour: '#1E2530' })}>
          Colour
        </Act>
        <Act
          icon={Brush}
          hint="Its finishes work on everything below it"
          onClick={() => void put({ kind: 'wash' }, { then: 'dress' })}
        >
          Wash
        </Act>
        <Act
          icon={Group}
          disabled={!chosen.length}
          hint={chosen.length ? 'A group of what is chosen in the sky' : 'Choose layers in the sky first'}
          onClick={() => void group()}
        >
          Group
        </Act>
      </Flex>
    </>
  )
}

function Tile(p: { name: string; onClick: () => void; children: ReactNode }) {
  return (
    <Flex
      as="button"
      aria-label={`Add ${p.name}`}
      title={p.name}
      position="relative"
      w="60px"
      h="60px"
      align="center"
      justify="center"
      overflow="hidden"
      bg="paper"
      border="1px solid {colors.rule}"
      borderRadius="soft"
      cursor="pointer"
      _hover={{ borderColor: 'selected' }}
      onClick={p.onClick}
    >
      {p.children}
    </Flex>
  )
}
