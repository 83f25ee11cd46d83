import { Box, Flex, Text } from '@chakra-ui/react'
import type { GroundItem, Layer } from '../../api/client'
import { Act, Empty } from '../../parts/buttons'
import { Fold } from '../../parts/Fold'
import { useCatalog } from '../../parts/useCatalog'
import { useLayer, useOf } from '../../store'
import { Chosen } from '../../parts/Chosen'
import { Chain } from './Chain'
import { Colours } from './Colours'
import { can, lies, type Owner } from '../../parts/finishes'
import { Finishes } from './Finishes'
import { Sets } from './Sets'
import { Worlds } from './Worlds'

/** Beside a wide picture the bench is narrow: what is kept then lies below the chain. */
const NARROW = '@container (max-width: 880px)'

/** Where finishes are chosen (left), put in order and shaped (middle), and colours and sets kept (right). */
export function Dress() {
  const found = useLayer()
  const { view, item: itemId, chooseItem } = useOf('view', 'item', 'chooseItem')
  const item = view!.project.ground.find((g) => g.id === itemId)
  const owner: Owner | null = item ?? found?.layer ?? null
  const first = view!.project.ground[0]
  if (!owner)
    return (
      <Empty
        title="Dress it"
        action={
          first && (
            <Act main onClick={() => chooseItem(first.id)}>
              Dress the footage
            </Act>
          )
        }
      >
        Choose a cutout in the sky to make it stand out, or footage in the ground to hold it back.
      </Empty>
    )
  const frames = item ? (view!.itemKeys[item.id] ?? {}) : (found?.info.keys ?? {})
  return (
    <Flex h="100%" minH="0" css={{ containerType: 'inline-size' }}>
      <Box
        w="372px"
        flexShrink="0"
        borderRight="1px solid {colors.rule}"
        overflowY="auto"
        px="3"
        pb="3"
        pt="2"
        css={{ [NARROW]: { width: '262px' } }}
      >
        <Chosen owners={[owner]} />
        <Finishes key={owner.id} owner={owner} />
      </Box>
      <Flex flex="1" minW="0" css={{ [NARROW]: { display: 'block', overflowY: 'auto' } }}>
        <Box flex="1" minW="0" overflowY="auto" px="3" pb="3" css={{ '& > *': { maxWidth: '520px' } }}>
          <Chain key={owner.id} owner={owner} frames={frames} />
        </Box>
        <Box
          w="196px"
          flexShrink="0"
          borderLeft="1px solid {colors.rule}"
          overflowY="auto"
          px="3"
          pb="3"
          css={{ [NARROW]: { width: 'auto', borderLeft: 'none', borderTop: '1px solid {colors.rule}' } }}
        >
          <Fold name="palette" title="Palette">
            <Colours layer={lies(owner) || can(owner, 'washes') ? null : owner} />
          </Fold>
          <Fold name="world" title="The world behind">
            <World owner={owner} />
          </Fold>
          <Fold name="sets" title="Sets">
            <Sets owner={owner} />
          </Fold>
        </Box>
      </Flex>
    </Flex>
  )
}

/** What else is dressed: washes and the ground, to go to. */
function World({ owner }: { owner: Owner }) {
  const { view, settled, chooseItem, chooseLayer } = useOf('view', 'settled', 'chooseItem', 'chooseLayer')
  const finishes = useCatalog()?.finishes ?? []
  const there = (l: Layer) => {
    const { start, end } = view!.layers[l.id] ?? {}
    return l.id === owner.id || (start != null && end != null && start <= settled && settled < end)
  }
  const washes = view!.project.layers.filter((l) => can(l, 'washes') && there(l))
  const under = view!.items.find((i) => i.start <= settled && settled < i.start + i.length)
  const ground = view!.project.ground.find((g) => g.id === under?.id)
  const words = (o: Layer | GroundItem) =>
    o.finishes
      .filter((f) => f.visible)
      .map((f) => finishes.find((k) => k.kind === f.kind)?.title ?? f.kind)
      .join(', ') || 'as filmed'
  const card = (o: Layer | GroundItem, name: string, go: () => void) => (
    <Box
      as="button"
      key={o.id}
      display="block"
      w="100%"
      textAlign="left"
      border="1px solid"
      borderColor={o.id === owner.id ? 'selected' : 'rule'}
      borderRadius="soft"
      bg="paper"
      px="2"
      py="1"
      mt="1.5"
      cursor="pointer"
      onClick={go}
    >
      <Text fontWeight="600" truncate>
        {name}
      </Text>
      <Text color="soft" fontSize="11.5px" lineClamp={2}>
        {words(o)}
      </Text>
    </Box>
  )
  return (
    <>
      {[...washes].reverse().map((w) => card(w, w.name, () => chooseLayer(w.id)))}
      {ground && card(ground, under!.name, () => chooseItem(ground.id))}
      {!lies(owner) && !can(owner, 'washes') && <Worlds layer={owner} />}
    </>
  )
}
