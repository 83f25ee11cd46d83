import { forwardRef, type SVGProps } from 'react'

/** A place on the canvas, in its pixels. */
export type Point = [number, number]

interface Props extends SVGProps<SVGSVGElement> {
  width: number
  height: number
  /** Lets the pointer through to what lies below, but for what says otherwise. */
  through?: boolean
}

/** What is drawn over the picture, in canvas pixels; it may go beyond the canvas. */
export const Overlay = forwardRef<SVGSVGElement, Props>(function Overlay({ width, height, through, ...rest }, ref) {
  return (
    <svg
      ref={ref}
      viewBox={`0 0 ${width} ${height}`}
      style={{
        position: 'absolute',
        inset: 0,
        width: '100%',
        height: '100%',
        overflow: 'visible',
        touchAction: 'none',
        pointerEvents: through ? 'none' : undefined,
      }}
      {...rest}
    />
  )
})

/** Where a pointer is on the canvas that an overlay lies over. */
export function onCanvas(e: { clientX: number; clientY: number }, overlay: SVGSVGElement): Point {
  const box = overlay.getBoundingClientRect()
  const { width, height } = overlay.viewBox.baseVal
  return [((e.clientX - box.left) / box.width) * width, ((e.clientY - box.top) / box.height) * height]
}
