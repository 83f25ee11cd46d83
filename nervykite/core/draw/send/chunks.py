"""The frames that are sent, drawn at project times. What is sent in several ways is drawn from one reading of it."""

import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ...kinds.sources.picture import Stored
from ...piece.model import Document
from ...see.footage.library import Library
from ...see.footage.planes import Planes, colour_planes
from ..picture.canvas import Canvas
from ..picture.draws import Draws, SpriteSpec
from ..picture.evaluate import Evaluation
from ..picture.finish_stages import stage_cache
from ..picture.render import Renderer
from ..picture.sprites import sprite_cache
from .frame import Frame
from .sending import Sending, fits


@dataclass(frozen=True)
class _Wanted:
    """The picture wanted for a sending: the piece with what of it is to be seen, and the plate beneath if that is
    wanted.
    """

    evaluation: Evaluation
    sending: Sending
    plate: SpriteSpec | None


class FrameRenderer:
    """Draws frames for some sendings; each thread that calls it reads the footage on its own, until it is closed."""

    def __init__(self, document: Document, sendings: Sequence[Sending], open_library: Callable[[], Library]) -> None:
        self._wanted, evaluations = [], dict[str, Evaluation]()
        for sending in sendings:
            # What differs in size alone is laid out once.
            seen = sending.model_dump_json(include={"what", "layers"})
            if seen not in evaluations:
                evaluations[seen] = Evaluation(sending.document(document))
            evaluation = evaluations[seen]
            self._wanted.append(_Wanted(evaluation, sending, _plate_below(evaluation, sending)))
        self._open_library = open_library
        self._cache, self._stages = sprite_cache(), stage_cache()
        self._own = threading.local()
        self._opened = list[Library]()

    def __enter__(self) -> "FrameRenderer":
        return self

    def __exit__(self, *_trouble: object) -> None:
        self.close()

    def close(self) -> None:
        """Lets go of all footage that was read; no thread draws any more."""
        while self._opened:
            self._opened.pop().close()

    def __call__(self, time: float) -> list[Frame]:
        """The pictures at a project time, one for each of the sendings at the size that it is sent in."""
        if not hasattr(self._own, "renderer"):
            # The held frames have a reader of their own, so that the footage is read straight through.
            footage, held = self._open_library(), self._open_library()
            self._opened += [footage, held]
            self._own.renderer = Renderer(footage, held, self._cache, stages=self._stages)
        return [_frame(self._own.renderer, wanted, time) for wanted in self._wanted]


def _frame(renderer: Renderer, wanted: _Wanted, time: float) -> Frame:
    document, sending = wanted.evaluation.document, wanted.sending
    draws = wanted.evaluation.at(time)
    own = document.project.width, document.project.height
    outer = sending.size or own
    left, top, *size = fits(own, outer)
    inner = size[0], size[1]
    background = document.project.background
    if sending.clear:
        return Frame(rgba=_alone(renderer, document, draws, inner, outer, (left, top)), background=background)
    if wanted.plate is not None:
        draws = replace(draws, ground=wanted.plate, leaving=None, shaken=())
    planes = renderer.render(Canvas(document, inner), draws)
    return Frame(planes if inner == outer else _within(planes, outer, (left, top), background))


def _alone(
    renderer: Renderer, document: Document, draws: Draws, inner: tuple[int, int], outer: tuple[int, int],
    at: tuple[int, int],
) -> np.ndarray:  # fmt: skip
    """The layers alone, over nothing: premultiplied R'G'B'A, float32 (h, w, 4)."""
    out = np.zeros((*outer[::-1], 4), np.float32)
    glass = renderer.alone(Canvas(document, inner), draws.layers)
    if glass is None:
        return out
    out[at[1] : at[1] + inner[1], at[0] : at[0] + inner[0]] = glass.on((0, 0, *inner))
    return out


def _plate_below(evaluation: Evaluation, sending: Sending) -> SpriteSpec | None:
    """The plate that layers are sent over, as the first of them rests; None if they are not."""
    if sending.what != "layers" or sending.over != "plate":
        return None
    document = evaluation.document
    for id_ in sending.layers:
        layer = document.layer(id_)
        hold = next((document.holds[h] for h in layer.source.needs if h in document.holds), None) if layer else None
        if layer is not None and hold is not None and hold.plate is not None:
            shot = document.shots[hold.shot]
            picture = Stored(hold.plate, hold.shot, hold.frame, (shot.width, shot.height))
            return SpriteSpec.of(picture, evaluation.framing(layer))
    return None


def _within(planes: Planes, size: tuple[int, int], at: tuple[int, int], background: str) -> Planes:
    """Planes on a larger canvas of a colour."""
    w, h = size
    y, u, v = colour_planes(background)
    out = Planes(
        np.full((h, w), y, np.uint8), np.full((h // 2, w // 2), u, np.uint8), np.full((h // 2, w // 2), v, np.uint8)
    )
    for mine, theirs, by in ((out.y, planes.y, 1), (out.u, planes.u, 2), (out.v, planes.v, 2)):
        x0, y0 = at[0] // by, at[1] // by
        mine[y0 : y0 + theirs.shape[0], x0 : x0 + theirs.shape[1]] = theirs
    return out
