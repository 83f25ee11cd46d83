import { Box } from '@chakra-ui/react'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import type { Hold, Matte, Raster, ShotView } from '../../api/client'
import { useStudio } from '../../store'
import { lay, type Mask, maskOf } from './mask'
import { usePointer } from './pointer'
import { forgetRough, useRough } from './rough'

export type Look = 'scene' | 'veil' | 'checker' | 'colour' | 'matte' | 'plate'

/** How source pixels lie on the stage: stage = source · scale + (x, y). */
export interface Pan {
  scale: number
  x: number
  y: number
}

interface Props {
  hold: Hold
  shot: ShotView
  /** The source frame that is carved: the held one, or one that the matte travels to. */
  frame: number
  draft: Matte | null
  look: Look
  backing: string
  pan: Pan
  size: { w: number; h: number }
  /** Neighbouring frames that shine through. */
  ghosts: number[]
  doubts: Raster[]
  loupe: boolean
  /** Left of this, in stage pixels, the frame is shown as filmed. */
  divider: number | null
  /** What is drawn over the frame, and under the loupe. */
  children: ReactNode
}

/** The frame with its matte, as the server made both; drawn under a pan. */
export function Stage(p: Props) {
  const { hold, shot, draft, look, pan, size } = p
  const canvas = useRef<HTMLCanvasElement>(null)
  const view = useStudio((s) => s.view)!
  const url = (frame: number) => `/api/projects/${view.project.id}/shots/${shot.id}/frames/${frame}.jpg`
  const picture = usePicture(look === 'plate' && hold.plate ? `/api/rasters/${hold.plate}.png` : url(p.frame))
  const cut = look === 'checker' || look === 'colour'
  const exact = useMatte(hold, shot, p.frame, draft, cut)
  const rough = useRough((s) => s.mask)
  const matte = rough ?? exact
  const ghosts = usePictures(p.ghosts.map(url))
  const filmed = usePictures(p.divider === null ? [] : [url(p.frame)])[0]
  const doubts = usePictures(
    look === 'veil' || look === 'scene' ? p.doubts.map((r) => `/api/rasters/${r.file}.png`) : [],
  )
  const [shown, setShown] = useState<HTMLCanvasElement | null>(null)

  useEffect(() => {
    if (!picture) return
    setShown(mixed(picture, matte, look, p.backing, Math.max(1, 1 / pan.scale), ghosts, doubts))
    // The hatching's width follows the zoom only roughly; it need not be mixed again for every step of it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [picture, matte, look, p.backing, ghosts, doubts, Math.round(Math.log2(pan.scale) * 2)])

  useEffect(() => {
    const target = canvas.current
    const context = target?.getContext('2d')
    if (!target || !context) return
    context.setTransform(1, 0, 0, 1, 0, 0)
    context.fillStyle = '#3C3D40'
    context.fillRect(0, 0, target.width, target.height)
    if (!shown) return
    context.imageSmoothingEnabled = pan.scale < 3
    context.imageSmoothingQuality = 'high'
    context.setTransform(pan.scale, 0, 0, pan.scale, pan.x, pan.y)
    context.drawImage(shown, 0, 0, shot.width, shot.height)
    if (p.divider !== null && filmed) {
      context.save()
      context.beginPath()
      context.rect(-pan.x / pan.scale, -pan.y / pan.scale, p.divider / pan.scale, size.h / pan.scale)
      context.clip()
      context.drawImage(filmed, 0, 0, shot.width, shot.height)
      context.restore()
    }
    target.dataset.matte = matte ? 'yes' : 'no'
    target.dataset.rough = rough ? 'yes' : 'no'
    target.dataset.frame = String(p.frame)
  }, [shown, pan, size, shot, matte, rough, p.frame, p.divider, filmed])

  return (
    <Box position="absolute" inset="0">
      <canvas
        ref={canvas}
        width={size.w}
        height={size.h}
        style={{ width: size.w, height: size.h }}
        data-testid="stage"
      />
      {p.children}
      {p.loupe && shown && <Loupe shown={shown} filmed={filmed} until={p.divider} shot={shot} pan={pan} size={size} />}
    </Box>
  )
}

const LOUPE = 152
const LARGER = 8
// Above and below it are the buttons.
const CLEAR = 44

interface LoupeProps {
  shown: HTMLCanvasElement
  /** The frame as filmed, seen left of `until`, in stage pixels. */
  filmed: ImageBitmap | undefined
  until: number | null
  shot: ShotView
  pan: Pan
  size: { w: number; h: number }
}

/** The pixels around the pointer, eight times as large, with their grid. */
function Loupe(p: LoupeProps) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const { shown, filmed, until, shot, pan, size } = p
  const at = usePointer((s) => s.at)
  useEffect(() => {
    const context = canvas.current?.getContext('2d')
    if (!context || !at) return
    const reach = LOUPE / LARGER
    context.imageSmoothingEnabled = false
    context.fillStyle = '#3C3D40'
    context.fillRect(0, 0, LOUPE, LOUPE)
    const [left, top] = [Math.floor(at.x - reach / 2), Math.floor(at.y - reach / 2)]
    const enlarge = (picture: HTMLCanvasElement | ImageBitmap, wide: number) => {
      const by = picture.width / shot.width
      context.drawImage(picture, left * by, top * by, wide * by, reach * by, 0, 0, wide * LARGER, LOUPE)
    }
    enlarge(shown, reach)
    const before = until === null ? 0 : Math.min(reach, Math.round((until - pan.x) / pan.scale) - left)
    if (filmed && before > 0) enlarge(filmed, before)
    context.strokeStyle = 'rgba(30,37,48,0.22)'
    context.beginPath()
    for (let k = 0; k <= LOUPE; k += LARGER) {
      context.moveTo(k + 0.5, 0)
      context.lineTo(k + 0.5, LOUPE)
      context.moveTo(0, k + 0.5)
      context.lineTo(LOUPE, k + 0.5)
    }
    context.stroke()
    const [mx, my] = [(at.x - left) * LARGER, (at.y - top) * LARGER]
    context.strokeStyle = '#D63F22'
    context.lineWidth = 1.5
    context.strokeRect(Math.floor(mx / LARGER) * LARGER, Math.floor(my / LARGER) * LARGER, LARGER, LARGER)
  }, [shown, filmed, until, shot, at, pan])
  if (!at) return null
  const [x, y] = [at.x * pan.scale + pan.x, at.y * pan.scale + pan.y]
  const left = x + LOUPE + 40 > size.w ? x - LOUPE - 26 : x + 26
  const top = Math.max(CLEAR, Math.min(size.h - LOUPE - CLEAR, y - LOUPE / 2))
  return (
    <canvas
      ref={canvas}
      width={LOUPE}
      height={LOUPE}
      data-testid="loupe"
      style={{ position: 'absolute', left, top, borderRadius: 8, border: '2px solid #FBF8F2', pointerEvents: 'none' }}
    />
  )
}

/** Pictures by their addresses, as soon as all of them are there. */
function usePictures(urls: string[]): ImageBitmap[] {
  const [pictures, setPictures] = useState<ImageBitmap[]>([])
  const key = urls.join('\n')
  useEffect(() => {
    let gone = false
    if (!key) {
      setPictures((before) => (before.length ? [] : before))
      return
    }
    const load = (url: string) =>
      fetch(url)
        .then((r) => (r.ok ? r.blob() : Promise.reject()))
        .then((b) => createImageBitmap(b))
    Promise.all(key.split('\n').map(load)).then(
      (all) => !gone && setPictures(all),
      () => !gone && setPictures([]),
    )
    return () => {
      gone = true
    }
  }, [key])
  return pictures
}

function usePicture(url: string): ImageBitmap | null {
  const [picture, setPicture] = useState<ImageBitmap | null>(null)
  useEffect(() => {
    let gone = false
    setPicture(null)
    fetch(url)
      .then((r) => r.blob())
      .then((b) => createImageBitmap(b))
      .then((b) => !gone && setPicture(b))
      .catch(() => useStudio.getState().say('The held frame cannot be shown: the server does not answer.', 'trouble'))
    return () => {
      gone = true
    }
  }, [url])
  return picture
}

/** The matte from the server, following the draft as fast as it answers. */
function useMatte(hold: Hold, shot: ShotView, frame: number, draft: Matte | null, cut: boolean): Mask | null {
  const [matte, setMatte] = useState<Mask | null>(null)
  const live = useStudio((s) => s.live)
  const busy = useRef(false)
  const again = useRef(false)
  const latest = useRef({ hold, draft, frame, cut })
  latest.current = { hold, draft, frame, cut }
  useEffect(() => {
    const ask = async () => {
      if (!live || busy.current) {
        again.current = true
        return
      }
      busy.current = true
      try {
        do {
          again.current = false
          const now = latest.current
          const fit = Math.min(1, 2160 / Math.max(shot.width, shot.height))
          const at = now.frame === now.hold.frame ? null : now.frame
          const edit = now.draft
            ? { kind: 'change matte' as const, hold: now.hold.id, matte: now.draft, frame: at }
            : undefined
          const [w, h] = [Math.round(shot.width * fit), Math.round(shot.height * fit)]
          const { settled } = useRough.getState()
          const answer = await live.matte(now.hold.id, now.frame, w, h, now.cut, edit)
          if (answer.header.skipped) continue
          if (!answer.header.trouble) setMatte(await maskOf(answer, now.cut))
          if (settled && useRough.getState().settled) forgetRough()
        } while (again.current)
      } catch {
        // The stream was closed; the next change asks again.
      } finally {
        busy.current = false
      }
    }
    void ask()
  }, [live, hold, draft, shot, frame, cut])
  return matte
}

function layerLike(picture: { width: number; height: number }): [HTMLCanvasElement, CanvasRenderingContext2D] {
  const canvas = document.createElement('canvas')
  canvas.width = picture.width
  canvas.height = picture.height
  return [canvas, canvas.getContext('2d')!]
}

function mixed(
  picture: ImageBitmap,
  mask: Mask | null,
  look: Look,
  backing: string,
  line: number,
  ghosts: ImageBitmap[],
  doubts: ImageBitmap[],
): HTMLCanvasElement {
  const [out, context] = layerLike(picture)
  const { width, height } = picture
  /** A mask's area in one colour. */
  const filled = (mask: Mask, colour: string): HTMLCanvasElement => {
    const [area, a] = layerLike(picture)
    lay(a, mask, width, height)
    a.globalCompositeOperation = 'source-in'
    a.fillStyle = colour
    a.fillRect(0, 0, width, height)
    return area
  }
  if (look === 'matte') {
    context.fillStyle = '#000'
    context.fillRect(0, 0, width, height)
    if (mask) context.drawImage(filled(mask, '#fff'), 0, 0)
    return out
  }
  if (look === 'checker' || look === 'colour') {
    context.fillStyle = look === 'colour' ? backing : '#E8E6E1'
    context.fillRect(0, 0, width, height)
    if (look === 'checker') {
      const square = 12 * line
      context.fillStyle = '#C9C6BF'
      for (let y = 0, r = 0; y < height; y += square, r++)
        for (let x = r % 2 ? square : 0; x < width; x += square * 2) context.fillRect(x, y, square, square)
    }
    if (mask?.coloured) lay(context, mask, width, height)
    else if (mask) context.drawImage(through(mask, picture), 0, 0)
    return out
  }
  context.drawImage(picture, 0, 0)
  ghosts.forEach((ghost) => {
    context.globalAlpha = 0.4
    context.drawImage(ghost, 0, 0, width, height)
    context.globalAlpha = 1
  })
  if (look === 'veil') {
    const [veil, v] = layerLike(picture)
    v.drawImage(hatching(width, height, line), 0, 0)
    if (mask) {
      v.globalCompositeOperation = 'destination-out'
      lay(v, mask, width, height)
    }
    context.drawImage(veil, 0, 0)
  }
  doubts.forEach((doubt) => context.drawImage(glow(doubt, picture, line), 0, 0))
  return out
}

let hatched: HTMLCanvasElement | null = null

/** The veil over what is cut away; it stays the same while the matte under it changes. */
function hatching(width: number, height: number, line: number): HTMLCanvasElement {
  const key = [width, height, line].join()
  if (hatched?.dataset.key === key) return hatched
  const [veil, v] = layerLike({ width, height })
  v.fillStyle = 'rgba(30,34,42,0.46)'
  v.fillRect(0, 0, width, height)
  v.strokeStyle = 'rgba(16,18,24,0.55)'
  v.lineWidth = 2.2 * line
  v.beginPath()
  for (let x = -height; x < width; x += 9 * line) {
    v.moveTo(x, height)
    v.lineTo(x + height, 0)
  }
  v.stroke()
  // A light line beside each dark one: dark footage is told from what is cut away just as well.
  v.strokeStyle = 'rgba(255,255,255,0.3)'
  v.lineWidth = line
  v.beginPath()
  for (let x = -height; x < width; x += 9 * line) {
    v.moveTo(x + 2.2 * line, height)
    v.lineTo(x + height + 2.2 * line, 0)
  }
  v.stroke()
  veil.dataset.key = key
  hatched = veil
  return veil
}

/** The frame's own colours within a mask, until the subject's clean ones are there. */
function through(mask: Mask, picture: ImageBitmap): HTMLCanvasElement {
  const [area, a] = layerLike(picture)
  lay(a, mask, picture.width, picture.height)
  a.globalCompositeOperation = 'source-in'
  a.drawImage(picture, 0, 0)
  return area
}

/** Where an edge is a guess, in the colour of what matters now. */
function glow(doubt: ImageBitmap, picture: ImageBitmap, line: number): HTMLCanvasElement {
  const [area, a] = layerLike(picture)
  a.filter = `blur(${1.5 * line}px)`
  a.drawImage(doubt, 0, 0, picture.width, picture.height)
  a.filter = 'none'
  const pixels = a.getImageData(0, 0, picture.width, picture.height)
  for (let i = 0; i < pixels.data.length; i += 4) {
    const value = pixels.data[i]!
    pixels.data[i] = 214
    pixels.data[i + 1] = 63
    pixels.data[i + 2] = 34
    pixels.data[i + 3] = Math.min(235, value * 1.3)
  }
  a.putImageData(pixels, 0, 0)
  return area
}
