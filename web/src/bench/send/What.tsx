import { Box, Flex, Text } from '@chakra-ui/react'
import { Choice } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { Pick } from '../../parts/Pick'
import { useCatalog } from '../../parts/useCatalog'
import { chosenLayers, timecode, useOf } from '../../store'
import { asked, type Sending, span } from './sending'
import { megabytes, shortly, useForetold } from './useForetold'
import { rateWords } from '../../parts/words'

const SIZES: [string, string][] = [
  ['1080x1920', '1080 × 1920, tall post'],
  ['720x1280', '720 × 1280, tall post, small'],
  ['540x960', '540 × 960, to look at'],
  ['1080x1350', '1080 × 1350, upright post'],
  ['1080x1080', '1080 × 1080, square'],
  ['1920x1080', '1920 × 1080, lying'],
]
const RATES = ['24', '25', '30', '50', '60']

/** What is to be sent, and as which format. */
export function What(p: { wanted: Sending; onChange: (given: Partial<Sending>) => void }) {
  const { view, layer, moreLayers, settled } = useOf('view', 'layer', 'moreLayers', 'settled')
  const formats = useCatalog()?.formats ?? []
  const { project } = view!
  const { wanted } = p
  const format = formats.find((f) => f.kind === wanted.kind) ?? formats[0]
  const single = format?.on.includes('single')
  const layers = chosenLayers({ layer, moreLayers })
  const names = layers.map((id) => project.layers.find((l) => l.id === id)?.name ?? '').join(', ')
  const own = `${project.width}x${project.height}`
  const [first, past] = span(wanted, view!, layers, settled, single ?? false)
  const { told, trying } = useForetold(asked(wanted, layers, [first, past]))
  return (
    <>
      <Row name="What">
        <Choice
          label="What is sent"
          value={wanted.what}
          onChange={(what) => p.onChange({ what })}
          options={[
            { value: 'piece', label: 'Piece', hint: 'All that is seen and heard' },
            { value: 'ground', label: 'Ground', hint: 'The footage alone, dressed as it is' },
            { value: 'layers', label: 'Layers', hint: 'What is chosen in the sky, by itself' },
          ]}
        />
      </Row>
      {wanted.what === 'layers' && (
        <>
          <Text fontSize="12px" mb="1" color={names ? 'inherit' : 'danger'} lineClamp={2}>
            {names || 'Choose a layer or a group in the sky.'}
          </Text>
          <Row name="Over">
            <Choice
              label="Over what"
              value={wanted.over}
              onChange={(over) => p.onChange({ over })}
              options={[
                { value: 'nothing', label: 'Nothing', hint: 'With alpha, in formats that keep it' },
                {
                  value: 'plate',
                  label: 'Plate',
                  hint: 'Over the scene that the first of them was held in, if it is built',
                },
              ]}
            />
          </Row>
        </>
      )}
      <Row name="As">
        <Pick
          label="Format"
          value={format?.kind ?? ''}
          options={formats.map((f): [string, string] => [f.kind, f.title])}
          onPick={(kind) => p.onChange({ kind, settings: {} })}
        />
      </Row>
      <Text color="soft" fontSize="12px" mb="1">
        {format?.hint}.
        {wanted.what === 'layers' &&
          wanted.over === 'nothing' &&
          !format?.on.includes('clear') &&
          ' It keeps no alpha: what is clear is of the background’s colour.'}
      </Text>
      {format && (
        <Controls
          schema={format.settings}
          values={wanted.settings}
          onDraft={(name, value) => p.onChange({ settings: { ...wanted.settings, [name]: value } })}
          onCommit={(name, value) => p.onChange({ settings: { ...wanted.settings, [name]: value } })}
        />
      )}
      <Row name="Size">
        <Pick
          label="Size"
          value={wanted.size ?? ''}
          options={[['', `${project.width} × ${project.height}, as it is`], ...SIZES.filter(([s]) => s !== own)]}
          onPick={(size) => p.onChange({ size: size || null })}
        />
      </Row>
      {!single && (
        <Row name="Rate">
          <Pick
            label="Rate"
            value={wanted.rate ?? ''}
            options={[
              ['', `${rateWords(project.rate)}, as it is`],
              ...RATES.filter((r) => r !== project.rate).map((r): [string, string] => [r, `${r} frames/s`]),
            ]}
            onPick={(rate) => p.onChange({ rate: rate || null })}
          />
        </Row>
      )}
      {!single && (
        <Row name="Range">
          <Choice
            label="Range"
            value={
              wanted.range === 'loop' && !project.loop
                ? 'all'
                : wanted.what !== 'layers' && wanted.range === 'seen'
                  ? 'all'
                  : wanted.range
            }
            onChange={(range) => p.onChange({ range })}
            options={[
              ...(wanted.what === 'layers'
                ? [{ value: 'seen' as const, label: 'Its span', hint: 'While any of them is there' }]
                : []),
              { value: 'all', label: 'Whole piece' },
              ...(project.loop ? [{ value: 'loop' as const, label: 'Loop only' }] : []),
            ]}
          />
        </Row>
      )}
      <Text color="soft" fontSize="12px" mt="1" className="figures">
        {single
          ? `The frame at the playhead, ${timecode(first, project.rate)}`
          : `${past - first} frames, ${timecode(past - first, project.rate)}`}
      </Text>
      <Text color="soft" fontSize="12px" className="figures" data-testid="foretold">
        {told
          ? `About ${megabytes(told.size)}, in about ${shortly(told.seconds)}`
          : trying
            ? 'A few frames are tried …'
            : ' '}
      </Text>
    </>
  )
}

function Row(p: { name: string; children: React.ReactNode }) {
  return (
    <Flex align="center" minH="36px" gap="2">
      <Text w="48px" flexShrink="0">
        {p.name}
      </Text>
      <Box flex="1" minW="0" display="flex">
        {p.children}
      </Box>
    </Flex>
  )
}
