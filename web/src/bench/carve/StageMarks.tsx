import { Marks } from './Marks'
import { Paths } from './Paths'
import type { Pan } from './Stage'
import { MARKING, SHAPES } from './tools'
import type { Carving } from './useCarving'

/** What is drawn over the held frame: outlines of shapes, the one that is being drawn, marks. */
export function StageMarks({ carving, pan, until }: { carving: Carving; pan: Pan; until: number | null }) {
  const { tool, marks, mend, drawing, points } = carving
  const side = MARKING.has(tool) ? (tool as 'keep' | 'drop' | 'rubber') : null
  const of = (which: 'keep' | 'drop') => [
    ...(side ? (marks.marked?.[which] ?? []) : []),
    ...marks.waiting.filter((s) => s.side === which).map((s) => s.mark),
  ]
  return (
    <>
      <Paths
        pieces={carving.outlines}
        piece={carving.piece?.id ?? null}
        chosen={points.chosen}
        drawing={drawing.drawn.nodes}
        open={tool === 'pen'}
        line={drawing.drawn.line}
        ahead={drawing.drawn.ahead}
        anchors={drawing.drawn.anchors}
        cross={SHAPES.has(tool) ? drawing.cross : null}
        pan={pan}
        editing={tool === 'points'}
        until={until}
      />
      <Marks
        keep={of('keep')}
        drop={[...of('drop'), ...mend.strokes]}
        brush={marks.brush}
        side={side ?? (tool === 'mend' ? 'drop' : null)}
        pan={pan}
      />
    </>
  )
}
