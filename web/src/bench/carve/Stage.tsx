import { Box } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import type { Hold, Matte, ShotView } from '../../api/client'
import { useStudio } from '../../shell/store'

export type Look = 'scene' | 'veil' | 'checker' | 'matte'

/** How source pixels lie on the stage: stage = source · scale + (x, y). */
export interface Pan {
  scale: number
  x: number
  y: number
}

/** The held frame with its matte, as the server made both; drawn under a pan. */
export function Stage(p: { hold: Hold; shot: ShotView; draft: Matte | null; look: Look; pan: Pan; size: { w: number; h: number } }) {
  const { hold, shot, draft, look, pan, size } = p
  const canvas = useRef<HTMLCanvasElement>(null)
  const view = useStudio((s) => s.view)!
  const picture = usePicture(`/api/projects/${view.project.id}/shots/${shot.id}/frames/${hold.frame}.jpg`)
  const matte = useMatte(hold, shot, draft)
  const [shown, setShown] = useState<HTMLCanvasElement | null>(null)

  useEffect(() => {
    if (!picture) return
    setShown(mixed(picture, matte, look, Math.max(1, 1 / pan.scale)))
    // The hatching's width follows the zoom only roughly; it need not be mixed again for every step of it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [picture, matte, look, Math.round(Math.log2(pan.scale) * 2)])

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
    target.dataset.matte = matte ? 'yes' : 'no'
  }, [shown, pan, size, shot, matte])

  return (
    <Box position="absolute" inset="0">
      <canvas ref={canvas} width={size.w} height={size.h} style={{ width: size.w, height: size.h }} data-testid="stage" />
    </Box>
  )
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
function useMatte(hold: Hold, shot: ShotView, draft: Matte | null): ImageBitmap | null {
  const [matte, setMatte] = useState<ImageBitmap | null>(null)
  const live = useStudio((s) => s.live)
  const busy = useRef(false)
  const again = useRef(false)
  const latest = useRef({ hold, draft })
  latest.current = { hold, draft }
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
          const edit = now.draft ? { kind: 'change matte' as const, hold: now.hold.id, matte: now.draft } : undefined
          const answer = await live.matte(now.hold.id, Math.round(shot.width * fit), Math.round(shot.height * fit), edit)
          if (!answer.header.skipped && !answer.header.trouble) setMatte(await createImageBitmap(answer.blob))
        } while (again.current)
      } catch {
        // The stream was closed; the next change asks again.
      } finally {
        busy.current = false
      }
    }
    void ask()
  }, [live, hold, draft, shot])
  return matte
}

function layerLike(picture: ImageBitmap): [HTMLCanvasElement, CanvasRenderingContext2D] {
  const canvas = document.createElement('canvas')
  canvas.width = picture.width
  canvas.height = picture.height
  return [canvas, canvas.getContext('2d')!]
}

function mixed(picture: ImageBitmap, matte: ImageBitmap | null, look: Look, line: number): HTMLCanvasElement {
  const [out, context] = layerLike(picture)
  const { width, height } = picture
  if (look === 'matte') {
    context.fillStyle = '#000'
    context.fillRect(0, 0, width, height)
    if (matte) {
      const [white, w] = layerLike(picture)
      w.drawImage(matte, 0, 0, width, height)
      w.globalCompositeOperation = 'source-in'
      w.fillStyle = '#fff'
      w.fillRect(0, 0, width, height)
      context.drawImage(white, 0, 0)
    }
    return out
  }
  if (look === 'checker') {
    const square = 12 * line
    context.fillStyle = '#E8E6E1'
    context.fillRect(0, 0, width, height)
    context.fillStyle = '#C9C6BF'
    for (let y = 0, r = 0; y < height; y += square, r++)
      for (let x = r % 2 ? square : 0; x < width; x += square * 2) context.fillRect(x, y, square, square)
    if (matte) {
      const [cut, c] = layerLike(picture)
      c.drawImage(matte, 0, 0, width, height)
      c.globalCompositeOperation = 'source-in'
      c.drawImage(picture, 0, 0)
      context.drawImage(cut, 0, 0)
    }
    return out
  }
  context.drawImage(picture, 0, 0)
  if (look === 'veil') {
    const [veil, v] = layerLike(picture)
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
    if (matte) {
      v.globalCompositeOperation = 'destination-out'
      v.drawImage(matte, 0, 0, width, height)
    }
    context.drawImage(veil, 0, 0)
  }
  return out
}
