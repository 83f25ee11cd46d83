import { Box, Flex } from '@chakra-ui/react'
import type { Matte, Piece } from '../../api/client'
import { NumberField } from '../../parts/fields'
import { changed } from './PieceRow'

interface Measure {
  label: string
  least?: number
  most: number
  unit?: string
  step?: number
  initial?: number
  /** So many times what is kept is what is shown. */
  by?: number
}

const OF_PIECE: Record<'opacity' | 'grow' | 'soften_in' | 'soften_out', Measure> = {
  opacity: { label: 'Opacity', most: 100, unit: '%', step: 1, initial: 100, by: 100 },
  grow: { label: 'Grow', least: -20, most: 20 },
  soften_in: { label: 'Soften in', most: 40 },
  soften_out: { label: 'Soften out', most: 40 },
}

const OF_WHOLE: Record<'grow' | 'soften_in' | 'soften_out' | 'smooth' | 'fine_edge' | 'fringe', Measure> = {
  grow: { label: 'Grow', least: -20, most: 20 },
  soften_in: { label: 'Soften in', most: 40 },
  soften_out: { label: 'Soften out', most: 40 },
  smooth: { label: 'Smooth', most: 20 },
  fine_edge: { label: 'Fine edge', most: 40, step: 1 },
  fringe: { label: 'Clean fringe', most: 100, unit: '%', step: 5, initial: 80, by: 100 },
}

interface Put {
  matte: Matte
  onShow: (matte: Matte) => void
  onCommit: (matte: Matte) => void
}

/** What happens to the edge of one piece. */
export function PieceEdge({ piece, matte, onShow, onCommit }: Put & { piece: Piece }) {
  const names = Object.keys(OF_PIECE) as (keyof typeof OF_PIECE)[]
  return (
    <Box mt="1">
      {names.map((name) => (
        <Edge
          key={name}
          of={piece.name}
          measure={OF_PIECE[name]}
          value={piece[name]}
          put={(value) => changed(matte, piece.id, { [name]: value })}
          onShow={onShow}
          onCommit={onCommit}
        />
      ))}
      <Check
        label="Invert"
        on={piece.invert}
        onChange={() => onCommit(changed(matte, piece.id, { invert: !piece.invert }))}
      />
    </Box>
  )
}

/** What happens to the edge of all pieces together. */
export function WholeEdge({ matte, onShow, onCommit }: Put) {
  const names = Object.keys(OF_WHOLE) as (keyof typeof OF_WHOLE)[]
  return (
    <>
      {names.map((name) => (
        <Edge
          key={name}
          measure={OF_WHOLE[name]}
          value={matte[name]}
          put={(value) => ({ ...matte, [name]: value })}
          onShow={onShow}
          onCommit={onCommit}
        />
      ))}
      <Check label="Invert" on={matte.invert} onChange={() => onCommit({ ...matte, invert: !matte.invert })} />
    </>
  )
}

function Edge(p: Omit<Put, 'matte'> & { of?: string; measure: Measure; value: number; put: (value: number) => Matte }) {
  const { label, least = 0, most, unit = 'px', step = 0.5, initial = 0, by = 1 } = p.measure
  return (
    <NumberField
      label={label}
      name={p.of && `${label} of ${p.of}`}
      unit={unit}
      slider
      step={step}
      min={least}
      max={most}
      initial={initial}
      value={p.value * by}
      onDraft={(v) => p.onShow(p.put(v / by))}
      onCommit={(v) => p.onCommit(p.put(v / by))}
    />
  )
}

function Check(p: { label: string; on: boolean; onChange: () => void }) {
  return (
    <Flex as="label" align="center" justify="space-between" minH="28px">
      {p.label}
      <input type="checkbox" checked={p.on} onChange={p.onChange} />
    </Flex>
  )
}
