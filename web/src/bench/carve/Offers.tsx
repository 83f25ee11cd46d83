import { Box, Flex, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import type { Raster } from '../../api/client'
import { radios, tabStop } from '../../parts/radios'
import { Tool } from '../../parts/buttons'
import { roleColour } from '../../theme/system'

/** How large the pictures are, and how much of the frame around all outlines they show, in those outlines' size. */
const SIDE = 88
const AROUND = 0.06

interface Props {
  rasters: Raster[]
  chosen: number
  source: string
  width: number
  height: number
  onChoose: (n: number) => void
  onClose: () => void
}

/** The outlines that a few marks may mean, as small pictures to choose from. */
export function Offers(p: Props) {
  const boxes = p.rasters.map((r) => r.box)
  const least = (n: 0 | 1) => Math.min(...boxes.map((b) => b[n]))
  const most = (n: 2 | 3) => Math.max(...boxes.map((b) => b[n]))
  const long = Math.max(most(2) - least(0), most(3) - least(1)) * (1 + 2 * AROUND)
  const by = SIDE / long
  const left = (least(0) + most(2) - long) / 2
  const top = (least(1) + most(3) - long) / 2
  const size = `${p.width * by}px ${p.height * by}px`
  const position = `${-left * by}px ${-top * by}px`
  return (
    <Flex
      position="absolute"
      bottom="60px"
      left="10px"
      direction="column"
      gap="1.5"
      p="2"
      bg="card"
      borderRadius="soft"
      boxShadow="0 2px 10px #1E253033"
      role="radiogroup"
      {...radios}
      aria-label="What your marks may mean"
      data-testid="offers"
      onPointerDown={(e) => e.stopPropagation()}
      onDoubleClick={(e) => e.stopPropagation()}
    >
      <Flex align="center" justify="space-between" gap="3">
        <Text fontSize="12.5px">Which one do you mean?</Text>
        <Tool size={22} icon={X} label="Leave it as it is" onClick={p.onClose} />
      </Flex>
      <Flex gap="1.5">
        {p.rasters.map((r, n) => (
          <button
            key={r.file}
            role="radio"
            tabIndex={tabStop(n, p.chosen)}
            aria-checked={n === p.chosen}
            aria-label={`Outline ${n + 1}`}
            title={`${n === 0 ? 'As your marks led to' : n === 1 ? 'The next likeliest' : 'Another one'} (${n + 1})`}
            onClick={() => p.onChoose(n)}
            style={{
              position: 'relative',
              borderRadius: 6,
              outline: n === p.chosen ? `2.5px solid ${roleColour('selected')}` : '1px solid #1E253033',
              cursor: 'pointer',
            }}
          >
            <Box
              w={`${SIDE}px`}
              h={`${SIDE}px`}
              borderRadius="6px"
              backgroundColor="#8b939e"
              style={{
                backgroundImage: 'repeating-conic-gradient(#d9dde2 0 25%, #c3c9d0 0 50%)',
                backgroundSize: '16px 16px',
              }}
            >
              <Box
                w="100%"
                h="100%"
                style={{
                  background: `url(${p.source}) ${position} / ${size} no-repeat`,
                  mask: `url(/api/rasters/${r.file}.png) ${position} / ${size} no-repeat luminance`,
                }}
              />
            </Box>
            <Text
              position="absolute"
              left="4px"
              top="3px"
              px="1"
              borderRadius="4px"
              fontSize="11px"
              bg="#1E2530C0"
              color="#FBF8F2"
              className="figures"
            >
              {n + 1}
            </Text>
          </button>
        ))}
      </Flex>
    </Flex>
  )
}
