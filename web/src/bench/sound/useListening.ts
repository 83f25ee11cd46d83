import { useEffect, useRef } from 'react'

/** How long the pointer rests on a sound before it is heard. */
const PAUSE = 180

/** What the pointer rests on is heard until it leaves. */
export function useListening() {
  const timer = useRef(0)
  const heard = useRef<HTMLAudioElement | null>(null)
  const stop = () => {
    clearTimeout(timer.current)
    timer.current = 0
    heard.current?.pause()
    heard.current = null
  }
  useEffect(() => stop, [])
  const rest = (url: string) => {
    if (timer.current || heard.current) return
    timer.current = window.setTimeout(() => {
      const audio = new Audio(url)
      heard.current = audio
      // A browser that plays nothing before the first press is not asked again.
      audio.play().catch(() => undefined)
    }, PAUSE)
  }
  return { rest, stop }
}
