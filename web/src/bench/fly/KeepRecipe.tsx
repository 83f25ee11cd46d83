import { Flex, Input, Text } from '@chakra-ui/react'
import { BookmarkPlus } from 'lucide-react'
import { useState } from 'react'
import { answer, api, type Layer, Refused } from '../../api/client'
import { Act, Choice } from '../../parts/buttons'
import { Fold } from '../../parts/Fold'
import { useOf } from '../../store'

/** Keeps what is chosen as a recipe of one's own: under a name, with what it asks for when it is made of other frames. */
export function KeepRecipe({ layers }: { layers: Layer[] }) {
  const { view, say } = useOf('view', 'say')
  const first = layers[0]!
  const group = view!.project.layers.find((l) => l.id === first.group)
  const [name, setName] = useState(group?.name ?? first.name)
  const [words, setWords] = useState<'asked' | 'kept'>('asked')
  const [colours, setColours] = useState<'kept' | 'clothes'>('kept')
  const keep = async () => {
    const path = { project: view!.project.id }
    const body = {
      name: name.trim() || first.name,
      layers: layers.map((l) => l.id),
      asks: words === 'asked',
      clothes: colours === 'clothes',
    }
    try {
      const kept = await answer(api.POST('/api/projects/{project}/recipes/saved', { params: { path }, body }))
      say(`${kept.name} is on the shelf. Make shows it with any footage.`)
    } catch (error) {
      say(error instanceof Refused ? error.message : 'That could not be kept. Try it again.', 'trouble')
    }
  }
  return (
    <Fold name="recipe" title="Keep as a recipe">
      <Text color="soft" fontSize="12px">
        With moves, finishes, standstills and sounds, to be made of other frames.
      </Text>
      <Flex align="center" gap="2" minH="34px">
        <Text w="52px">Name</Text>
        <Input
          aria-label="Name of the recipe"
          size="2xs"
          h="26px"
          px="1.5"
          bg="raised"
          borderRadius="soft"
          maxLength={80}
          value={name}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </Flex>
      <Choice
        label="Its words"
        value={words}
        onChange={setWords}
        options={[
          { value: 'asked', label: 'Ask for words', hint: 'Its words are asked for when it is made' },
          { value: 'kept', label: 'Keep words', hint: 'Its words stay as they are' },
        ]}
      />
      <Choice
        label="Its colours"
        value={colours}
        onChange={setColours}
        options={[
          { value: 'kept', label: 'Palette', hint: 'In the palette of the project that it is made in' },
          { value: 'clothes', label: 'Clothes', hint: 'In the colours of what the subject wears' },
        ]}
      />
      <Flex mt="2">
        <Act icon={BookmarkPlus} onClick={() => void keep()}>
          Keep it
        </Act>
      </Flex>
    </Fold>
  )
}
