"""The sample of a recipe on somebody's own footage, as a short small loop: with the bodies that were seen as rough
mattes, before anything is cut out. Nothing of it is kept but pictures that nobody needs, which go by themselves.
"""

import io
from collections.abc import Iterable
from fractions import Fraction

import av
import cv2
import numpy as np

from ..core.change.edits import PutRecipe
from ..core.change.edits.base import with_hold
from ..core.change.edits.putting_recipes import without_made
from ..core.draw.picture.canvas import Canvas
from ..core.draw.picture.evaluate import Evaluation
from ..core.piece.model import Caught, Document, Found, Hold, Matte, Raster, Recipe, Shot, Stop, Travel
from ..core.piece.timeline.timeline import Timeline
from ..core.see.footage.planes import to_bgr
from .cooking import caught_by, footage_for
from .studio import Studio
from .watching import ShotObservations

HIGH = 320
"""How many pixels the longer side of a loop has."""
MOST, BEFORE, AFTER = 2.6, 0.5, 0.5
"""How many seconds a loop lasts at most, and how many it shows before and after what the recipe made."""
RATE = Fraction(12)
SEEN = 9
"""So many frames of a take are looked at for the scene behind."""
SOFT = 0.6
"""Pixels of the small bodies over which their edges are softened."""


def tasted(studio: Studio, document: Document, recipe: Recipe) -> bytes:
    """The loop of a recipe, an animated WebP, without what another one made. Raises Refusal with what is missing."""
    document = as_filmed(document)
    ground = footage_for(document, recipe)
    caught = caught_by(studio, document, recipe, ground)
    before = {x.id for x in document.project.layers}
    rough = _roughly_cut(studio, document, caught) if recipe.cuts else document
    if recipe.emptied:
        rough = _roughly_empty(studio, rough, caught[0], min(recipe.emptied, MOST))
    made = PutRecipe(recipe=recipe, caught=caught).apply(rough)
    timeline = Timeline(made)
    spans = [s for x in made.project.layers if x.id not in before and (s := timeline.spans[x.id]) is not None]
    rate, project = float(made.project.rate), made.project
    first = max(0, min(s.start for s in spans) - round(BEFORE * rate))
    past = min(timeline.length, max(s.end for s in spans) + round(AFTER * rate), first + round(MOST * rate))
    scale = HIGH / max(project.width, project.height)
    size = tuple(max(16, 2 * round(side * scale / 2)) for side in (project.width, project.height))
    evaluation, every = Evaluation(made, timeline), rate / float(RATE)
    times = [int(first + every * n) for n in range(max(1, int((past - first) / every)))]
    frames = (studio.renderer.render(Canvas(made, (size[0], size[1]), draft=True), evaluation.at(at)) for at in times)
    return _moving((to_bgr(planes) for planes in frames), (size[0], size[1]))


def _moving(frames: Iterable[np.ndarray], size: tuple[int, int]) -> bytes:
    """Pictures, uint8 B'G'R' (h, w, 3), as an animated WebP: as quick to make as can be, not as small."""
    out = io.BytesIO()
    with av.open(out, "w", format="webp", options={"loop": "0"}) as file:
        video = file.add_stream("libwebp_anim", rate=RATE, options={"quality": "70", "compression_level": "1"})
        video.width, video.height = size
        video.pix_fmt = "bgra"
        video.codec_context.time_base = 1 / RATE
        for n, frame in enumerate(frames):
            clear = np.asarray(cv2.cvtColor(frame, cv2.COLOR_BGR2BGRA), np.uint8)
            picture = av.VideoFrame.from_ndarray(clear, "bgra")
            picture.pts, picture.time_base = n, video.codec_context.time_base
            file.mux(video.encode(picture))
        file.mux(video.encode())
    return out.getvalue()


def as_filmed(document: Document) -> Document:
    """The document without anything that recipes made."""
    for made in document.project.made:
        document = without_made(document, made.id)
    return document


def _roughly_cut(studio: Studio, document: Document, caught: Iterable[Caught]) -> Document:
    """The document with a hold for each frame that is caught, cut out along the small body that was seen in it."""
    looks = ShotObservations(studio)
    for one in caught:
        item = document.item(one.item)
        shot = document.shots[(item.source.footage(document) if item else None) or ""]
        known = [h for h in document.holds.values() if h.shot == shot.id and h.frame == one.frame]
        if any(h.matte.carved for h in known):
            continue
        (body,) = looks.bodies(shot, [one.frame])
        piece = Found(name="Seen", kind="mover", raster=_raster(studio, shot, body))
        hold = Hold(shot=shot.id, frame=one.frame, name="Seen", matte=Matte(pieces=[piece]))
        document = with_hold(document, hold)
    return document


def _roughly_empty(studio: Studio, document: Document, one: Caught, seconds: float) -> Document:
    """The document with what is needed to empty the footage after a frame: the bodies seen there, and a scene that is
    the middle one of what was seen at each place.
    """
    item = document.item(one.item)
    shot = document.shots[(item.source.footage(document) if item else None) or ""]
    hold = next(h for h in document.holds.values() if h.shot == shot.id and h.frame == one.frame and h.matte.carved)
    take = shot.take(one.frame)
    past = min(take.stop, one.frame + 2 + round(seconds * float(shot.rate)))
    frames = list(range(one.frame + 1, past))
    if hold.travel is not None or not frames:
        return document
    bodies = ShotObservations(studio).bodies(shot, frames)
    stops = [
        Stop(frame=f, pieces=[Found(name="Seen", kind="mover", raster=_raster(studio, shot, body))])
        for f, body in zip(frames, bodies, strict=True)
    ]
    film = studio.film(shot)
    scale = HIGH / max(shot.width, shot.height)
    size = max(2, round(shot.width * scale)), max(2, round(shot.height * scale))
    apart = max(1, len(take) // SEEN)
    seen = [cv2.resize(film.picture(f), size, interpolation=cv2.INTER_AREA) for f in take[::apart]]
    plate = cv2.resize(np.median(seen, axis=0).astype(np.uint8), (shot.width, shot.height))
    travel = Travel(first=one.frame, past=past, stops=stops)
    changes = {"travel": travel, "plate": studio.keep_picture(plate)}
    return with_hold(document, hold.model_copy(update=changes))


def _raster(studio: Studio, shot: Shot, body: np.ndarray) -> Raster:
    """A small body as alpha of the frame's size."""
    soft = cv2.GaussianBlur(body.astype(np.float32) / max(1, int(body.max())), (0, 0), SOFT)
    large = cv2.resize(soft, (shot.width, shot.height), interpolation=cv2.INTER_CUBIC)
    alpha = np.clip((large - 0.25) / 0.5, 0, 1)
    return Raster(file=studio.keep_picture(np.rint(alpha * 255).astype(np.uint8)), box=(0, 0, shot.width, shot.height))
