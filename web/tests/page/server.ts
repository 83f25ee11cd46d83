/** A server for the page alone: what the real one answered once, and edits as simple as they come. */

import type { components } from '../../src/api/schema'
import type { Matte } from '../../src/api/client'
import recorded from '../recorded/leaps.json'

type Told = components['schemas']['ProjectView']
type Edit = { kind: string; [name: string]: unknown }
type Answer = unknown
type Asked = (body: unknown, path: string) => Answer

const ANSWERS = recorded.answers as unknown as Record<string, Answer>
const PLACES = recorded.frames as unknown as Record<string, { frame: number; layers: unknown[]; source: unknown }>
const PROJECT = (ANSWERS['GET /api/projects'] as { id: string }[])[0]!.id

const copy = <T>(of: T): T => JSON.parse(JSON.stringify(of)) as T

export class Server {
  readonly project = PROJECT
  /** What the page has asked to be edited, the newest last. */
  edits: Edit[] = []
  /** All that was asked for and is not known. */
  unknown: string[] = []
  view = copy(ANSWERS[`GET /api/projects/${PROJECT}`]) as Told
  private own = new Map<string, Asked>()
  private before: Told[] = []

  /** Answers what is asked (“GET /api/hits”) in another way. */
  answers(what: string, how: Asked): void {
    this.own.set(what, how)
  }

  /** What the real server answered. */
  known(what: string): Answer {
    return copy(ANSWERS[what])
  }

  layer(name: string): Told['layers'][string] {
    return Object.values(this.view.layers).find((l) => l.name === name)!
  }

  ask(method: string, path: string, body: unknown): { status: number; body: Answer } {
    const [bare = path] = path.split('?')
    const own = this.own.get(`${method} ${path}`) ?? this.own.get(`${method} ${bare}`)
    if (own) {
      const body_ = own(body, path)
      return body_ instanceof Refusal ? { status: 400, body: { message: body_.message } } : { status: 200, body: body_ }
    }
    if (method === 'GET' && bare === `/api/projects/${PROJECT}`) return { status: 200, body: this.view }
    if (method === 'POST' && bare === `/api/projects/${PROJECT}/edits`) {
      const { edit } = body as { edit: Edit }
      this.edits.push(edit)
      this.before.push(copy(this.view))
      this.change(edit)
      return { status: 200, body: this.view }
    }
    if (method === 'POST' && bare === `/api/projects/${PROJECT}/undo`) {
      const { revision } = this.view
      this.view = { ...this.before.pop()!, revision: revision + 1 }
      return { status: 200, body: this.view }
    }
    if (method === 'GET' && bare.endsWith('/keys')) {
      const keys = Array.from({ length: this.view.length }, (_, n) => `${this.view.revision}-${n}`)
      return { status: 200, body: { revision: this.view.revision, first: 0, keys } }
    }
    const known = ANSWERS[`${method} ${path}`] ?? ANSWERS[`${method} ${bare}`]
    if (known !== undefined) return { status: 200, body: copy(known) }
    this.unknown.push(`${method} ${path}`)
    return { status: 404, body: { message: `${method} ${path} was not recorded.` } }
  }

  /** Edits that put values in the place of others; of all else a test says itself what becomes of the piece. */
  private change(edit: Edit): void {
    const next = copy(this.view)
    next.revision += 1
    const { kind, ...fields } = edit
    if (kind === 'several') for (const one of fields.edits as Edit[]) this.put(next, one)
    else this.put(next, edit)
    this.view = next
  }

  private put(view: Told, { kind, ...fields }: Edit): void {
    if (kind === 'change layer') {
      const layer = view.layers[fields.layer as string] as unknown as Record<string, unknown>
      for (const [name, value] of Object.entries(fields))
        if (name !== 'layer')
          layer[name] = name === 'pose' ? { ...(layer.pose as object), ...(value as object) } : value
    } else if (kind === 'set value' && !fields.key) {
      const owner = (view.layers[fields.layer as string] ?? view.ground[fields.item as string])!
      const value = fields.value as number[]
      const [id, setting] = (fields.channel as string).split('.')
      const worn = owner.finishes.find((f) => f.id === id)
      const on = (worn ? worn.settings : (owner as Told['layers'][string]).pose) as Record<string, unknown>
      on[setting ?? id!] = value.length === 1 ? value[0] : value
    } else if (kind === 'change matte') {
      view.holds[fields.hold as string]!.hold.matte = fields.matte as Matte
    } else if (kind === 'change ground') {
      Object.assign(view.ground[fields.item as string] as object, fields)
    } else if (kind === 'add layer') {
      const [like] = Object.values(view.layers)
      const [id, at] = [fields.layer as string, fields.at as number]
      view.layers[id] = { ...copy(like!), id, name: 'Added', source: fields.source as never, keys: [], finishes: [] }
      view.places![id] = { ...copy(view.places![like!.id]!), start: at, end: at + 30, keys: {}, hold: null, shares: [] }
      view.layer_order!.push(id)
    } else if (kind === 'change piece') Object.assign(view.project, fields)
  }
}

export class Refusal {
  constructor(readonly message: string) {}
}

let current: Server | null = null

/** Puts a new server in the place of the one before. */
export function serve(): Server {
  current = new Server()
  return current
}

// In their places before the page is loaded, which keeps what it finds.
const fetched = globalThis.fetch
globalThis.fetch = async (input: RequestInfo | URL, init?: RequestInit) => {
  const request = new Request(input instanceof Request ? input : new URL(String(input), location.href), init)
  const { pathname, search } = new URL(request.url)
  if (!current || !pathname.startsWith('/api/')) return fetched(input, init)
  const text = request.method === 'GET' ? '' : await request.text()
  const { status, body } = current.ask(request.method, pathname + search, text ? JSON.parse(text) : null)
  return new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
}

/** The preview stream: pictures of nothing, with the places of layers that were recorded nearest before. */
class Stream {
  static OPEN = 1
  readyState = 0
  binaryType = ''
  onopen: (() => void) | null = null
  onmessage: ((e: { data: unknown }) => void) | null = null
  onclose: (() => void) | null = null

  constructor() {
    setTimeout(() => {
      this.readyState = 1
      this.onopen?.()
    })
  }

  send(text: string): void {
    const asked = JSON.parse(text) as { type: string; seq: number; frame: number; width: number; height: number }
    // What somebody is told is not answered.
    if (asked.type !== 'at work') void this.answer(asked)
  }

  close(): void {
    this.onclose?.()
  }

  private async answer(asked: { type: string; seq: number; frame: number }): Promise<void> {
    const canvas = new OffscreenCanvas(9, 16)
    canvas.getContext('2d')!.fillRect(0, 0, 9, 16)
    const picture = await (await canvas.convertToBlob()).arrayBuffer()
    const near =
      Object.keys(PLACES)
        .map(Number)
        .filter((f) => f <= asked.frame)
        .pop() ?? 0
    const { revision } = current!.view
    const header =
      asked.type === 'frame'
        ? { ...PLACES[near], seq: asked.seq, frame: asked.frame, revision, key: `${revision}-${asked.frame}` }
        : { type: asked.type, seq: asked.seq, skipped: false, trouble: null, box: [0, 0, 720, 1280], size: [720, 1280] }
    const text = new TextEncoder().encode(JSON.stringify(header))
    const data = new Uint8Array(4 + text.length + picture.byteLength)
    new DataView(data.buffer).setUint32(0, text.length, true)
    data.set(text, 4)
    data.set(new Uint8Array(picture), 4 + text.length)
    this.onmessage?.({ data: data.buffer })
  }
}

const socket = globalThis.WebSocket
globalThis.WebSocket = function (url: string, protocols?: string) {
  return url.includes('/api/') ? new Stream() : new socket(url, protocols)
} as unknown as typeof WebSocket
Object.assign(globalThis.WebSocket, { OPEN: 1 })
