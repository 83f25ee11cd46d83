import { useEffect, useRef } from 'react'
import type { Edit, Layer } from '../api/client'
import type { FrameHeader } from '../api/live'
import { can, newest } from '../parts/finishes'
import { useOf } from '../store'
import { roleColour } from '../theme/system'

type Lettering = Extract<Layer['source'], { kind: 'lettering' }>

/**
 * Words typed where they are seen, after two presses on them: what is typed shows in the picture at once. Leaving them,
 * or Enter with Ctrl, keeps it; Escape leaves them as they were.
 */
export function Typing(p: { header: FrameHeader | null; scale: number }) {
  const {
    view,
    typing,
    setTyping,
    edit,
    setDraft,
    playing,
    layer: chosen,
  } = useOf('view', 'typing', 'setTyping', 'edit', 'setDraft', 'playing', 'layer')
  const field = useRef<HTMLTextAreaElement>(null)
  const left = useRef(false)
  const layer = view?.project.layers.find((l) => l.id === typing)
  const outline = p.header?.layers.find((o) => o.id === typing)
  const on = !!layer && can(layer, 'worded') && !layer.locked && !playing && chosen === typing
  // What is typed can make its box any size; the field stays where it was opened.
  const box = useRef<{ left: number; top: number; width: number; height: number } | null>(null)
  if (!on) box.current = null
  else if (!box.current && outline) {
    const xs = outline.corners.map((c) => c[0] * p.scale)
    const ys = outline.corners.map((c) => c[1] * p.scale)
    const [x, y] = [Math.min(...xs), Math.min(...ys)]
    box.current = { left: x, top: y, width: Math.max(...xs) - x, height: Math.max(...ys) - y }
  }
  const open = on && !!box.current
  useEffect(() => {
    if (!open) return
    left.current = false
    field.current?.focus()
    field.current?.select()
  }, [open, typing])
  if (!open || !box.current) return null
  const words = (layer.source as Lettering).words ?? ''
  const typed = (text: string): Edit => ({
    kind: 'change layer',
    layer: layer.id,
    clear: [],
    source: { ...newest(layer).source, words: text } as Layer['source'],
  })
  const leave = (keep: boolean) => {
    if (left.current) return
    left.current = true
    const text = field.current?.value ?? words
    setTyping(null)
    if (keep && text !== words) void edit(() => typed(text))
    else setDraft(null)
  }
  const lines = Math.max(1, words.split('\n').length)
  return (
    <textarea
      ref={field}
      aria-label={`Words of ${layer.name} in the picture`}
      defaultValue={words}
      maxLength={600}
      spellCheck={false}
      onChange={(e) => setDraft(typed(e.target.value))}
      onBlur={() => leave(true)}
      onPointerDown={(e) => e.stopPropagation()}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Escape') leave(false)
        if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) leave(true)
      }}
      style={{
        position: 'absolute',
        ...box.current,
        margin: 0,
        padding: 0,
        border: `2px dashed ${roleColour('selected')}`,
        borderRadius: 4,
        background: 'transparent',
        color: 'transparent',
        caretColor: roleColour('selected'),
        fontSize: Math.max(10, (0.72 * box.current.height) / lines),
        lineHeight: `${box.current.height / lines}px`,
        textAlign: 'center',
        resize: 'none',
        overflow: 'hidden',
        outline: 'none',
      }}
    />
  )
}
