import { Box } from '@chakra-ui/react'
import { type RefObject, useState } from 'react'
import { ABOVE, LABEL, LANE } from '../ground/measures'
import { useDrag } from '../parts/useDrag'
import { useOf } from '../store'
import type { Row } from './rows'

/** From where to where: pixels right of the names, and lanes from the top one on. */
type Span = [number, number, number, number]

/** Layers are chosen by drawing a box around them. */
export function useBoxing(scroller: RefObject<HTMLDivElement | null>, rows: Row[], per: number) {
  const { view, chooseLayers } = useOf('view', 'chooseLayers')
  const [box, setBox] = useState<Span | null>(null)
  /** Where the pointer is: pixels right of the names, and lanes from the top one on. */
  const place = (e: React.MouseEvent): [number, number] => {
    const area = scroller.current!.getBoundingClientRect()
    const { scrollLeft, scrollTop } = scroller.current!
    return [e.clientX - area.left + scrollLeft - LABEL, (e.clientY - area.top + scrollTop - ABOVE) / LANE]
  }
  const within = ([x0, y0, x1, y1]: Span) => {
    const [left, right] = [Math.min(x0, x1) / per, Math.max(x0, x1) / per]
    const [top, bottom] = [Math.min(y0, y1), Math.max(y0, y1)]
    return rows
      .filter((_, n) => n + 1 > top && n < bottom)
      .filter(({ layer }) => {
        const info = view!.layers[layer.id]
        return info?.start != null && info.end != null && info.start < right && info.end > left
      })
      .map((r) => r.layer.id)
  }
  const boxing = useDrag({
    slack: 4,
    start: (e) => ((e.target as HTMLElement).closest('[data-layer]') ? null : place(e)),
    move: (_dx, _dy, from, e) => setBox([...from, ...place(e)]),
    end: (moved, from, e) => {
      setBox(null)
      chooseLayers(moved ? within([...from, ...place(e)]) : [])
    },
  })
  return { place, box, boxing }
}

/** The box that is being drawn. */
export function Boxed({ box: [x0, y0, x1, y1] }: { box: Span }) {
  return (
    <Box
      position="absolute"
      pointerEvents="none"
      border="1.5px dashed {colors.selected}"
      bg="selected/15"
      style={{
        left: LABEL + Math.min(x0, x1),
        width: Math.abs(x1 - x0),
        top: 4 + Math.min(y0, y1) * LANE,
        height: Math.abs(y1 - y0) * LANE,
      }}
    />
  )
}
