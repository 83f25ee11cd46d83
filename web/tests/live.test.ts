import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Live } from '../src/api/live'

class FakeSocket {
  static readonly OPEN = 1
  static all: FakeSocket[] = []
  readyState = 0
  binaryType = ''
  sent: Record<string, unknown>[] = []
  onopen: () => void = () => undefined
  onmessage: (e: { data: unknown }) => void = () => undefined
  onclose: () => void = () => undefined

  constructor(readonly url: string) {
    FakeSocket.all.push(this)
  }
  send(text: string) {
    this.sent.push(JSON.parse(text))
  }
  close() {
    this.readyState = 3
    this.onclose()
  }
  open() {
    this.readyState = 1
    this.onopen()
  }
  reply(header: object, data: number[]) {
    const head = new TextEncoder().encode(JSON.stringify(header))
    const packed = new Uint8Array(4 + head.length + data.length)
    new DataView(packed.buffer).setUint32(0, head.length, true)
    packed.set(head, 4)
    packed.set(data, 4 + head.length)
    this.onmessage({ data: packed.buffer })
  }
}

beforeEach(() => {
  FakeSocket.all = []
  vi.stubGlobal('WebSocket', FakeSocket)
  vi.stubGlobal('location', { protocol: 'http:', host: '127.0.0.1:8457' })
  vi.useFakeTimers()
})
afterEach(() => {
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

function start() {
  const news = vi.fn()
  const link = vi.fn()
  const live = new Live('p1', news, link)
  return { live, news, link, socket: () => FakeSocket.all.at(-1)! }
}

describe('the preview stream', () => {
  it('goes to the page’s own host', () => {
    expect(start().socket().url).toBe('ws://127.0.0.1:8457/api/projects/p1/live')
  })

  it('brings each answer to its own request', async () => {
    const { live, socket } = start()
    socket().open()
    const one = live.frame(3, 10, 20, false)
    const two = live.matte('h', 7, 10, 20, false)
    const [a, b] = socket().sent
    expect(a).toMatchObject({ type: 'frame', frame: 3, width: 10, height: 20 })
    socket().reply({ type: 'matte', seq: b!.seq, hold: 'h' }, [9, 9])
    socket().reply({ type: 'frame', seq: a!.seq, frame: 3, key: 'k', layers: [] }, [1, 2, 3])
    expect((await one).header.key).toBe('k')
    expect(new Uint8Array(await (await one).blob.arrayBuffer())).toEqual(new Uint8Array([1, 2, 3]))
    expect((await one).blob.type).toBe('image/jpeg')
    expect((await two).blob.type).toBe('image/png')
    expect((await two).blob.size).toBe(2)
  })

  it('asks again for what was open when it broke, and says so', async () => {
    const { live, socket, link } = start()
    socket().open()
    const asked = live.frame(5, 10, 20, false)
    socket().close()
    expect(link).toHaveBeenLastCalledWith(false)
    vi.advanceTimersByTime(1000)
    expect(FakeSocket.all).toHaveLength(2)
    socket().open()
    expect(link).toHaveBeenLastCalledWith(true)
    expect(socket().sent).toHaveLength(1)
    socket().reply({ type: 'frame', seq: socket().sent[0]!.seq, frame: 5, key: 'k', layers: [] }, [])
    expect((await asked).header.frame).toBe(5)
  })

  it('passes news on', () => {
    const { socket, news } = start()
    socket().open()
    socket().onmessage({ data: '{"type":"changed","revision":7}' })
    expect(news).toHaveBeenCalledWith({ type: 'changed', revision: 7 })
  })

  it('ends for good when it is closed', async () => {
    const { live, socket } = start()
    socket().open()
    const asked = live.frame(1, 2, 2, false)
    live.close()
    await expect(asked).rejects.toThrow('closed')
    vi.advanceTimersByTime(5000)
    expect(FakeSocket.all).toHaveLength(1)
  })
})
