import type { View } from '../../api/view'

/** What is to be sent, as it is chosen on the bench. */
export interface Sending {
  what: 'piece' | 'ground' | 'layers'
  over: 'nothing' | 'plate'
  kind: string
  settings: Record<string, unknown>
  /** "1080x1920"; null is the project's own. */
  size: string | null
  rate: string | null
  range: 'all' | 'loop' | 'seen'
}

export const START: Sending = {
  what: 'piece',
  over: 'nothing',
  kind: 'mp4',
  settings: {},
  size: null,
  rate: null,
  range: 'seen',
}

/** The frames that are sent, half-open: of layers those at which any of them is there, if that is asked for. */
export function span(
  wanted: Sending,
  view: View,
  layers: string[],
  playhead: number,
  single: boolean,
): [number, number] {
  const { loop } = view.project
  if (single) return [playhead, playhead + 1]
  if (wanted.range === 'loop' && loop) return [loop[0]!, loop[1]!]
  const spans = layers.map((id) => view.layers[id]).filter((l) => l?.start != null && l.end != null)
  if (wanted.range === 'seen' && wanted.what === 'layers' && spans.length) {
    const [first, past] = [Math.min(...spans.map((l) => l!.start!)), Math.max(...spans.map((l) => l!.end!))]
    return [Math.max(0, first), Math.min(view.length, past)]
  }
  return [0, view.length]
}

/** What the server is asked for. */
export function asked(wanted: Sending, layers: string[], frames: [number, number] | null) {
  const size = wanted.size?.split('x').map(Number) as [number, number] | undefined
  return {
    writer: { kind: wanted.kind, ...wanted.settings },
    sending: {
      what: wanted.what,
      layers: wanted.what === 'layers' ? layers : [],
      over: wanted.over,
      span: frames,
      size: size ?? null,
      rate: wanted.rate,
    },
  }
}
