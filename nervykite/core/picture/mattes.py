"""The alpha of mattes, as they are in the source's own pixels, remembered by all that it depends on."""

import threading
from collections import OrderedDict

import numpy as np

from ..footage.library import Library
from ..footage.planes import to_bgr
from ..matte.combine import matte_alpha
from ..model import Matte, Shot


class Mattes:
    """Works mattes out over a library; the last `keep` are remembered. Safe for several threads."""

    def __init__(self, library: Library, keep: int = 32) -> None:
        self._library, self._keep = library, keep
        self._known: OrderedDict[object, np.ndarray] = OrderedDict()
        self._lock = threading.Lock()

    def alpha(self, shot: Shot, frame: int, matte: Matte) -> np.ndarray:
        """The matte of a source frame: float32 (h, w) of the shot's size, 0…1. Not to be written to."""
        picture = (frame,) if matte.fine_edge > 0 else ()  # only the fine edge looks at the picture
        shaped = matte.model_copy(update={"fringe": 0.0})
        key = shot.id, picture, shaped.model_dump_json()

        def make() -> np.ndarray:
            seen = self.picture(shot, frame) if matte.fine_edge > 0 else None
            return matte_alpha(matte, shot.height, shot.width, self._library.alpha, seen)

        return self._get(key, make)

    def picture(self, shot: Shot, frame: int) -> np.ndarray:
        """A source frame as uint8 RGB (h, w, 3), from the original file."""
        return np.ascontiguousarray(to_bgr(self._library.exact(shot, frame))[..., ::-1])

    def _get(self, key: object, make) -> np.ndarray:
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
                return self._known[key]
        made = make()
        with self._lock:
            self._known[key] = made
            while len(self._known) > self._keep:
                self._known.popitem(last=False)
        return made
