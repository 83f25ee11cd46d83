import type { components } from './schema'

type Schemas = components['schemas']
/** What the server tells: all of a project, or (with `base`) what has changed since a revision. */
export type Told = Schemas['ProjectView']
export type GroundItem = Told['ground'][string]
export type Layer = Told['layers'][string]
export type Hold = Told['holds'][string]['hold']
export type StopView = Told['stops'][string]
export type ItemView = Told['items'][string] & { id: string }
export type StopState = StopView['state']

/** An open project: the document, and all that the server worked out about it. What did not change stays the same object. */
export interface View {
  revision: number
  undo: string | null
  redo: string | null
  length: number
  sound: string
  stale: [number, number][]
  project: Told['project'] & { ground: GroundItem[]; layers: Layer[] }
  shots: Told['shots']
  holds: Record<string, Hold>
  assets: Told['assets']
  /** How the cameras of shots went that were followed. */
  tracks: Told['tracks']
  /** For each hold the frames of its take, half-open: so far its matte can be carried. */
  takes: Record<string, [number, number]>
  /** For holds whose matte travels: what the matte at each frame is. */
  strips: Record<string, Record<number, StopState>>
  /** For holds whose matte travels, the frames that it travelled to. */
  stops: Record<string, Record<number, StopView>>
  items: ItemView[]
  layers: Told['places']
  itemKeys: Told['item_keys']
  /** Where each cue is heard. */
  cues: Told['cue_places']
  told: Parts & { ground_order: string[]; layer_order: string[] }
}

const PARTS = [
  'ground',
  'layers',
  'shots',
  'holds',
  'stops',
  'assets',
  'tracks',
  'items',
  'places',
  'item_keys',
] as const
type Parts = Pick<Told, (typeof PARTS)[number]>

/** The view after an answer, given the one before it. Null if it tells of changes to another one than that. */
export function merged(before: View | null, answer: Told): View | null {
  if (answer.base !== null && (before === null || answer.base !== before.revision)) return null
  const old = answer.base === null ? null : before!.told
  const told = { ...old } as View['told']
  for (const name of PARTS) {
    const news = answer[name] as Record<string, unknown>
    const gone = answer.gone[name] ?? []
    if (old && !gone.length && !Object.keys(news).length) continue
    const next: Record<string, unknown> = { ...(old?.[name] ?? {}), ...news }
    for (const id of gone) delete next[id]
    ;(told as unknown as Record<string, unknown>)[name] = next
  }
  told.ground_order = answer.ground_order ?? told.ground_order
  told.layer_order = answer.layer_order ?? told.layer_order
  const same = (...names: (keyof View['told'])[]) => old !== null && names.every((n) => old[n] === told[n])
  const kept = before?.project.id === answer.project.id ? before : null
  const travelling = same('stops', 'holds') && kept ? kept : travelled(told, kept)
  return {
    revision: answer.revision,
    undo: answer.undo,
    redo: answer.redo,
    length: answer.length,
    sound: answer.sound,
    stale: answer.stale as [number, number][],
    project: {
      ...answer.project,
      ground:
        same('ground', 'ground_order') && kept ? kept.project.ground : told.ground_order.map((id) => told.ground[id]!),
      layers:
        same('layers', 'layer_order') && kept ? kept.project.layers : told.layer_order.map((id) => told.layers[id]!),
    },
    shots: told.shots,
    assets: told.assets,
    tracks: told.tracks,
    holds:
      same('holds') && kept ? kept.holds : Object.fromEntries(Object.entries(told.holds).map(([k, h]) => [k, h.hold])),
    takes:
      same('holds') && kept
        ? kept.takes
        : Object.fromEntries(Object.entries(told.holds).map(([k, h]) => [k, h.take as [number, number]])),
    strips: travelling.strips,
    stops: travelling.stops,
    items:
      same('items', 'ground_order') && kept ? kept.items : told.ground_order.map((id) => ({ ...told.items[id]!, id })),
    layers: told.places,
    itemKeys: told.item_keys,
    cues: answer.cue_places,
    told,
  }
}

function travelled(told: View['told'], kept: View | null): Pick<View, 'strips' | 'stops'> {
  const stops: View['stops'] = {}
  const strips: View['strips'] = {}
  for (const [id, { hold }] of Object.entries(told.holds)) {
    if (!hold.travel) continue
    stops[id] = {}
    strips[id] = { [hold.frame]: 'fixed' }
  }
  for (const [name, stop] of Object.entries(told.stops)) {
    const hold = name.split(':')[0]!
    if (!stops[hold]) continue
    stops[hold][stop.frame] = stop
    strips[hold]![stop.frame] ??= stop.state
  }
  // A hold whose frames are the same ones as before keeps its objects.
  for (const id of Object.keys(stops)) {
    const was = kept?.stops[id]
    const now = stops[id]!
    const keys = Object.keys(now)
    if (was && keys.length === Object.keys(was).length && keys.every((k) => was[Number(k)] === now[Number(k)])) {
      stops[id] = was
      strips[id] = kept!.strips[id]!
    }
  }
  return { stops, strips }
}
