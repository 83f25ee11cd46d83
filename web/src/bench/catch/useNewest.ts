import { useEffect, useRef, useState } from 'react'

/**
 * The newest address whose picture has come. While one is on its way the one before stays, and no other is asked for:
 * what is dragged or played asks as often as the server answers.
 */
export function useNewest(url: string): string | null {
  const [shown, setShown] = useState<string | null>(null)
  const wanted = useRef(url)
  const loading = useRef(false)
  useEffect(() => {
    wanted.current = url
    const load = () => {
      const asked = wanted.current
      loading.current = true
      const picture = new window.Image()
      picture.onload = picture.onerror = () => {
        loading.current = false
        setShown(asked)
        if (wanted.current !== asked) load()
      }
      picture.src = asked
    }
    if (!loading.current) load()
  }, [url])
  return shown
}
