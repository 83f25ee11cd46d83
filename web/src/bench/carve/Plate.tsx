import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { ArrowDownToLine, Bandage, Frame, ImageUp, Layers, Trash2 } from 'lucide-react'
import { useState } from 'react'
import type { Hold, Layer, ShotView } from '../../api/client'
import { Act, Choice, Heading, Tool } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { withKey } from '../../parts/keys'
import { chooseFiles } from '../../parts/pickFiles'
import { shownAt, useCutout, useOf, useStudio } from '../../store'
import type { Mending } from './useMend'
import { cancelJob, Working } from '../../parts/Working'
import { bringPlate, makePlate } from './plates'

/** The scene behind the hold without its subject: where it comes from, how it is mended, what it is used for. */
export function Plate(p: { mending: Mending; onMend: () => void }) {
  const { hold, shot, layer } = useCutout()!
  const { edit } = useOf('edit')
  const running = useStudio((s) =>
    s.jobs.find((j) => j.kind === 'plate' && (j.state === 'running' || j.state === 'waiting')),
  )
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
        <Kept hold={hold} onMend={p.onMend} />
      ) : (
        <From hold={hold} shot={shot} />
      )}
      {hold.plate && p.mending.on && <With mending={p.mending} last={shot.frames - 1} />}
      {hold.plate && <Fills layer={layer} />}
    </Box>
  )
}

/** The plate, and what it is taken for. */
function Kept({ hold, onMend }: { hold: Hold; onMend: () => void }) {
  const { edit, view } = useOf('edit', 'view')
  return (
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
        <Act icon={Bandage} hint={withKey('Draw over what should not be there', 'mend')} onClick={onMend}>
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
          onClick={() => window.open(`/api/projects/${view!.project.id}/holds/${hold.id}/plate.png`)}
        >
          PNG
        </Act>
      </Flex>
    </Flex>
  )
}

/** Where a plate can come from. */
function From({ hold, shot }: { hold: Hold; shot: ShotView }) {
  const [asking, setAsking] = useState(false)
  const [empty, setEmpty] = useState(() => {
    const { view, playhead } = useStudio.getState()
    const shown = shownAt(view!, playhead)
    return shown?.shot === shot.id ? shown.frame : shot.frames - 1
  })
  const make = (frame: number | null) => {
    setAsking(false)
    void makePlate(hold.id, frame)
  }
  const bring = () => chooseFiles('image/*', ([file]) => void bringPlate(hold.id, file!))
  return (
    <>
      <Text color="soft" mb="1.5">
        The scene without the subject: to fill the hole behind it, and to compare with.
      </Text>
      <Flex gap="1.5" wrap="wrap">
        <Act icon={Layers} hint="From the frames around this one, without what moves" onClick={() => make(null)}>
          From the shot
        </Act>
        <Act icon={Frame} onClick={() => setAsking(!asking)}>
          Empty frame
        </Act>
        <Act icon={ImageUp} onClick={bring}>
          Picture
        </Act>
      </Flex>
      {asking && (
        <Box mt="1">
          <FrameField label="Empty frame" last={shot.frames - 1} value={empty} onChange={setEmpty} />
          <Act main onClick={() => make(empty)}>
            Take frame {empty}
          </Act>
        </Box>
      )}
    </>
  )
}

/** What a stroke that mends the plate puts in. */
function With({ mending, last }: { mending: Mending; last: number }) {
  return (
    <Box mt="2">
      <Choice
        label="What goes in"
        value={mending.source}
        onChange={mending.setSource}
        options={[
          { value: 'around', label: 'Surroundings', hint: 'Fill from what lies around the stroke' },
          { value: 'frame', label: 'Another frame', hint: 'Take what another frame of the shot shows there' },
        ]}
      />
      {mending.source === 'frame' && (
        <FrameField label="From frame" last={last} value={mending.frame} onChange={mending.setFrame} />
      )}
    </Box>
  )
}

function FrameField(p: { label: string; last: number; value: number; onChange: (frame: number) => void }) {
  return (
    <NumberField
      label={p.label}
      unit=""
      min={0}
      max={p.last}
      step={1}
      digits={0}
      value={p.value}
      onDraft={p.onChange}
      onCommit={p.onChange}
    />
  )
}

function Fills({ layer }: { layer: Layer }) {
  const { edit } = useOf('edit')
  const filled = 'fill' in layer.source && layer.source.fill
  const flip = () => {
    const source = { ...layer.source, fill: !filled } as Layer['source']
    void edit({ kind: 'change layer', layer: layer.id, source, clear: [] })
  }
  return (
    <Flex as="label" align="center" justify="space-between" minH="28px" mt="1">
      Fill the hole behind it
      <input type="checkbox" checked={filled} onChange={flip} />
    </Flex>
  )
}
