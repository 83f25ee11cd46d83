import createClient from 'openapi-fetch'
import type { components, paths } from './schema'
import type { Hold, Layer, Told } from './view'

type Schemas = components['schemas']
export type { GroundItem, Hold, ItemView, Layer, StopState, View } from './view'
export type Key = Layer['keys'][number]
export type Easing = Key['easing']
export type Finish = Layer['finishes'][number]
export type Matte = Hold['matte']
export type Piece = Matte['pieces'][number]
export type Shape = Extract<Piece, { nodes: unknown }>
export type Found = Extract<Piece, { raster: unknown }>
export type Raster = Found['raster']
export type Mark = Found['keep'][number]
export type Node = Shape['nodes'][number]
export type Carved = Schemas['CarvedView']
export type Watched = Schemas['WatchedView']
export type SavedMatte = Schemas['SavedMatte']
export type ShotView = Told['shots'][string]
export type Asset = Told['assets'][string]
export type LayerView = Told['places'][string]
export type Job = Schemas['JobView']
export type Entry = Schemas['Entry']
export type Room = Schemas['Room']
export type Catalog = Schemas['Catalog']
export type KindView = Schemas['KindView']
export type MotionView = Schemas['MotionView']
export type ReadyRecipe = Schemas['ReadyView']
export type Made = Told['project']['made'][number]
export type OwnerMotion = Schemas['OwnerMotion']
export type Edit = Schemas['EditRequest']['edit']

export const api = createClient<paths>({ baseUrl: '' })

/** A refused request: the server's sentence, the newer revision if the edit was made on an old one, and whether taking
 * steps back would help. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly revision?: number | null,
    readonly rescue = false,
  ) {
    super(message)
  }
}

/** The answer's data, or a Refused with a sentence. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  let result
  try {
    result = await call
  } catch {
    throw new Refused('The server does not answer. Is it still running? Start it again, then reload this page.')
  }
  if (result.data !== undefined) return result.data
  const error = result.error as { message?: string; revision?: number | null; rescue?: boolean } | undefined
  if (error === undefined) return undefined as T
  throw new Refused(error.message ?? 'The server could not do that.', error.revision, error.rescue)
}

/** A fresh id, as the server makes them. */
export function newId(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(8)), (b) => b.toString(16).padStart(2, '0')).join('')
}

/** Sends a file, telling how much of it has gone; the answer is the job that imports it. */
export function sendFile(
  project: string,
  file: File,
  progress: (share: number) => void,
  stop: AbortSignal,
): Promise<Job> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', `/api/projects/${project}/shots?name=${encodeURIComponent(file.name)}`)
    request.upload.onprogress = (e) => e.lengthComputable && progress(e.loaded / e.total)
    request.onload = () => {
      const body = JSON.parse(request.responseText || '{}')
      if (request.status < 300) resolve(body as Job)
      else reject(new Refused(body.message ?? `${file.name} could not be sent.`))
    }
    request.onerror = () => reject(new Refused(`${file.name} could not be sent: the server does not answer.`))
    request.onabort = () => reject(new Refused(`${file.name}: cancelled.`))
    stop.addEventListener('abort', () => request.abort())
    request.send(file)
  })
}

/** Opens a bundle or a timeline as a project of its own; resolves to its id, and sentences on what was left out. */
export async function openHanded(file: File): Promise<Schemas['OpenedView']> {
  const response = await fetch(`/api/bundles?name=${encodeURIComponent(file.name)}`, { method: 'POST', body: file })
  const told = (await response.json().catch(() => ({}))) as Partial<Schemas['OpenedView']> & { message?: string }
  if (!response.ok || !told.project) throw new Refused(told.message ?? `${file.name} could not be opened.`)
  return { project: told.project, left: told.left ?? [] }
}
