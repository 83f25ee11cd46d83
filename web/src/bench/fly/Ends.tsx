import { Flex } from '@chakra-ui/react'
import type { Edit, Layer, LayerView } from '../../api/client'
import { Act } from '../../parts/buttons'
import { NumberField } from '../../parts/fields'
import { useOf } from '../../store'

/** The free ends of a layer's span, in numbers; and all the piece at once. */
export function Ends({ layer, info }: { layer: Layer; info: LayerView }) {
  const { view, edit, setDraft } = useOf('view', 'edit', 'setDraft')
  if (info.start == null || info.end == null || !info.free.length) return null
  const loose = info.free.length > 1
  const { start, end } = info
  const length = view!.length
  const change = (field: object): Edit => ({ kind: 'change layer', layer: layer.id, clear: [], ...field })
  const first = (frame: number) => change(loose ? { since: frame } : { until: frame })
  const last = (frame: number) => change({ until: frame + 1 })
  return (
    <>
      {info.free.includes('start') && (
        <NumberField
          label="First frame"
          value={start}
          initial={0}
          min={0}
          max={end - 1}
          disabled={layer.locked}
          onDraft={(f) => setDraft(first(f))}
          onCommit={(f) => void edit(first(f))}
        />
      )}
      {info.free.includes('end') && (
        <NumberField
          label="Last frame"
          value={end - 1}
          initial={length - 1}
          min={loose ? start : (info.landing ?? start)}
          max={length - 1}
          disabled={layer.locked}
          onDraft={(f) => setDraft(last(f))}
          onCommit={(f) => void edit(last(f))}
        />
      )}
      <Flex mt="1">
        <Act
          disabled={layer.locked || (start === 0 && end === length)}
          hint={info.gathers ? 'As long as what is in it' : 'There from the first frame of the piece to its last'}
          onClick={() => void edit(change({ arrangement: { kind: 'free' }, clear: ['until'] }))}
        >
          {info.gathers ? 'As its layers' : 'All of the piece'}
        </Act>
      </Flex>
    </>
  )
}
