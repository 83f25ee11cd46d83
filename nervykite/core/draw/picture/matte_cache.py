"""The alpha of mattes, as they are in the source's own pixels, remembered by all that it depends on."""

import numpy as np

from ...common.kept import Kept
from ...piece.model import Matte, Shot
from ...see.footage.library import Library
from ...see.footage.planes import to_bgr
from ...see.matte.combine import matte_alpha


class MatteCache:
    """Works mattes out over a library; the last `keep` are remembered. Safe for several threads."""

    def __init__(self, library: Library, keep: int = 32) -> None:
        self._library = library
        self._known: Kept[np.ndarray] = Kept(keep)

    def alpha(self, shot: Shot, frame: int, matte: Matte) -> np.ndarray:
        """The matte of a source frame: float32 (h, w) of the shot's size, 0…1. Not to be written to."""
        picture = (frame,) if matte.fine_edge > 0 else ()  # only the fine edge looks at the picture
        shaped = matte.model_copy(update={"fringe": 0.0})
        key = shot.id, picture, shaped.model_dump_json()
        known = self._known.peek(key)
        if known is None:
            seen = self.picture(shot, frame) if matte.fine_edge > 0 else None
            known = matte_alpha(matte, shot.height, shot.width, self._library.alpha, seen)
            self._known[key] = known
        return known

    def picture(self, shot: Shot, frame: int) -> np.ndarray:
        """A source frame as uint8 RGB (h, w, 3), from the original file."""
        return np.ascontiguousarray(to_bgr(self._library.exact(shot, frame))[..., ::-1])
