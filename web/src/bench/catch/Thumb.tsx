import { Box, Image } from '@chakra-ui/react'
import type { ShotView } from '../../api/client'
import { useStudio } from '../../store'
import { frameUrl, thumbWidth } from '../../parts/urls'

const HIGH = 40

/** A frame, small, to be pressed to go there. */
export function Thumb(p: { shot: ShotView; frame: number; label: string; away?: boolean; onGo: () => void }) {
  const view = useStudio((s) => s.view)!
  const wide = Math.max(18, Math.min(44, Math.round((HIGH * p.shot.width) / p.shot.height)))
  return (
    <Box
      as="button"
      cursor="pointer"
      flexShrink="0"
      aria-label={p.label}
      aria-disabled={p.away}
      opacity={p.away ? 0.45 : 1}
      onClick={() => !p.away && p.onGo()}
    >
      <Image
        src={frameUrl(view, p.shot, p.frame, thumbWidth(p.shot))}
        alt=""
        h={`${HIGH}px`}
        w={`${wide}px`}
        objectFit="cover"
        borderRadius="3px"
      />
    </Box>
  )
}
