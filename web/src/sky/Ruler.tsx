import { Box } from '@chakra-ui/react'
import { memo, useEffect, useLayoutEffect, useRef, useState } from 'react'
import { useDrag } from '../parts/useDrag'
import { rateOf, timecode, useStudio, useWritten } from '../store'
import { roleColour } from '../theme/system'
import { LABEL, RULER } from '../ground/measures'

function PlayheadMark({ per }: { per: number }) {
  const mark = useRef<SVGSVGElement>(null)
  useWritten(
    (s) => LABEL + (s.playhead + 0.5) * per,
    (x) => (mark.current!.style.transform = `translateX(${x}px)`),
  )
  return (
    <svg
      ref={mark}
      width="13"
      height="11"
      style={{ position: 'absolute', left: -6.5, top: RULER - 13 }}
      aria-hidden="true"
      data-testid="playhead"
    >
      <path d="M6.5 11L0 0h13z" fill={roleColour('now')} />
    </svg>
  )
}

/** The times: press or drag to go there; shift and drag sets the loop; below, which frames are ready. */
export const Ruler = memo(function Ruler({ per }: { per: number }) {
  const view = useStudio((s) => s.view)!
  const seek = useStudio((s) => s.seek)
  const edit = useStudio((s) => s.edit)
  const { rate, loop } = view.project
  const [mark, setMark] = useState<[number, number] | null>(null)
  const box = useRef<HTMLDivElement>(null)
  const second = Math.round(rateOf(rate))
  const steps = [1, 2, 5, 10, 15, second, second * 2, second * 5, second * 10, second * 30, second * 60, second * 300]
  const step = steps.find((s) => s * per >= 76) ?? second * 600
  const ticks = Array.from({ length: Math.ceil(view.length / step) }, (_, i) => i * step)
  const at = (e: React.PointerEvent) => {
    const x = e.clientX - box.current!.getBoundingClientRect().left - LABEL
    return Math.max(0, Math.min(view.length - 1, Math.floor(x / per)))
  }
  const shown = mark ?? loop
  const drag = useDrag({
    start: (e) => {
      if (!e.shiftKey) seek(at(e))
      return { loop: e.shiftKey, from: at(e) }
    },
    move: (_dx, _dy, { loop, from }, e) => {
      const to = at(e)
      if (loop) setMark([Math.min(from, to), Math.max(from, to) + 1])
      else seek(to)
    },
    end: () => {
      if (mark) void edit({ kind: 'set loop', loop: mark })
      setMark(null)
    },
  })
  return (
    <Box
      ref={box}
      position="sticky"
      top="0"
      zIndex="4"
      h={`${RULER}px`}
      bg="skyTop"
      borderBottom="1px solid {colors.rule}"
      cursor="pointer"
      userSelect="none"
      touchAction="none"
      data-testid="ruler"
      {...drag}
    >
      {shown && (
        <Box
          position="absolute"
          top="0"
          h="100%"
          left={`${LABEL + shown[0] * per}px`}
          w={`${(shown[1] - shown[0]) * per}px`}
          bg="selectedWash"
        />
      )}
      {ticks.map((f) => (
        <Box key={f} position="absolute" left={`${LABEL + f * per}px`} top="0" h="100%" pointerEvents="none">
          <Box position="absolute" bottom="5px" w="1px" h="5px" bg="soft" />
          <Box
            position="absolute"
            left="3px"
            top="3px"
            fontSize="11.5px"
            color="soft"
            className="figures"
            whiteSpace="nowrap"
          >
            {step >= second ? timecode(f, rate).slice(0, 5) : timecode(f, rate)}
          </Box>
        </Box>
      ))}
      <Ready per={per} />
      <PlayheadMark per={per} />
    </Box>
  )
})

/** Every so many milliseconds, at most, the line of frames that are ready is drawn anew. */
const OFTEN = 200

/** Which frames are ready to be shown. */
function Ready({ per }: { per: number }) {
  const frames = useStudio((s) => s.frames)
  const length = useStudio((s) => s.view?.length ?? 0)
  const line = useRef<SVGPathElement>(null)
  const timer = useRef(0)
  useEffect(() => () => clearTimeout(timer.current), [])
  const draw = () => {
    timer.current = 0
    let [d, from] = ['', -1]
    for (let f = 0; f <= length; f++) {
      const ready = f < length && frames?.ready(f)
      if (ready && from < 0) from = f
      if (ready || from < 0) continue
      d += `M${from * per},0H${f * per}`
      from = -1
    }
    line.current?.setAttribute('d', d)
  }
  const newest = useRef(draw)
  useLayoutEffect(() => {
    newest.current = draw
  })
  useWritten(
    (s) => `${s.readyCount} ${s.keysVersion} ${per} ${length}`,
    () => (timer.current ||= window.setTimeout(() => newest.current(), OFTEN)),
  )
  return (
    <svg
      style={{ position: 'absolute', bottom: 0, left: LABEL, overflow: 'visible', pointerEvents: 'none' }}
      width={length * per}
      height="3"
      aria-hidden="true"
    >
      <path ref={line} transform="translate(0 1.5)" stroke={roleColour('selected')} strokeWidth="3" opacity="0.7" />
    </svg>
  )
}
