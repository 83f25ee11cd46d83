import { Box, Flex } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import { useStudio } from '../../store'
import type { Offered } from './useRecipes'

/** After so many milliseconds it is asked for again, should no news of it have come. */
const AGAIN = 15_000

/** What a recipe would make of the footage, as a short loop: once that has been looked through, and nothing is being made. */
export function Loop({ recipe }: { recipe: Offered }) {
  const id = useStudio((s) => s.view!.project.id)
  const ground = useStudio((s) => s.view!.items.map((i) => `${i.id}.${i.start}`).join(','))
  // What it waits for: how much of the footage has been looked through to its end, and what is being made.
  const news = useStudio((s) => {
    const seen = Object.values(s.view!.shots).filter((shot) => (s.watched[shot.id] ?? 0) >= shot.frames)
    return `${seen.length} ${s.jobs.some((j) => j.state === 'running' || j.state === 'waiting')}`
  })
  const [tries, setTries] = useState(0)
  const [state, setState] = useState<'asked' | 'there' | 'waits'>('asked')
  const [cannot, setCannot] = useState<string | null>(null)
  const heard = useRef(news)
  useEffect(() => {
    if (state !== 'waits') return
    const again = () => {
      setTries((n) => n + 1)
      setState('asked')
    }
    const timer = setTimeout(again, heard.current === news ? AGAIN : 0)
    heard.current = news
    return () => clearTimeout(timer)
  }, [state, news])
  const url = `/api/projects/${id}/recipes/${recipe.kind}.webp?${recipe.file ? `file=${recipe.file}&` : ''}ground=${encodeURIComponent(ground).slice(0, 900)}`
  /** There is no picture: it is to be waited for, or there will never be one. */
  const why = async () => {
    const answer = await fetch(url).catch(() => null)
    const reason = answer?.headers.get('Cannot')
    if (reason) setCannot(decodeURIComponent(reason))
    else setState('waits')
  }
  useEffect(() => setCannot(null), [url])
  return (
    <Flex h="100%" align="center" justify="center" position="relative">
      {state !== 'there' && <Says>{cannot ?? 'Made of your footage in a moment'}</Says>}
      {!cannot && (
        <img
          key={tries}
          src={`${url}&try=${tries}`}
          alt=""
          loading="lazy"
          data-loop={state}
          onLoad={() => setState('there')}
          onError={() => void why()}
          style={{
            width: '100%',
            height: '100%',
            objectFit: 'cover',
            display: 'block',
            visibility: state === 'there' ? 'visible' : 'hidden',
          }}
        />
      )}
    </Flex>
  )
}

/** Words in the place of a picture. They are no part of the name of what they stand on. */
export function Says({ children }: { children: string }) {
  return (
    <Box
      data-says={children}
      position="absolute"
      px="2"
      color="soft"
      fontSize="11.5px"
      lineHeight="17px"
      textAlign="center"
      css={{ '&::after': { content: 'attr(data-says)' } }}
    />
  )
}
