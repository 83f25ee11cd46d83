import { Box, Flex } from '@chakra-ui/react'
import { useEffect, useState } from 'react'
import { useStudio } from '../../shell/store'
import type { Offered } from './useRecipes'

const AGAIN = 2500

/** What a recipe would make of the footage, as a short loop: once that has been looked through. */
export function Loop({ recipe }: { recipe: Offered }) {
  const id = useStudio((s) => s.view!.project.id)
  const ground = useStudio((s) => s.view!.items.map((i) => `${i.id}.${i.start}`).join(','))
  const [tries, setTries] = useState(0)
  const [state, setState] = useState<'asked' | 'there' | 'waits'>('asked')
  useEffect(() => {
    if (state !== 'waits') return
    const timer = setTimeout(() => {
      setTries((n) => n + 1)
      setState('asked')
    }, AGAIN)
    return () => clearTimeout(timer)
  }, [state])
  return (
    <Flex h="100%" align="center" justify="center" position="relative">
      {state !== 'there' && <Says>Made of your footage in a moment</Says>}
      <img
        key={tries}
        src={`/api/projects/${id}/recipes/${recipe.kind}.webp?${recipe.file ? `file=${recipe.file}&` : ''}ground=${encodeURIComponent(ground).slice(0, 900)}&try=${tries}`}
        alt=""
        loading="lazy"
        data-loop={state}
        onLoad={() => setState('there')}
        onError={() => setState('waits')}
        style={{
          width: '100%',
          height: '100%',
          objectFit: 'cover',
          display: 'block',
          visibility: state === 'there' ? 'visible' : 'hidden',
        }}
      />
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
