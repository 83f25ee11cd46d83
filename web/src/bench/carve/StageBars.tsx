import { type ComponentProps } from 'react'
import { Flex, Text } from '@chakra-ui/react'
import { ChevronLeft, ChevronRight, Columns2, Ghost, Scan, Search, ZoomIn, ZoomOut } from 'lucide-react'
import { Choice, Tool } from '../../parts/buttons'
import { withKey } from '../../parts/keys'
import type { Look } from './Stage'

const VIEWS: { value: Look; label: string; hint?: string }[] = [
  { value: 'scene', label: 'Scene', hint: 'As filmed; hold W to see it from any view' },
  { value: 'veil', label: 'Veil' },
  { value: 'checker', label: 'Checker' },
  { value: 'colour', label: 'Colour' },
  { value: 'matte', label: 'Matte' },
]

interface TitleProps {
  title: string
  look: Look
  backing: string
  onFlip: (by: number) => void
  onLook: (look: Look) => void
  onBacking: (colour: string) => void
}

/** What is on the stage, and how it is looked at. On a narrow bench the views go below the title. */
export function TitleBar(p: TitleProps) {
  return (
    <Flex
      position="absolute"
      left="10px"
      right="10px"
      top="8px"
      wrap="wrap"
      rowGap="1.5"
      columnGap="3"
      align="center"
      pointerEvents="none"
    >
      <Flex
        align="center"
        minW="0"
        maxW="100%"
        bg="#1E2530E0"
        color="#FBF8F2"
        borderRadius="soft"
        fontSize="12.5px"
        className="figures"
        userSelect="none"
        pointerEvents="auto"
        onPointerDown={(e) => e.stopPropagation()}
      >
        <Flip icon={ChevronLeft} label={withKey('Hold before', 'holdBefore')} onClick={() => p.onFlip(-1)} />
        <Text px="1" truncate title={p.title}>
          {p.title}
        </Text>
        <Flip icon={ChevronRight} label={withKey('Hold after', 'holdAfter')} onClick={() => p.onFlip(1)} />
      </Flex>
      <Flex
        ml="auto"
        gap="1.5"
        align="center"
        pointerEvents="auto"
        onPointerDown={(e) => e.stopPropagation()}
        onDoubleClick={(e) => e.stopPropagation()}
      >
        {p.look === 'colour' && (
          <input
            type="color"
            aria-label="Colour behind the cutout"
            value={p.backing}
            onChange={(e) => p.onBacking(e.target.value)}
            style={{ width: 28, height: 26, padding: 0, border: '2px solid #FBF8F2', borderRadius: 6 }}
          />
        )}
        <Choice dark label="View" value={p.look} onChange={p.onLook} options={VIEWS} />
      </Flex>
    </Flex>
  )
}

interface FootProps {
  advice: string
  scale: number
  divided: boolean
  ghosts: boolean
  loupe: boolean
  onDivide: () => void
  onGhosts: () => void
  onLoupe: () => void
  onZoom: (by: number) => void
  onWhole: () => void
}

/** What the tool in hand wants next; how near the frame is, and what helps to see. */
export function FootBar(p: FootProps) {
  return (
    <Flex
      position="absolute"
      left="10px"
      bottom="10px"
      right="10px"
      gap="2"
      justify="space-between"
      align="center"
      pointerEvents="none"
    >
      <Text fontSize="12px" color="#F4F1EA" bg="#1E2530C0" px="2" py="0.5" borderRadius="soft">
        {p.advice}
      </Text>
      <Flex
        flexShrink="0"
        align="center"
        bg="card"
        borderRadius="soft"
        pointerEvents="auto"
        onPointerDown={(e) => e.stopPropagation()}
        onDoubleClick={(e) => e.stopPropagation()}
      >
        <Aid
          icon={Columns2}
          label="Before and after"
          hint="Before and after: as filmed left of a line, as cut right of it"
          press="divide"
          on={p.divided}
          onClick={p.onDivide}
        />
        <Aid
          icon={Ghost}
          label="Ghosts"
          hint="Ghosts of the frames before and after"
          press="ghosts"
          on={p.ghosts}
          onClick={p.onGhosts}
        />
        <Aid
          icon={Search}
          label="Loupe"
          hint="Loupe: the pixels around the pointer"
          press="loupe"
          on={p.loupe}
          onClick={p.onLoupe}
        />
        <Aid icon={ZoomOut} label="Zoom out" hint="Zoom out" press="zoomOut" onClick={() => p.onZoom(1 / 1.5)} />
        <Text fontSize="12px" w="46px" textAlign="center" className="figures">
          {Math.round(p.scale * 100)} %
        </Text>
        <Aid
          icon={ZoomIn}
          label="Zoom in"
          hint="Zoom in, also with the wheel"
          press="zoomIn"
          onClick={() => p.onZoom(1.5)}
        />
        <Aid icon={Scan} label="Whole frame" hint="Whole frame" press="whole" onClick={p.onWhole} />
      </Flex>
    </Flex>
  )
}

/** One of the small buttons under the frame that help to see. */
function Aid(
  p: Omit<ComponentProps<typeof Tool>, 'size' | 'hint'> & { hint: string; press: Parameters<typeof withKey>[1] },
) {
  const { hint, press, ...rest } = p
  return <Tool size={26} hint={withKey(hint, press)} {...rest} />
}

function Flip(p: { icon: typeof ChevronLeft; label: string; onClick: () => void }) {
  return (
    <button aria-label={p.label} title={p.label} onClick={p.onClick} style={{ padding: '5px 3px', cursor: 'pointer' }}>
      <p.icon size={15} />
    </button>
  )
}
