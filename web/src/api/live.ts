import type { Edit, Mark, Piece } from './client'
import type { components } from './schema'

type Schemas = components['schemas']
/** Where a layer is in a frame. */
export type PlacedLayer = Schemas['PlacedLayer']
export type FrameHeader = Schemas['FrameHeader']
export type MatteHeader = Schemas['MatteHeader']
type ClingHeader = Schemas['ClingHeader']
type News = Schemas['ChangedNews'] | Schemas['JobNews'] | Schemas['WatchedNews'] | Schemas['TroubleNews']
/** What is asked for; of what has a default, some may be left out. */
type Asked<T extends 'FrameRequest' | 'MatteRequest' | 'ClingRequest' | 'RoughMatteRequest'> = Omit<Schemas[T], 'seq'>

export interface Answer<H> {
  header: H
  blob: Blob
}

/** The preview stream of one project; it reconnects by itself. */
export class Live {
  private socket: WebSocket | null = null
  private seq = 0
  private open = new Map<number, { resolve: (a: Answer<never>) => void; reject: (e: Error) => void; text: string }>()
  private closed = false

  constructor(
    private readonly project: string,
    private readonly onNews: (news: News) => void,
    private readonly onLink: (up: boolean) => void,
  ) {
    this.connect()
  }

  /** A frame of the piece; `exact`: of the footage itself, as it is sent. */
  frame(frame: number, width: number, height: number, exact: boolean, draft?: Edit): Promise<Answer<FrameHeader>> {
    return this.ask<Asked<'FrameRequest'>, FrameHeader>({ type: 'frame', frame, width, height, exact, draft })
  }

  /** Says that somebody is at work: what can wait waits for a while. */
  atWork(): void {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify({ type: 'at work' }))
  }

  /** A hold's matte at a source frame; with `cut`, the cutout in the colours that it flies with. */
  matte(
    hold: string,
    frame: number,
    width: number,
    height: number,
    cut: boolean,
    draft?: Edit,
  ): Promise<Answer<MatteHeader>> {
    return this.ask<Asked<'MatteRequest'>, MatteHeader>({ type: 'matte', hold, frame, width, height, cut, draft })
  }

  /** About what a hold's matte will be once strokes are worked out, which add to a piece or make a new one. */
  rough(
    hold: string,
    frame: number,
    piece: string | null,
    combine: Piece['combine'],
    added: { side: 'keep' | 'drop'; mark: Mark }[],
  ): Promise<Answer<MatteHeader>> {
    return this.ask<Asked<'RoughMatteRequest'>, MatteHeader>({ type: 'rough', hold, frame, piece, combine, added })
  }

  /** A line along the edges of a source frame. */
  cling(shot: string, frame: number, start: [number, number], to: [number, number]): Promise<Answer<ClingHeader>> {
    return this.ask<Asked<'ClingRequest'>, ClingHeader>({ type: 'cling', shot, frame, start, to })
  }

  close(): void {
    this.closed = true
    this.socket?.close()
    for (const { reject } of this.open.values()) reject(new Error('closed'))
    this.open.clear()
  }

  private ask<R extends object, H>(request: R): Promise<Answer<H>> {
    const seq = ++this.seq
    const text = JSON.stringify({ ...request, seq })
    return new Promise((resolve, reject) => {
      this.open.set(seq, { resolve: resolve as (a: Answer<never>) => void, reject, text })
      if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(text)
    })
  }

  private connect(): void {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    const socket = new WebSocket(`${scheme}://${location.host}/api/projects/${this.project}/live`)
    socket.binaryType = 'arraybuffer'
    socket.onopen = () => {
      this.onLink(true)
      for (const { text } of this.open.values()) socket.send(text)
    }
    socket.onmessage = (e) => (typeof e.data === 'string' ? this.onNews(JSON.parse(e.data)) : this.receive(e.data))
    socket.onclose = () => {
      if (this.closed) return
      this.onLink(false)
      setTimeout(() => this.connect(), 800)
    }
    this.socket = socket
  }

  private receive(data: ArrayBuffer): void {
    const length = new DataView(data).getUint32(0, true)
    const header = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length)))
    const waiting = this.open.get(header.seq)
    this.open.delete(header.seq)
    const type = header.type === 'frame' ? 'image/jpeg' : 'image/png'
    waiting?.resolve({ header, blob: new Blob([new Uint8Array(data, 4 + length)], { type }) } as Answer<never>)
  }
}
