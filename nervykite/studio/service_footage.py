"""Footage as the services look at it, whether it is a shot of a data folder or a file that belongs to no project."""

from collections.abc import Callable, Hashable, Sequence
from pathlib import Path
from typing import Protocol

import cv2
import numpy as np

from ..core.common.errors import Refusal
from ..core.piece.model import Shot
from ..core.piece.model.shot import take_of
from ..core.see.footage import loose
from ..core.see.footage.cut_detection import cuts_of, glance
from ..core.see.footage.library import Library
from ..core.see.footage.planes import to_bgr
from ..core.see.scene.stack import FOLLOWED

Progress = Callable[[float], None]
Size = tuple[int, int]
"""Width and height in pixels."""
REACH = 90
"""How many frames are looked at for what moves, at least, before or after."""
SMALL, LEAST = 480, 18
"""How long, in pixels, pictures are when they are looked at, about; and how wide they have to be then."""


def nothing(share: float) -> None:
    """Tells nobody of progress."""


class Film(Protocol):
    """Frames that can be asked for by their numbers. Pictures are uint8 RGB (h, w, 3)."""

    name: str
    size: Size
    key: Hashable
    """Stands for it wherever something about it is remembered."""

    def picture(self, frame: int) -> np.ndarray:
        """A frame at its own size. Raises Refusal if there is no such frame."""
        ...

    def take(self, frame: int) -> range:
        """The frames of the same take."""
        ...

    def exact(self, window: range, progress: Progress = nothing) -> Sequence[np.ndarray]:
        """The frames of a window at their own size, read when they are asked for."""
        ...

    def small(self, window: range, size: Size, progress: Progress = nothing) -> Sequence[np.ndarray]:
        """The frames of a window at a size."""
        ...


def window_of(film: Film, frame: int) -> range:
    """The frames that tell what moves in one of them; neighbouring frames mostly have the same ones."""
    take = film.take(frame)
    within, frames = frame - take.start, len(take)
    first = min(max(0, within // REACH * REACH - REACH // 2), max(0, frames - 2 * REACH))
    return take[first : first + 2 * REACH]


def looked_at(film: Film) -> None:
    """Raises Refusal if a film's pictures are too small or too thin to find anything in."""
    width, height = film.size
    if min(width, height) * min(1.0, SMALL / max(width, height)) < LEAST:
        raise Refusal(
            f"The pictures of {film.name} are {width} × {height} pixels, too small or thin to find"
            " anything in. Draw the matte with the pen."
        )


class ShotFilm:
    """A shot, from a library."""

    def __init__(self, library: Library, shot: Shot) -> None:
        self._library, self._shot = library, shot
        self.name, self.size = shot.name, (shot.width, shot.height)
        self.key: Hashable = shot.id

    def picture(self, frame: int) -> np.ndarray:
        """A frame at its own size, from the original file. Raises Refusal if there is no such frame."""
        self._check(frame)
        return np.ascontiguousarray(to_bgr(self._library.exact(self._shot, frame))[..., ::-1])

    def take(self, frame: int) -> range:
        """The frames of the same take."""
        return self._shot.take(frame)

    def exact(self, window: range, progress: Progress = nothing) -> Sequence[np.ndarray]:
        """The frames of a window, from the original file."""
        return LazyFrames(window, self.picture, progress)

    def small(self, window: range, size: Size, progress: Progress = nothing) -> Sequence[np.ndarray]:
        """The frames of a window at a size no larger than the proxy's, from that; those that were read are kept.

        Raises Refusal, when it is read, if there is no such frame.
        """
        return LazyFrames(window, lambda frame: self._small(frame, size), progress, keeps=True)

    def _check(self, frame: int) -> None:
        if not 0 <= frame < self._shot.frames:
            raise Refusal(f"{self.name} has no frame {frame}; its last one is {self._shot.frames - 1}.")

    def _small(self, frame: int, size: Size) -> np.ndarray:
        self._check(frame)
        bgr = to_bgr(self._library.proxy(self._shot).planes(frame))
        return np.ascontiguousarray(cv2.resize(bgr, size, interpolation=cv2.INTER_AREA)[..., ::-1])


class LooseFilm:
    """A file that belongs to no project, around one of its frames: a video, or a single picture.

    It is decoded once, up to `reach` frames beyond that one; frames beside it are kept at `size`. What lies farther
    away is not known of, and taken for another take.
    """

    def __init__(self, path: Path, at: int, size: Size | None, reach: int = 2 * REACH) -> None:
        self._path, self._at, self._size = path, at, size
        self._full, self._near, index = loose.around(path, at, size, reach)
        self._first = at - index
        self.name = path.name
        self.key: Hashable = str(path)
        self.size = self._full.shape[1], self._full.shape[0]
        glances = [glance(cv2.cvtColor(f, cv2.COLOR_RGB2GRAY)) for f in self._near]
        self._cuts = [self._first + c for c in cuts_of(glances)]

    @property
    def still(self) -> bool:
        """True if it is a picture, which has no other frames."""
        return not self._near

    @property
    def first(self) -> int:
        """The first frame that is known of."""
        return self._first

    @property
    def last(self) -> int:
        """The last frame that is known of."""
        return self._first + len(self._near) - 1

    def picture(self, frame: int) -> np.ndarray:
        """A frame at its own size. Raises Refusal if there is no such frame."""
        return self._full if frame == self._at else loose.around(self._path, frame, None)[0]

    def take(self, frame: int) -> range:
        """The frames of the same take, as far as they are known of."""
        if self.still:
            return range(frame, frame + 1)
        take = take_of(frame, self.last + 1, self._cuts)
        return range(max(self._first, take.start), take.stop)

    def exact(self, window: range, progress: Progress = nothing) -> Sequence[np.ndarray]:
        """The frames of a window, decoded in order."""
        return loose.InOrder(self._path, window.start, window.stop)

    def small(self, window: range, size: Size, progress: Progress = nothing) -> Sequence[np.ndarray]:
        """The frames of a window at a size."""
        near = self._near[window.start - self._first : window.stop - self._first]
        return near if size == self._size else [cv2.resize(f, size, interpolation=cv2.INTER_AREA) for f in near]


class LazyFrames(Sequence[np.ndarray]):
    """The frames of a window, read when they are asked for; with `keeps`, each only once."""

    def __init__(
        self, window: range, read: Callable[[int], np.ndarray], progress: Progress, keeps: bool = False
    ) -> None:
        self._window, self._read, self._progress, self._keeps = window, read, progress, keeps
        self._known: dict[int, np.ndarray] = {}
        self._count = 0

    def __len__(self) -> int:
        return len(self._window)

    def __getitem__(self, index):
        if isinstance(index, slice):
            return [self[k] for k in range(len(self))[index]]
        number = self._window[index]
        frame = self._known.get(number)
        if frame is None:
            frame = self._read(number)
            if self._keeps:
                self._known[number] = frame
        self._count += 1
        self._progress(min(1.0, self._count / (2 * FOLLOWED)))
        return frame
