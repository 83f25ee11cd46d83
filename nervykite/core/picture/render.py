"""Frames of a document, at any size: the one compositor behind preview and export."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from ..finishes.registry import ground_finish
from ..footage.library import Library
from ..footage.planes import Planes, colour_planes
from ..model import Document
from .draw import Placed, Sprite, draw
from .evaluate import Draws, SpriteSpec
from .mattes import Mattes
from .sprite import make_sprite


class SpriteCache:
    """Sprites by all that they depend on; the least used go when they hold more than `limit` bytes."""

    def __init__(self, limit: int = 600_000_000) -> None:
        self._limit, self._held = limit, 0
        self._sprites: OrderedDict[object, Sprite | None] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: object, make: Callable[[], Sprite | None]) -> Sprite | None:
        """The sprite under the key, made if it is not there."""
        with self._lock:
            if key in self._sprites:
                self._sprites.move_to_end(key)
                return self._sprites[key]
        sprite = make()
        with self._lock:
            if key not in self._sprites:
                self._sprites[key] = sprite
                self._held += sprite.nbytes if sprite else 0
                while self._held > self._limit and len(self._sprites) > 1:
                    _key, old = self._sprites.popitem(last=False)
                    self._held -= old.nbytes if old else 0
        return sprite


class Renderer:
    """Draws frames on a canvas of one size.

    `ground` reads footage in order; `holds` reads the held frames, and may be the same library where order does
    not matter. A draft may use proxies. With a pool, each frame is drawn in bands.
    """

    def __init__(
        self,
        ground: Library,
        holds: Library | None = None,
        cache: SpriteCache | None = None,
        pool: ThreadPoolExecutor | None = None,
        bands: int = 2,
    ) -> None:
        self._ground, self._holds = ground, holds or ground
        self._cache = cache or SpriteCache()
        self.mattes = Mattes(self._holds)
        self._pool, self._bands = pool, bands if pool else 1

    def render(self, document: Document, draws: Draws, size: tuple[int, int] | None = None, draft=False) -> Planes:
        """The frame as planes. `size` (w, h), even, has the project's shape; None is the project's own size."""
        project = document.project
        size = size or (project.width, project.height)
        scale = size[0] / project.width
        planes = self._ground_planes(document, draws, size, scale, draft)
        placed = []
        for layer in draws.layers:
            sprite = self.sprite(document, layer.sprite, size, scale, draft)
            if sprite is not None:
                matrix = np.array(layer.matrix).reshape(3, 3)
                matrix[:2, 2] *= scale
                placed.append(Placed(sprite, matrix, layer.opacity))
        draw(planes, placed, self._bands, self._pool)
        return planes

    def sprite(self, document: Document, spec: SpriteSpec, size, scale: float, draft: bool) -> Sprite | None:
        """The sprite of a spec, from the cache if it is there."""
        key = (repr(spec), size, draft, document.project.background)
        return self._cache.get(key, lambda: make_sprite(spec, document, self._holds, self.mattes, size, scale, draft))

    def _ground_planes(self, document, draws: Draws, size, scale: float, draft: bool) -> Planes:
        if draws.ground is None:
            y, u, v = colour_planes(draws.background)
            half = size[1] // 2, size[0] // 2
            return Planes(np.full(size[::-1], y, np.uint8), np.full(half, u, np.uint8), np.full(half, v, np.uint8))
        shot = document.shots[draws.ground.shot]
        if draws.ground.plate is not None:
            held = self._ground.plate_at_size(draws.ground.plate, size, draws.ground.fit, draws.background)
        else:
            held = self._ground.at_size(shot, draws.ground.frame, size, draws.ground.fit, draws.background, draft)
        planes = held.copy() if draws.layers or draws.ground.finishes else held
        for finish in draws.ground.finishes:
            kind, settings = ground_finish(finish)
            planes = kind.apply(planes, settings, scale)
        return planes
