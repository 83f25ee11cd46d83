import type { Answer, MatteHeader } from '../../api/live'

/** A matte as the server made it: alone, or with the subject's clean colours. */
export interface Mask {
  bitmap: ImageBitmap
  coloured: boolean
  /** Which part it is of a picture of a size: left, top, width, height. Beyond that there is nothing. */
  box: [number, number, number, number]
  size: [number, number]
}

/** The matte in an answer of the server. */
export const maskOf = async (answer: Answer<MatteHeader>, coloured: boolean): Promise<Mask> => ({
  bitmap: await createImageBitmap(answer.blob),
  coloured,
  box: answer.header.box,
  size: answer.header.size,
})

/** Draws a matte where it belongs in a picture of that width and height. */
export function lay(context: CanvasRenderingContext2D, mask: Mask, width: number, height: number) {
  const [left, top, wide, high] = mask.box
  const [across, down] = [width / mask.size[0], height / mask.size[1]]
  context.drawImage(mask.bitmap, left * across, top * down, wide * across, high * down)
}
