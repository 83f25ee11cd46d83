import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { ArrowDownToLine, Bandage, Frame, ImageUp, Layers, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { answer, api, type Layer, Refused } from '../../api/client'
import { Act, Choice, Heading, Tool } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { withKey } from '../../parts/keys'
import { shownAt, useCutout, useOf, useStudio } from '../../store'
import type { Mending } from './useMend'
import { cancelJob, Working } from '../../parts/Working'
import { finished } from '../../parts/finished'

/** The scene behind the hold without its subject: where it comes from, how it is mended, what it is used for. */
export function Plate(p: { mending: Mending; onMend: () => void }) {
  const { hold, shot, layer, view } = useCutout()!
  const { edit, say } = useOf('edit', 'say')
  const running = useStudio((s) =>
    s.jobs.find((j) => j.kind === 'plate' && (j.state === 'running' || j.state === 'waiting')),
  )
  const [asking, setAsking] = useState(false)
  const [empty, setEmpty] = useState(() => {
    const shown = shownAt(view, useStudio.getState().playhead)
    return shown?.shot === shot.id ? shown.frame : shot.frames - 1
  })
  const filled = 'fill' in layer.source && layer.source.fill
  const at = { params: { path: { project: view.project.id, hold: hold.id } } }
  const trouble = (error: unknown) =>
    say(error instanceof Refused ? error.message : 'That did not work. Try it again.', 'trouble')

  const make = async (source: 'shot' | 'frame') => {
    setAsking(false)
    try {
      const job = await answer(
        api.POST('/api/projects/{project}/holds/{hold}/plate', {
          ...at,
          body: { source, frame: source === 'frame' ? empty : null },
        }),
      )
      useStudio.getState().takeJob(job)
      const ended = await finished(job.id)
      const warnings = (ended.result as { warnings?: string[] } | null)?.warnings ?? []
      warnings.forEach((w) => say(w))
    } catch (error) {
      trouble(error)
    }
  }
  const bringIn = () => {
    const input = document.createElement('input')
    input.type = 'file'
    input.accept = 'image/*'
    input.onchange = async () => {
      const file = input.files?.[0]
      if (!file) return
      try {
        const response = await fetch(
          `/api/projects/${view.project.id}/holds/${hold.id}/plate/picture?name=${encodeURIComponent(file.name)}`,
          { method: 'POST', body: file },
        )
        const body = await response.json()
        if (!response.ok) throw new Refused(body.message)
        await edit({ kind: 'set plate', hold: hold.id, plate: body.plate })
      } catch (error) {
        trouble(error)
      }
    }
    input.click()
  }
  return (
    <Box data-testid="plate">
      <Heading
        aside={
          hold.plate && (
            <Tool
              icon={Trash2}
              size={24}
              label="Remove the plate"
              onClick={() => void edit({ kind: 'set plate', hold: hold.id, plate: null })}
            />
          )
        }
      >
        Clean plate
      </Heading>
      {running ? (
        <Working
          name={`${running.title}…`}
          share={running.progress}
          remaining={running.remaining}
          cancel="Cancel the plate"
          onCancel={() => void cancelJob(running.id)}
        />
      ) : hold.plate ? (
        <Flex gap="2">
          <Image
            src={`/api/rasters/${hold.plate}.png`}
            alt="The plate behind this hold"
            w="64px"
            h="90px"
            objectFit="contain"
            bg="surround"
            borderRadius="4px"
            flexShrink="0"
          />
          <Flex direction="column" gap="1.5" align="start">
            <Act icon={Bandage} hint={withKey('Draw over what should not be there', 'mend')} onClick={p.onMend}>
              Mend
            </Act>
            <Act
              icon={Layers}
              hint="Put the plate into the ground, at its end, for a second"
              onClick={() => void edit({ kind: 'add plate', hold: hold.id, frames: 30 })}
            >
              To the ground
            </Act>
            <Act
              icon={ArrowDownToLine}
              hint="Take the plate out as PNG"
              onClick={() => window.open(`/api/projects/${view.project.id}/holds/${hold.id}/plate.png`)}
            >
              PNG
            </Act>
          </Flex>
        </Flex>
      ) : (
        <>
          <Text color="soft" mb="1.5">
            The scene without the subject: to fill the hole behind it, and to compare with.
          </Text>
          <Flex gap="1.5" wrap="wrap">
            <Act
              icon={Layers}
              hint="From the frames around this one, without what moves"
              onClick={() => void make('shot')}
            >
              From the shot
            </Act>
            <Act icon={Frame} onClick={() => setAsking(!asking)}>
              Empty frame
            </Act>
            <Act icon={ImageUp} onClick={bringIn}>
              Picture
            </Act>
          </Flex>
        </>
      )}
      {asking && !hold.plate && (
        <Box mt="1">
          <NumberField
            label="Empty frame"
            unit=""
            min={0}
            max={shot.frames - 1}
            step={1}
            digits={0}
            value={empty}
            onDraft={setEmpty}
            onCommit={setEmpty}
          />
          <Act main onClick={() => void make('frame')}>
            Take frame {empty}
          </Act>
        </Box>
      )}
      {hold.plate && p.mending.on && (
        <Box mt="2">
          <Choice
            label="What goes in"
            value={p.mending.source}
            onChange={p.mending.setSource}
            options={[
              { value: 'around', label: 'Surroundings', hint: 'Fill from what lies around the stroke' },
              { value: 'frame', label: 'Another frame', hint: 'Take what another frame of the shot shows there' },
            ]}
          />
          {p.mending.source === 'frame' && (
            <NumberField
              label="From frame"
              unit=""
              min={0}
              max={shot.frames - 1}
              step={1}
              digits={0}
              value={p.mending.frame}
              onDraft={p.mending.setFrame}
              onCommit={p.mending.setFrame}
            />
          )}
        </Box>
      )}
      {hold.plate && (
        <Flex as="label" align="center" justify="space-between" minH="28px" mt="1">
          Fill the hole behind it
          <input
            type="checkbox"
            checked={filled}
            onChange={() =>
              void edit({
                kind: 'change layer',
                layer: layer.id,
                source: { ...layer.source, fill: !filled } as Layer['source'],
                clear: [],
              })
            }
          />
        </Flex>
      )}
    </Box>
  )
}
