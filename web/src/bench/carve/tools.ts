import {
  Bandage,
  BoxSelect,
  Brush,
  CircleDashed,
  Eraser,
  Hand,
  Lasso,
  type LucideIcon,
  Magnet,
  Minus,
  MousePointer2,
  PenTool,
} from 'lucide-react'

export type ToolName =
  'points' | 'pen' | 'oval' | 'box' | 'lasso' | 'cling' | 'keep' | 'drop' | 'rubber' | 'mend' | 'pan'

interface ToolEntry {
  name: ToolName
  icon: LucideIcon
  label: string
  hint: string
}

/** The hand tools in the order of the rail; each group is set off by a rule. */
export const TOOLS: ToolEntry[][] = [
  [
    {
      name: 'points',
      icon: MousePointer2,
      label: 'Points',
      hint: 'Points: drag points, tangents, edges, whole shapes; double-click puts a point in',
    },
    { name: 'pen', icon: PenTool, label: 'Pen', hint: 'Pen: click for a corner, drag for a curve' },
    {
      name: 'oval',
      icon: CircleDashed,
      label: 'Oval',
      hint: 'Oval: drag from side to side; Shift for a circle, Alt from the middle',
    },
    {
      name: 'box',
      icon: BoxSelect,
      label: 'Box',
      hint: 'Box: drag from corner to corner; Shift for a square, Alt from the middle',
    },
    { name: 'lasso', icon: Lasso, label: 'Lasso', hint: 'Lasso: draw around by hand' },
    {
      name: 'cling',
      icon: Magnet,
      label: 'Cling line',
      hint: 'Cling line: click along the edge, the line hugs it; Shift for a straight piece, drag for a free one',
    },
  ],
  [
    { name: 'keep', icon: Brush, label: 'Keep marks', hint: 'Keep: draw roughly over what belongs to the subject' },
    { name: 'drop', icon: Minus, label: 'Drop marks', hint: 'Drop: draw roughly over what does not' },
    {
      name: 'rubber',
      icon: Eraser,
      label: 'Rub out marks',
      hint: 'Rub out: click or drag across marks to take them away',
    },
  ],
]

export const PAN: ToolEntry = { name: 'pan', icon: Hand, label: 'Pan', hint: 'Pan; or hold Space' }

const MEND: ToolEntry = {
  name: 'mend',
  icon: Bandage,
  label: 'Mend the plate',
  hint: 'Mend the plate: draw over what should not be there',
}

export const SHAPES: ReadonlySet<ToolName> = new Set(['pen', 'oval', 'box', 'lasso', 'cling'])
export const MARKING: ReadonlySet<ToolName> = new Set(['keep', 'drop', 'rubber'])

const ALL = [...TOOLS.flat(), MEND, PAN]

/** The tool that a key takes up, if it is one's. */
export const toolOf = (does: string): ToolName | undefined => ALL.find((t) => t.name === does)?.name

/** What the tool in hand wants next, in a sentence. */
export function advice(tool: ToolName, points: number, shape: boolean, chosen: number, marked: boolean): string {
  switch (tool) {
    case 'pan':
      return 'Drag to pan.'
    case 'mend':
      return 'Draw over what should not be in the plate.'
    case 'pen':
    case 'cling':
      if (!points)
        return tool === 'pen'
          ? 'Click around the subject; press and drag for a curve.'
          : 'Click on the subject’s edge, then on along it.'
      return points < 3
        ? 'Go on around the subject. Backspace takes a point back.'
        : 'Click the first point, or press Enter, to close.'
    case 'oval':
    case 'box':
      return 'Drag over the picture. Shift keeps the sides alike.'
    case 'lasso':
      return 'Draw around the subject in one go.'
    case 'keep':
      return marked ? 'Draw over what is missing.' : 'Draw a rough line over the subject, a drop mark beside it.'
    case 'drop':
      return 'Draw over what does not belong to the subject. [ and ] change the brush.'
    case 'rubber':
      return 'Click a mark to take it away.'
    default:
      if (chosen) return 'Alt+drag a tangent to free it. Delete removes the points.'
      return shape
        ? 'Drag points or edges. Double-click an edge for a new point.'
        : 'Mark the subject, pick it, or draw around it.'
  }
}
