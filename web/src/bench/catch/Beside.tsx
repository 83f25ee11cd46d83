import { Box, chakra, Flex, Grid, Image, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import type { ItemView, ShotView } from '../../api/client'
import { Choice } from '../../parts/buttons'
import { shownAt, useOf } from '../../store'
import { useChoices } from './choice'
import { useHere } from './here'
import { frameUrl, thumbWidth } from '../../parts/urls'
import { useNewest } from './useNewest'
import { type Overlap, shareWords } from './useChosen'

const AROUND = 4

export type What = 'ghosts' | 'near'

interface Props {
  what: What
  shot: ShotView
  place: ItemView
  frames: number[]
  overlaps: Overlap[]
  ready: boolean
}

/** Beside the frame: all chosen frames' bodies in one picture, or the frames around it. */
export function Beside(p: Props) {
  return p.what === 'ghosts' ? <Ghosts {...p} /> : <Neighbours shot={p.shot} />
}

/** Which of the two, and how strong the ghosts are. */
export function BesideChoice({ what, onWhat }: { what: What; onWhat: (what: What) => void }) {
  const strength = useChoices((s) => s.strength)
  const setStrength = useChoices((s) => s.setStrength)
  return (
    <Flex gap="2" direction="column" align="flex-start">
      <Choice
        dark
        label="Beside the frame"
        value={what}
        onChange={onWhat}
        options={[
          { value: 'ghosts', label: 'Ghosts', hint: 'All chosen frames in one picture, to judge their spacing' },
          { value: 'near', label: 'Neighbours', hint: 'The frames around this one' },
        ]}
      />
      <chakra.input
        type="range"
        aria-label="How strong the ghosts are"
        title="How strong the ghosts are; double-click to set back"
        min={10}
        max={100}
        value={Math.round(100 * strength)}
        disabled={what !== 'ghosts'}
        opacity={what === 'ghosts' ? 1 : 0.3}
        onChange={(e) => setStrength(Number(e.target.value) / 100)}
        onDoubleClick={() => setStrength(0.85)}
        w="80px"
        css={{ accentColor: 'var(--chakra-colors-selected)' }}
      />
    </Flex>
  )
}

function Ghosts(p: Props) {
  const under = useHere(p.place)
  const { view } = useOf('view')
  const strength = useChoices((s) => s.strength)
  const url = p.frames.length
    ? `/api/projects/${view!.project.id}/shots/${p.shot.id}/ghosts.jpg?under=${under}&frames=${p.frames}&strength=${strength}`
    : frameUrl(view!, p.shot, under, 540)
  const shown = useNewest(url)
  const worst = p.overlaps[0]
  const number = (frame: number) => p.frames.indexOf(frame) + 1
  return (
    <OnPicture
      shape={p.shot.width / p.shot.height}
      to="start"
      notes={
        <>
          <Note top>
            {p.frames.length ? `Ghosts · ${p.frames.length} chosen` : 'Choose frames to see them together'}
          </Note>
          {!p.ready && p.frames.length > 0 && <Note>Who moves is still being looked for</Note>}
          {p.ready && worst && number(worst.one) > 0 && number(worst.other) > 0 && (
            <Note>
              {number(worst.one)} and {number(worst.other)} overlap by {shareWords(worst.share)}
            </Note>
          )}
        </>
      }
    >
      <Image
        src={shown ?? frameUrl(view!, p.shot, under, 540)}
        alt={`${p.frames.length} chosen frames together`}
        w="100%"
        h="100%"
        data-testid="ghosts"
        data-frames={p.frames.join()}
        data-settled={shown === url ? 'yes' : 'no'}
      />
    </OnPicture>
  )
}

/** A picture as large as there is room for, with what is written on it at its own corners; it keeps to an end. */
export function OnPicture(p: { shape: number; to: 'start' | 'end'; children: ReactNode; notes: ReactNode }) {
  return (
    <Flex
      flex="1"
      minW="0"
      minH="0"
      justify={p.to === 'end' ? 'flex-end' : 'flex-start'}
      align="center"
      css={{ containerType: 'size' }}
    >
      <Box position="relative" style={{ width: `min(100cqw, 100cqh * ${p.shape})`, aspectRatio: p.shape }}>
        {p.children}
        {p.notes}
      </Box>
    </Flex>
  )
}

export function Note({ children, top }: { children: ReactNode; top?: boolean }) {
  return (
    <Box
      position="absolute"
      left="6px"
      {...(top ? { top: '6px' } : { bottom: '6px' })}
      maxW="calc(100% - 12px)"
      px="1.5"
      py="3px"
      bg="#1E2530E0"
      color="#FBF8F2"
      borderRadius="soft"
      fontSize="12px"
      className="figures"
      pointerEvents="none"
    >
      {children}
    </Box>
  )
}

/** The frames around the playhead, as the ground shows them. */
function Neighbours({ shot }: { shot: ShotView }) {
  const { view, settled, seek } = useOf('view', 'settled', 'seek')
  const across = shot.width > shot.height ? 2 : 3
  const around = across === 2 ? 3 : AROUND
  const near = Array.from({ length: 2 * around + 1 }, (_, i) => settled - around + i)
  const rows = Math.ceil(near.length / across)
  return (
    <Grid
      flex="1"
      minW="0"
      justifyContent="start"
      templateColumns={`repeat(${across}, auto)`}
      templateRows={`repeat(${rows}, minmax(0, 1fr))`}
      gap="3px"
      h="100%"
    >
      {near.map((f) => {
        const source = shownAt(view!, f)
        const here = f === settled
        return (
          <Box
            as="button"
            key={f}
            aria-label={source ? `Frame ${source.frame}` : 'No frame'}
            aria-current={here ? 'true' : undefined}
            aria-disabled={!source}
            onClick={() => source && seek(f)}
            position="relative"
            minH="0"
            borderRadius="3px"
            overflow="hidden"
            cursor="pointer"
            boxShadow={here ? '0 0 0 2.5px {colors.now}' : undefined}
            opacity={source ? 1 : 0.15}
          >
            {source && (
              <>
                <Image
                  src={frameUrl(view!, view!.shots[source.shot]!, source.frame, 2 * thumbWidth(shot))}
                  alt=""
                  h="100%"
                  objectFit="contain"
                />
                <Text
                  position="absolute"
                  inset="auto 0 0 0"
                  bg="#00000080"
                  color="#fff"
                  fontSize="11px"
                  className="figures"
                >
                  {source.frame}
                </Text>
              </>
            )}
          </Box>
        )
      })}
    </Grid>
  )
}
