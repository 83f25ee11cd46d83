import { Flex } from '@chakra-ui/react'
import { type Edit, type Layer, newId } from '../../api/client'
import { Act } from '../../parts/buttons'
import { useTrial } from '../../parts/useTrial'
import { useOf } from '../../store'
import { can } from '../../parts/finishes'

type Way = Extract<Edit, { kind: 'put world' }>['way']

const WASHES: [Way, string, string][] = [
  ['blurred', 'Blur it', 'All that lies below it goes out of focus while it is there, and comes back'],
  ['darkened', 'Darken it', 'All that lies below it goes dark while it is there'],
  ['coloured', 'Colour it', 'All that lies below it in three colours, those of the palette'],
]
const HELD: [Way, string, string][] = [
  ['empty', 'Empty it', 'The held frame without its subject, from the plate, as a layer of its own'],
  ['cut out', 'Around it', 'The held frame with a hole where the subject is: its matte the other way round'],
  ['moved', 'Push apart', 'The empty world and the subject, slowly pushed against each other'],
]

/** What can be put behind a layer in one press; resting on one shows it in the picture. */
export function Worlds({ layer }: { layer: Layer }) {
  const { view, edit, chooseLayer } = useOf('view', 'edit', 'chooseLayer')
  const { rest, leave } = useTrial(layer.id)
  const put = (way: Way, made: string) => (): Edit => ({ kind: 'put world', layer: layer.id, way, strength: 0.6, made })
  const add = (make: (made: string) => () => Edit) => {
    leave()
    const made = newId()
    void edit(make(made)).then((done) => done && chooseLayer(made))
  }
  const ways = can(layer, 'cut') ? [...WASHES, ...HELD] : WASHES
  return (
    <Flex mt="2" gap="1.5" wrap="wrap">
      {ways.map(([way, title, hint]) => (
        <span key={way} onPointerMove={() => rest(put(way, newId()))} onPointerLeave={leave}>
          <Act hint={hint} onClick={() => add((made) => put(way, made))}>
            {title}
          </Act>
        </span>
      ))}
      <Act
        hint="A layer below this one whose finishes work on everything beneath it"
        onClick={() => {
          const { start, end } = view!.layers[layer.id]!
          add((made) => () => washBelow(made, layer, view!.project.layers, start ?? 0, end ?? 1))
        }}
      >
        Add a wash below it
      </Act>
    </Flex>
  )
}

/** Puts a wash right below a layer, for as long as that is there. */
function washBelow(wash: string, owner: Layer, layers: Layer[], start: number, end: number): Edit {
  const beside = layers.filter((l) => l.group === owner.group).map((l) => l.id)
  const edits = [
    {
      kind: 'add layer' as const,
      source: { kind: 'wash' } as Layer['source'],
      at: start,
      frames: end - start,
      layer: wash,
    },
    { kind: 'move layer' as const, layers: [wash], group: owner.group ?? null, to: beside.indexOf(owner.id) },
  ]
  return { kind: 'several', edits }
}
