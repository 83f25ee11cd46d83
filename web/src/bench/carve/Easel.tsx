import { Box } from '@chakra-ui/react'
import type { RefObject } from 'react'
import { Busy } from './Busy'
import { Divider } from './Divider'
import { flip, onCarveKey } from './keys'
import { Offers } from './Offers'
import { isShape } from './path'
import { Stage } from './Stage'
import { FootBar, TitleBar } from './StageBars'
import { StageMarks } from './StageMarks'
import { advice, MARKING, SHAPES } from './tools'
import type { Carving } from './useCarving'
import { useStagePointer } from './useStagePointer'

/** The held frame, as large as the bench allows, with all that is drawn on it and the bars over it. */
export function Easel({ box, carving }: { box: RefObject<HTMLDivElement | null>; carving: Carving }) {
  const { hold, shot, layer, view, at, tool, marks, drawing, points, piece, views, size, pan, place } = carving
  const { spaced, setSpaced, does } = useStagePointer(box, carving)
  const { bare, divided } = views
  const until = divided === null || bare ? null : divided * size.w
  const cursor = () => {
    if (spaced || tool === 'pan') return 'grab'
    if (MARKING.has(tool) || tool === 'mend') return 'none'
    return SHAPES.has(tool) ? 'crosshair' : 'default'
  }
  return (
    <Box
      ref={box}
      position="relative"
      flex="1"
      minH="0"
      overflow="hidden"
      bg="surround"
      tabIndex={0}
      role="application"
      aria-label={`Held frame ${at} of ${shot.name}`}
      cursor={cursor()}
      touchAction="none"
      data-testid="carve"
      data-pan={pan ? JSON.stringify(pan) : undefined}
      data-busy={marks.busy ? 'yes' : 'no'}
      {...does}
      onContextMenu={(e) => e.preventDefault()}
      onKeyDown={(e) => onCarveKey(e, carving, setSpaced)}
      onKeyUp={(e) => (e.key === ' ' ? setSpaced(false) : e.key.toLowerCase() === 'w' && views.setBare(false))}
      onBlur={() => {
        setSpaced(false)
        views.setBare(false)
      }}
    >
      {pan && size.w > 0 && (
        <Stage
          hold={hold}
          shot={shot}
          frame={at}
          draft={carving.local}
          look={carving.mending ? 'plate' : bare ? 'scene' : views.look}
          backing={views.backing}
          pan={pan}
          size={size}
          ghosts={views.ghosts ? [at - 1, at + 1].filter((f) => f >= 0 && f < shot.frames) : []}
          doubts={
            bare ? [] : carving.matte.pieces.flatMap((p) => (!isShape(p) && p.visible && p.doubt ? [p.doubt] : []))
          }
          loupe={views.loupe}
          divider={until}
        >
          {!bare && <StageMarks carving={carving} pan={pan} until={until} />}
        </Stage>
      )}
      {pan && divided !== null && !bare && <Divider at={divided} width={size.w} onMove={views.setDivided} />}
      <TitleBar
        title={`${layer.name} · ${shot.name} · frame ${at}${carving.mending ? ' · clean plate' : ''}`}
        look={views.look}
        backing={views.backing}
        onFlip={(by) => flip(shot.id, hold.id, by)}
        onLook={views.setLook}
        onBacking={views.setBacking}
      />
      {marks.offers.shown && !marks.busy && (
        <Offers
          rasters={marks.offers.shown}
          chosen={marks.offers.chosen}
          source={`/api/projects/${view.project.id}/shots/${shot.id}/frames/${at}.jpg`}
          width={shot.width}
          height={shot.height}
          onChoose={marks.offers.choose}
          onClose={marks.offers.forget}
        />
      )}
      {marks.busy && <Busy words={marks.busy} job={marks.job} />}
      <FootBar
        advice={advice(
          tool,
          drawing.drawn.nodes?.length ?? drawing.drawn.anchors.length,
          !!piece && isShape(piece),
          points.chosen.size,
          !!marks.marked,
        )}
        scale={pan?.scale ?? 1}
        divided={divided !== null}
        ghosts={views.ghosts}
        loupe={views.loupe}
        onDivide={views.divide}
        onGhosts={views.flipGhosts}
        onLoupe={views.flipLoupe}
        onZoom={(by) => place.zoom(by, size.w / 2, size.h / 2)}
        onWhole={place.whole}
      />
    </Box>
  )
}
