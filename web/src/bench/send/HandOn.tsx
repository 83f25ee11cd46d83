import { Box, Flex, Text } from '@chakra-ui/react'
import { Download, FileInput, Flag, Images, Package } from 'lucide-react'
import { useState } from 'react'
import { answer, api, type Edit, Refused } from '../../api/client'
import { Act, Choice } from '../../parts/buttons'
import { Fold } from '../../parts/Fold'
import { download } from '../../parts/download'
import { chooseFiles } from '../../parts/pickFiles'
import { useOf } from '../../store'

/** The piece itself, to be opened elsewhere. */
export function HandOn() {
  const { view, takeJob, say, edit } = useOf('view', 'takeJob', 'say', 'edit')
  const [left, setLeft] = useState<string[] | null>(null)
  const [unused, setUnused] = useState(true)
  const bundle = async () => {
    try {
      const path = { project: view!.project.id }
      takeJob(await answer(api.POST('/api/projects/{project}/bundle', { params: { path }, body: { unused } })))
    } catch (error) {
      say(error instanceof Refused ? error.message : 'The bundle could not be written.', 'trouble')
    }
  }
  const stills = async (which: 'moments' | 'cutouts') => {
    try {
      const path = { project: view!.project.id }
      takeJob(await answer(api.POST('/api/projects/{project}/stills', { params: { path }, body: { which } })))
    } catch (error) {
      say(error instanceof Refused ? error.message : 'The stills could not be written.', 'trouble')
    }
  }
  const write = () => download(`/api/projects/${view!.project.id}/timeline.otio`)
  const withFootage = async () => {
    try {
      const path = { project: view!.project.id }
      takeJob(await answer(api.POST('/api/projects/{project}/timeline.otioz', { params: { path } })))
    } catch (error) {
      say(error instanceof Refused ? error.message : 'The timeline could not be written.', 'trouble')
    }
  }
  const read = () => chooseFiles('.otio,application/json', ([file]) => void take(file!))
  const take = async (file: File) => {
    try {
      const path = { project: view!.project.id }
      const body = { name: file.name, text: await file.text() }
      const told = await answer(api.POST('/api/projects/{project}/timeline', { params: { path }, body }))
      if (await edit({ kind: 'several', edits: told.edits } as unknown as Edit)) setLeft(told.left)
    } catch (error) {
      say(error instanceof Refused ? error.message : 'That file could not be read. Try it again.', 'trouble')
    }
  }
  return (
    <Fold name="hand on" title="To work on elsewhere">
      <Text color="soft" fontSize="12px" mb="1">
        A bundle is the piece with all that it needs in one file. It is opened from the list of projects.
      </Text>
      <Choice
        label="What goes along"
        value={unused ? 'all' : 'used'}
        onChange={(which) => setUnused(which === 'all')}
        options={[
          { value: 'all', label: 'All takes', hint: 'And all that is on the shelf' },
          { value: 'used', label: 'What is used', hint: 'Only what the piece needs' },
        ]}
      />
      <Flex mt="1">
        <Act icon={Package} onClick={() => void bundle()}>
          Make a bundle
        </Act>
      </Flex>
      <Text color="soft" fontSize="12px" mt="3" mb="1">
        Stills in the size of their footage, as PNG, named by their timecode: cutouts with alpha.
      </Text>
      <Flex gap="1.5" wrap="wrap">
        <Act icon={Images} onClick={() => void stills('cutouts')}>
          All cutouts
        </Act>
        <Act icon={Flag} onClick={() => void stills('moments')}>
          All moments
        </Act>
      </Flex>
      <Text color="soft" fontSize="12px" mt="3" mb="1">
        A timeline (OpenTimelineIO) goes to and comes from other editors: footage, cuts, stills, markers.
      </Text>
      <Flex gap="1.5" wrap="wrap">
        <Act icon={Download} onClick={write}>
          Write a timeline
        </Act>
        <Act
          icon={Package}
          hint="One .otioz file with the footage, each layer with its alpha, and the sounds"
          onClick={() => void withFootage()}
        >
          Collected
        </Act>
        <Act icon={FileInput} hint="Puts what it has at the end of the ground" onClick={read}>
          Read one
        </Act>
      </Flex>
      {left && (
        <Box mt="2" fontSize="12px" data-testid="left-out">
          {left.length ? 'Not taken over:' : 'All of it is taken over.'}
          {left.map((sentence) => (
            <Text key={sentence} color="soft">
              {sentence}
            </Text>
          ))}
        </Box>
      )}
    </Fold>
  )
}
