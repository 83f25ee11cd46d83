"""Cut-out pictures before photographs of places, each with its true matte: what made-up scenes cannot teach.

Animals, things and people have heads, legs and wheels where one expects them, and photographs have their own light,
grain and blur. Any folders of pictures serve; README.md beside it says of what the shipped judge has learned.
None of them is part of the program.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from pathlib import Path

import cv2
import numpy as np

from .camera import filmed
from .noise import noise
from .scenes import LEAST, Scene

SUFFIXES = {".png", ".jpg", ".jpeg", ".webp"}
LARGE, THIN = 180, 40
"""The least of a cut-out's longer and shorter side, px."""
FILLS = (0.15, 0.93)
"""How much of its own rectangle a cut-out may fill: what fills all of it is a picture, not a cut-out."""
GLASS = 0.25
"""The most of it that may be seen through."""
COLOURS = 60
"""How many colours, of 16 levels a channel, make a photograph of a drawing."""
SIZES = (0.2, 0.95)
"""How tall cut-outs are set, in heights of the scene."""
TALL = 1200
"""Rows at which places are kept."""
EVEN = 0.4
"""The least mean change from pixel to pixel of a place in which something is seen."""
DRAWN, LONGEST = 0.7, 640
"""The share of drawings where there are any; the longer side at which they are kept, px."""
HELD_BACK = 3
"""The first of so many cut-outs and places is left for tests."""

Change = Callable[[np.ndarray], np.ndarray]
"""What becomes of an array, which keeps its shape."""


class Collection:
    """Cut-outs and places of some folders. Raises ValueError if there are none of either."""

    def __init__(
        self, cutouts: list[Path], places: list[Path], drawings: Sequence[Path] = (), *, tests: bool = False
    ) -> None:
        self.drawings = _share((_kept(c) for c in map(cutout_of, _pictures(drawings)) if c is not None), tests)
        self.cutouts = _share((c for c in map(cutout_of, _pictures(cutouts)) if c is not None), tests)
        self.places = _share((p for p in map(place_of, _pictures(places)) if p is not None), tests)
        if not self.cutouts or not self.places:
            raise ValueError("no cut-outs or no places in these folders")

    def scene(
        self,
        rng: np.random.Generator,
        height: int,
        width: int,
        furred: Change = lambda alpha: alpha,
        moved: Change = lambda subject: subject,
        power: float = 1.0,
    ) -> Scene | None:
        """One of the cut-outs before one of the places; None if it came out too small.

        furred, moved: what becomes of its matte (h, w), and of its colours, premultiplied, and matte (h, w, 4), both
        float32 0…1. Colours to that power are mixed: 1, or 2.2 for light.
        """
        ground = _part_of(rng, self.places[rng.integers(len(self.places))], height, width)
        for _ in range(rng.integers(0, 3) if rng.random() < 0.35 else 0):  # others, who are not meant
            other, alpha = self._set(rng, ground)
            ground = ground * (1 - alpha[..., None]) + other * alpha[..., None]
        colours, alpha = self._set(rng, ground)
        if (alpha > 0.5).mean() < LEAST:
            return None
        alpha = furred(alpha)
        empty = ground
        if rng.random() < 0.3:
            down, soft = (int(rng.uniform(0, 0.04) * height), rng.uniform(0.004, 0.03) * height)
            shadow = cv2.GaussianBlur(np.roll(alpha, down, 0), (0, 0), soft)
            ground = ground * (1 - rng.uniform(0.1, 0.45) * shadow)[..., None]
        bright, behind = ((np.clip(v, 0, 255) / 255) ** power for v in (colours, ground))
        subject = moved(np.dstack([bright * alpha[..., None], alpha]).astype(np.float32))
        alpha = np.clip(subject[..., 3], 0, 1)
        light = behind * (1 - alpha[..., None]) + subject[..., :3]
        clear = (255 * np.clip(light, 0, 1) ** (1 / power)).astype(np.float32)
        return Scene(filmed(rng, clear), alpha, filmed(rng.spawn(1)[0], empty))

    def _set(self, rng: np.random.Generator, ground: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """One of the cut-outs somewhere in a place, float32 RGB: its colours and its matte."""
        height, width = ground.shape[:2]
        cut = self._one(rng)
        if rng.random() < 0.5:
            cut = cut[:, ::-1]
        stands = (cut[-1, :, 3] > 128).mean() > 0.2  # half a figure, which the frame's edge has to cut
        alpha = cut[..., 3:] / 255
        cut = np.dstack([cut[..., :3] * alpha, alpha])
        size = min(height * rng.uniform(*SIZES) / cut.shape[0], width * rng.uniform(0.5, 1.1) / cut.shape[1])
        turn = cv2.getRotationMatrix2D((cut.shape[1] / 2, cut.shape[0] / 2), rng.normal(0, 6), size)
        tall, wide = cut.shape[0] * size, cut.shape[1] * size
        down = height - tall * rng.uniform(0.85, 1) if stands else rng.uniform(0, max(1.0, height - tall))
        right = rng.uniform(-0.1 * wide, max(1.0, width - 0.9 * wide))
        turn[:, 2] += (right + wide / 2 - cut.shape[1] / 2, down + tall / 2 - cut.shape[0] / 2)
        # No pixel of a large picture is left out.
        soft = cv2.GaussianBlur(cut, (0, 0), 0.45 / size) if size < 1 else cut
        set_down = cv2.warpAffine(soft, turn, (width, height), flags=cv2.INTER_LINEAR)
        alpha = np.clip(set_down[..., 3], 0, 1)
        colours = set_down[..., :3] / np.maximum(alpha, 1e-3)[..., None]
        return _dressed(rng, colours, alpha, ground), alpha

    def _one(self, rng: np.random.Generator) -> np.ndarray:
        """One of the cut-outs, as it is, or a drawing in some light: float32 RGBA, 0…255."""
        if self.drawings and rng.random() < DRAWN:
            return shaded(rng, self.drawings[rng.integers(len(self.drawings))])
        return self.cutouts[rng.integers(len(self.cutouts))].astype(np.float32)


def shaded(rng: np.random.Generator, drawing: np.ndarray) -> np.ndarray:
    """A drawing uint8 RGBA, whose colours are even, in light that is not, of some material: float32 RGBA, 0…255."""
    h, w = drawing.shape[:2]
    half = max(32, h // 2), max(32, w // 2)

    def over_it(values: np.ndarray) -> np.ndarray:
        return cv2.resize(values.astype(np.float32), (w, h))[..., None]

    light = over_it(noise(rng, *half, 0, 3)) * rng.uniform(0, 0.3)
    grain = over_it(noise(rng, *half, 3, 8, rng.uniform(0.1, 0.8))) * rng.uniform(0, 22)
    result = drawing.astype(np.float32)
    if rng.random() < 0.5:
        result[..., :3] = cv2.GaussianBlur(result[..., :3], (0, 0), rng.uniform(0.5, 2.5))
    result[..., :3] = np.clip(result[..., :3] * (1 + light) + grain, 0, 255)
    return result


def cutout_of(file: Path) -> np.ndarray | None:
    """A photographed or painted cut-out, uint8 RGBA without empty margins; None if the file is something else."""
    picture = cv2.imread(str(file), cv2.IMREAD_UNCHANGED)
    if picture is None or picture.dtype != np.uint8 or picture.ndim != 3 or picture.shape[2] != 4:
        return None
    rows, columns = np.nonzero(picture[..., 3] > 8)
    if not len(rows):
        return None
    picture = picture[rows.min() : rows.max() + 1, columns.min() : columns.max() + 1]
    alpha = picture[..., 3]
    solid, seen_through = alpha > 250, (alpha > 30) & (alpha < 225)
    if max(alpha.shape) < LARGE or min(alpha.shape) < THIN or not FILLS[0] <= solid.mean() <= FILLS[1]:
        return None
    if seen_through.mean() > GLASS * (alpha > 128).mean() or _colours(picture[solid][:, :3]) < COLOURS:
        return None
    return cv2.cvtColor(picture, cv2.COLOR_BGRA2RGBA)


def place_of(file: Path) -> np.ndarray | None:
    """A place, uint8 RGB; None if there is nothing to see in the file."""
    picture = cv2.imread(str(file), cv2.IMREAD_COLOR)
    if picture is None or min(picture.shape[:2]) < 300:
        return None
    by = min(1.0, TALL / picture.shape[0])
    picture = cv2.resize(picture, None, fx=by, fy=by, interpolation=cv2.INTER_AREA)
    grey = cv2.GaussianBlur(cv2.cvtColor(picture, cv2.COLOR_BGR2GRAY), (0, 0), 1)
    if np.abs(cv2.Laplacian(grey, cv2.CV_32F)).mean() < EVEN or _colours(picture.reshape(-1, 3)) < COLOURS:
        return None
    return cv2.cvtColor(picture, cv2.COLOR_BGR2RGB)


def _dressed(rng: np.random.Generator, colours: np.ndarray, alpha: np.ndarray, ground: np.ndarray) -> np.ndarray:
    """A subject's colours in other light, and sometimes nearly those of the place around it."""
    inside = alpha > 0.5
    if rng.random() < 0.4 and inside.any():
        near = (cv2.dilate(alpha, np.ones((41, 41))) > 0.1) & ~inside
        if near.any():
            mean, spread = ground[near].mean(0), ground[near].std(0).mean()
            own, own_spread = colours[inside].mean(0), colours[inside].std(0).mean()
            share = rng.uniform(0.3, 1)
            alike = (colours - own) * np.clip(spread / (own_spread + 1), 0.6, 1.6) + mean
            colours = colours * (1 - share) + alike * share
    if rng.random() < 0.3:
        grey = colours.mean(-1, keepdims=True)
        colours = grey + (colours - grey) * rng.uniform(0, 1.3)
    return np.clip(colours * rng.uniform(0.75, 1.15) * rng.uniform(0.92, 1.08, 3), 0, 255)


def _part_of(rng: np.random.Generator, place: np.ndarray, height: int, width: int) -> np.ndarray:
    """A part of a place, sometimes out of focus: float32 RGB (height, width, 3)."""
    by = max(height / place.shape[0], width / place.shape[1]) * rng.uniform(1, 1.8)
    rows, columns = min(place.shape[0], int(height / by)), min(place.shape[1], int(width / by))
    top, left = rng.integers(0, place.shape[0] - rows + 1), rng.integers(0, place.shape[1] - columns + 1)
    part = place[top : top + rows, left : left + columns]
    if rng.random() < 0.5:
        part = part[:, ::-1]
    how = cv2.INTER_AREA if by < 1 else cv2.INTER_CUBIC
    part = cv2.resize(np.ascontiguousarray(part), (width, height), interpolation=how).astype(np.float32)
    return cv2.GaussianBlur(part, (0, 0), rng.uniform(0.7, 5)) if rng.random() < 0.35 else part


def _kept(cutout: np.ndarray) -> np.ndarray:
    """A cut-out, uint8 RGBA, no longer than LONGEST."""
    by = LONGEST / max(cutout.shape[:2])
    if by >= 1:
        return cutout
    alpha = cutout[..., 3:].astype(np.float32)
    small = cv2.resize(np.dstack([cutout[..., :3] * alpha, alpha]), None, fx=by, fy=by, interpolation=cv2.INTER_AREA)
    colours = small[..., :3] / np.maximum(small[..., 3:], 1e-3)
    return np.clip(np.round(np.dstack([colours, small[..., 3]])), 0, 255).astype(np.uint8)


def _pictures(folders: Iterable[Path]) -> Iterator[Path]:
    for folder in folders:
        yield from sorted(file for file in folder.rglob("*") if file.suffix.lower() in SUFFIXES)


def _share(pictures: Iterator[np.ndarray], tests: bool) -> list[np.ndarray]:
    """Those that are learned from, or those that are left for tests."""
    return [picture for number, picture in enumerate(pictures) if (number % HELD_BACK == 0) == tests]


def _colours(pixels: np.ndarray) -> int:
    return len(np.unique((pixels // 16) @ np.array([1, 16, 256])))
