import { Box, Flex, Text, chakra } from '@chakra-ui/react'
import { Pause, Play, Repeat, Smartphone, StepBack, StepForward, Volume2, VolumeX } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import type { FrameHeader } from '../api/live'
import { Act, Empty, Hint } from '../parts/buttons'
import { withKey } from '../parts/keys'
import { previewSize, type Quality, timecode, useOf, useStudio, useWritten } from '../store'
import { pickFiles } from '../parts/pickFiles'
import { player } from '../sounding/player'
import { useScrubbing } from '../sounding/useScrubbing'
import { Framing } from './Framing'
import { Guides } from './Guides'
import { Handles } from './Handles'
import { MotionPath } from './MotionPath'
import { Picker } from './Picker'
import { Push } from './Push'
import { Scene } from './Scene'
import { useRehearsal } from './useRehearsal'
import { Bend } from './Bend'
import { PenPath } from './PenPath'
import { Places } from './Places'
import { Typing } from './Typing'

/** After so many milliseconds a frame has come too late to be shown in passing. */
const LATE = 200

/** The composite at the playhead, with the selected cutout's handles, and the transport below it. */
export function Picture() {
  const view = useStudio((s) => s.view)!
  const { width, height } = view.project
  const quality = useStudio((s) => s.quality)
  const size = previewSize(width, height, quality)
  const frameBox = useRef<HTMLDivElement>(null)
  const [fit, setFit] = useState({ w: 0, h: 0 })
  const header = useFrames(useRef<HTMLCanvasElement>(null))

  useEffect(() => {
    const box = frameBox.current
    if (!box) return
    const watch = new ResizeObserver(([entry]) => {
      const { width: w, height: h } = entry!.contentRect
      const scale = Math.min(w / width, h / height)
      setFit({ w: Math.floor(width * scale), h: Math.floor(height * scale) })
    })
    watch.observe(box)
    return () => watch.disconnect()
  }, [width, height])

  return (
    <Flex direction="column" h="100%" bg="surround" color="onSurround" overflow="hidden">
      <Box p="14px" pb="0" flex="1" minH="0">
        <Flex ref={frameBox} w="100%" h="100%" align="center" justify="center">
          {view.length === 0 ? (
            <Empty
              onDark
              title="The picture"
              action={
                <Act main onClick={pickFiles}>
                  Import a video
                </Act>
              }
            >
              Here is the finished frame, always. Drop a video anywhere on this page to begin.
            </Empty>
          ) : (
            <Box position="relative" w={`${fit.w}px`} h={`${fit.h}px`} data-testid="picture">
              <canvas
                ref={header.canvas}
                width={size.w}
                height={size.h}
                style={{ width: '100%', height: '100%', borderRadius: 3, display: 'block' }}
              />
              <Guides width={width} height={height} />
              <Handles header={header.header} width={width} height={height} scale={fit.w / width} />
              <MotionPath width={width} height={height} scale={fit.w / width} />
              <Push width={width} height={height} scale={fit.w / width} />
              <Framing header={header.header} width={width} height={height} scale={fit.w / width} />
              <Places header={header.header} width={width} height={height} scale={fit.w / width} />
              <Bend header={header.header} width={width} height={height} scale={fit.w / width} />
              <Scene header={header.header} width={width} height={height} scale={fit.w / width} />
              <Typing header={header.header} scale={fit.w / width} />
              <PenPath header={header.header} width={width} height={height} scale={fit.w / width} />
              <Picker canvas={header.canvas} width={width} height={height} scale={fit.w / width} />
            </Box>
          )}
        </Flex>
      </Box>
      <Transport />
    </Flex>
  )
}

/** Keeps the canvas showing the frame at the playhead, or what it would be with the draft. */
function useFrames(canvas: React.RefObject<HTMLCanvasElement | null>) {
  const [header, setHeader] = useState<FrameHeader | null>(null)
  const { frames, settled, keysVersion, draft, playing, awaited } = useOf(
    'frames',
    'settled',
    'keysVersion',
    'draft',
    'playing',
    'awaited',
  )
  const busy = useRef(false)
  const again = useRef(false)
  const rehearsing = useRehearsal(canvas)

  useEffect(() => {
    if (!frames || rehearsing || playing) return
    const show = async (): Promise<void> => {
      if (busy.current) {
        again.current = true
        return
      }
      busy.current = true
      try {
        do {
          again.current = false
          const now = useStudio.getState()
          if (!now.frames || !now.view?.length) break
          const asked = performance.now()
          const answer = await now.frames.get(now.playhead, now.draft ?? undefined)
          // What came late is not shown any more once something else is looked at.
          const late = performance.now() - asked > LATE && useStudio.getState().playhead !== now.playhead
          if (late || useStudio.getState().playing) continue
          if (answer.header.trouble && !now.draft) now.say(answer.header.trouble, 'trouble')
          if (answer.header.skipped || answer.header.trouble) continue
          const bitmap = await createImageBitmap(answer.blob)
          const target = canvas.current
          target?.getContext('2d')?.drawImage(bitmap, 0, 0, target.width, target.height)
          bitmap.close()
          if (target) {
            // Frames that look alike are one picture here, which came with the number of one of them.
            target.dataset.frame = String(now.playhead)
            target.dataset.key = answer.header.key
            target.dataset.draft = now.draft ? 'yes' : 'no'
            target.dataset.version = String(now.keysVersion)
            target.dataset.drawn = String(Number(target.dataset.drawn ?? 0) + 1)
          }
          setHeader(answer.header)
          if (now.draft) {
            const { spans, ground, keys } = answer.header
            now.setDrafted({ places: { ...spans, ...ground }, keys })
          }
        } while (again.current)
      } catch {
        // The stream was closed; the next change asks again.
      } finally {
        busy.current = false
      }
    }
    void show()
  }, [frames, settled, keysVersion, draft, canvas, rehearsing, playing])
  usePlaying(canvas, setHeader)

  // While nothing else is to be done, get the neighbours ready.
  useEffect(() => {
    if (playing || draft || awaited || rehearsing || !frames) return
    const timer = setInterval(() => {
      // A page that nobody looks at leaves the machine to those that somebody does.
      if (document.hidden) return
      const { playhead: at, view } = useStudio.getState()
      const length = view?.length ?? 0
      const [low, high] = view?.project.loop ?? [0, length]
      const next: number[] = []
      for (let i = 0; i < length && next.length < 3; i++) {
        const inLoop = at >= low && at < high
        const f = inLoop ? low + ((at - low + i) % (high - low)) : (at + i) % length
        if (!frames.ready(f)) next.push(f)
        if (i > 240) break
      }
      frames.prefetch(next)
    }, 120)
    return () => clearInterval(timer)
  }, [frames, playing, draft, awaited, rehearsing])
  return { canvas, header }
}

/**
 * While the piece plays: the frame that it is time for, if it is ready; one that is not is skipped and counted, so that
 * the clock goes on.
 */
function usePlaying(canvas: React.RefObject<HTMLCanvasElement | null>, onHeader: (h: FrameHeader) => void) {
  const { frames, playing } = useOf('frames', 'playing')
  useEffect(() => {
    if (!frames || !playing) return
    let timer = 0
    let [last, due, shown, told] = [-1, 0, 0, 0]
    useStudio.getState().setSkipped(0)
    const tick = () => {
      timer = requestAnimationFrame(tick)
      const { playhead, keysVersion } = useStudio.getState()
      if (playhead === last) return
      const picture = frames.picture(playhead)
      due += last < 0 || playhead < last ? 1 : playhead - last
      last = playhead
      const target = canvas.current
      if (picture && target) {
        shown++
        target.getContext('2d')?.drawImage(picture, 0, 0, target.width, target.height)
        Object.assign(target.dataset, {
          frame: String(playhead),
          version: String(keysVersion),
          draft: 'no',
          drawn: String(Number(target.dataset.drawn ?? 0) + 1),
        })
      }
      // Told now and then.
      if (due - shown !== told && due % 15 === 0) useStudio.getState().setSkipped((told = due - shown))
    }
    timer = requestAnimationFrame(tick)
    return () => {
      cancelAnimationFrame(timer)
      useStudio.getState().setSkipped(due - shown)
      const header = frames.peek(last)?.header
      if (header) onHeader(header)
    }
  }, [frames, playing, canvas, onHeader])
}

function Transport() {
  const { view, playing, play, seek, edit, guides, toggleGuides, quality, setQuality, scrub, toggleScrub } = useOf(
    'view',
    'playing',
    'play',
    'seek',
    'edit',
    'guides',
    'toggleGuides',
    'quality',
    'setQuality',
    'scrub',
    'toggleScrub',
  )
  const step = (by: number) => seek(useStudio.getState().playhead + by)
  useEffect(() => {
    if (playing) player.start()
    else player.stop()
  }, [playing])
  useEffect(() => () => player.stop(), [])
  useScrubbing()
  if (!view) return null
  const { rate, loop } = view.project
  return (
    <Flex align="center" gap="2" px="14px" h="72px" flexShrink="0">
      <Round label="Back one frame" hint={withKey('Back one frame', 'back')} onClick={() => step(-1)}>
        <StepBack size={17} />
      </Round>
      <Round
        big
        label={playing ? 'Stop' : 'Play'}
        hint={withKey(playing ? 'Stop' : 'Play', 'play')}
        onClick={() => play()}
      >
        {playing ? <Pause size={19} /> : <Play size={19} />}
      </Round>
      <Round label="On one frame" hint={withKey('On one frame', 'on')} onClick={() => step(1)}>
        <StepForward size={17} />
      </Round>
      <Box flex="1" minW="0" overflow="hidden">
        {loop && (
          <Hint text="Playing goes round in here. Click to clear; Shift+drag over the times sets another">
            <Flex
              as="button"
              align="center"
              gap="1.5"
              w="100%"
              minW="0"
              cursor="pointer"
              color="onSurround"
              opacity="0.8"
              fontSize="12px"
              className="figures"
              onClick={() => void edit({ kind: 'set loop', loop: null })}
            >
              <Repeat size={13} style={{ flexShrink: 0 }} />
              <Text truncate minW="0">
                {timecode(loop[0], rate)} – {timecode(loop[1], rate)}
              </Text>
            </Flex>
          </Hint>
        )}
      </Box>
      <Hint text="How finely the picture is drawn">
        <chakra.select
          aria-label="Quality of the picture"
          value={quality}
          onChange={(e) => setQuality(e.target.value as Quality)}
          bg="transparent"
          color="onSurround"
          fontSize="12px"
          maxW="62px"
          cursor="pointer"
          css={{ '& option': { color: 'var(--chakra-colors-ink)' } }}
        >
          <option value="half">Half</option>
          <option value="full">Full</option>
          <option value="sent">As sent</option>
        </chakra.select>
      </Hint>
      <Round
        label={scrub ? 'Go through the frames without sound' : 'Hear the frames that are gone through'}
        hint="Whether a frame is heard when one goes to it"
        on={scrub}
        onClick={toggleScrub}
      >
        {scrub ? <Volume2 size={16} /> : <VolumeX size={16} />}
      </Round>
      {view.project.height / view.project.width >= 1.4 && (
        <Round
          label={guides ? 'Hide what phone apps cover' : 'Show what phone apps cover'}
          hint={withKey('What the buttons of phone apps cover', 'guides')}
          on={guides}
          onClick={toggleGuides}
        >
          <Smartphone size={16} />
        </Round>
      )}
      <Flex direction="column" align="flex-end">
        <Clock rate={rate} />
        <Skipped />
      </Flex>
    </Flex>
  )
}

/** How many frames were not ready in time, the last time it played. */
function Skipped() {
  const text = useRef<HTMLParagraphElement>(null)
  useWritten(
    (s) => s.skipped,
    (skipped) => (text.current!.textContent = skipped ? `${skipped} skipped` : ''),
  )
  return (
    <Text
      ref={text}
      className="figures"
      fontSize="11px"
      opacity="0.75"
      title="They were not ready in time; the next round is smoother"
      css={{ '&:empty': { display: 'none' } }}
    />
  )
}

function Clock({ rate }: { rate: string }) {
  const text = useRef<HTMLParagraphElement>(null)
  useWritten(
    (s) => timecode(s.playhead, rate),
    (now) => (text.current!.textContent = now),
  )
  return (
    <Text ref={text} className="figures" fontFamily="heading" fontWeight="650" fontSize="17px" data-testid="timecode" />
  )
}

function Round(p: {
  label: string
  hint: string
  big?: boolean
  on?: boolean
  onClick: () => void
  children: React.ReactNode
}) {
  return (
    <Hint text={p.hint}>
      <Flex
        as="button"
        aria-label={p.label}
        align="center"
        justify="center"
        w={p.big ? '38px' : '30px'}
        h={p.big ? '38px' : '30px'}
        borderRadius="full"
        cursor="pointer"
        aria-pressed={p.on}
        bg={p.big ? '#F4F1EA' : p.on ? '#FFFFFF30' : 'transparent'}
        color={p.big ? '#1E2530' : 'onSurround'}
        flexShrink="0"
        onClick={p.onClick}
      >
        {p.children}
      </Flex>
    </Hint>
  )
}
