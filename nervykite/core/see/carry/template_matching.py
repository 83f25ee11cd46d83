"""Likeness: a subject as one frame shows it, found again in others by drawing it there and comparing."""

from dataclasses import dataclass

import cv2
import numpy as np
from numba import njit, prange

from ..scene.rigid_motion import moved_to, whole_motion
from .fields import Part, displacement, taken


@dataclass(frozen=True)
class LikenessSettings:
    """The settings by which the subject of a fixed frame is drawn into another, and when that counts."""

    smooth: float = 5.0
    """The distance, in working pixels, over which what bends bends alike."""
    rigid: float = 0.05
    """The part of the subject, 0…1, that must be seen nearby for that."""
    like: float = 6.0
    """The difference of the drawn subject from the frame, in levels, up to which it surely is there."""
    unlike: float = 22.0
    """The difference of the drawn subject from the frame, in levels, from which on it surely is not."""
    fits: tuple[float, float] = (0.55, 0.65)
    """The shares of all of its outline, 0…1, from which on a likeness counts, and counts fully."""
    fits_here: tuple[float, float] = (0.35, 0.55)
    """The shares of its outline nearby, 0…1, from which on a likeness counts, and counts fully."""
    bent: float = 0.3
    """Up to which roughness a likeness may bend: a subject that must be torn to be found looks different by now."""
    nearby: float = 10.0
    """How far, in working pixels, nearby is."""
    turn: float = 0.1
    """How much the subject may turn and grow at most beside what its motion says."""
    coarse: int = 4
    """How many working pixels are taken together where a likeness is judged."""
    latest: float = 0.3
    """How much the latest frame counts in how well a likeness fits."""


class Likeness:
    """A subject, uint8 RGB (h, w, 3), and its matte, float32 (h, w), 0…1, at one frame of a shot.

    From frame to frame the subject is drawn, as it was, over the scene as it is known; what then still moves between
    the drawing and the frame is the subject bending (DIS flow, Kroeger et al. 2016). The scene is the same in both,
    so that it cannot pull at thin limbs; and as the subject is always the first frame's, nothing adds up on the way.
    """

    def __init__(self, rgb: np.ndarray, matte: np.ndarray, settings: LikenessSettings = LikenessSettings()) -> None:
        self._settings = settings
        self._rgb, self._grey, self._matte = rgb, cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY), matte
        self._whole = np.eye(3)
        self._bends = np.zeros((*matte.shape, 2), np.float32)
        self._fit: float | None = None
        self._flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_FAST)

    def copy(self) -> "Likeness":
        """One that goes its own way from here."""
        other = Likeness(self._rgb, self._matte, self._settings)
        other._whole, other._bends, other._fit = self._whole, self._bends.copy(), self._fit
        return other

    def found(
        self, step: np.ndarray | None, rgb: np.ndarray, part: Part, scene: np.ndarray, seen: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray]:
        """The matte in a part (h, w) of the next frame, float32, 0…1, and how much it is to be trusted, 0…1.

        step: the subject's affine motion (2, 3) since the last frame, if known; rgb: the part itself; scene, seen: what
        is known to be behind it, uint8 (h, w, 3), and where, float32 (h, w).
        """
        rgb = np.ascontiguousarray(rgb)
        now, known = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY), seen > 0.5
        if step is not None:
            self._go(step)
        matte, then = self._at(self._field(part), part)
        light = _light(now, then, matte > 0.9)
        light_behind = _light(now, cv2.cvtColor(scene, cv2.COLOR_RGB2GRAY), known & (matte < 0.02))
        behind = cv2.copyTo(cv2.convertScaleAbs(scene, None, light_behind), known.astype(np.uint8), rgb.copy())

        self._bends[part] = self._bent(now, cv2.cvtColor(behind, cv2.COLOR_RGB2GRAY), matte, then, light, part)
        field = self._field(part)
        matte, then = taken((self._matte, self._rgb), field, part)
        apart = cv2.GaussianBlur(_apart(rgb, matte, then, light, behind), (0, 0), 1.5)
        alike = np.clip((self._settings.unlike - apart) / (self._settings.unlike - self._settings.like), 0, 1)
        return matte, self._trusted(alike * self._was_seen(field, part), matte, self._bends[part])

    def _bent(self, now, behind, matte, then, light: float, part: Part) -> np.ndarray:
        """Brings the subject as a piece to where it is in a part, and answers how it bends there: float32 (h, w, 2).

        now, behind: the part and what is behind the subject, grey; matte, then: as the subject came along so far.
        """
        left = whole_motion(_drawn(matte, then, light, behind), now, (matte > 0.6).astype(np.uint8))
        if left is not None and np.abs(left[:, :2] - np.eye(2)).max() < self._settings.turn:
            self._go(moved_to(left, (part[1].start, part[0].start)))
        field = self._field(part)
        matte, then = self._at(field, part)
        moved = self._moved(field, now, _drawn(matte, then, light, behind))
        matte, then = self._at(moved, part)
        missed = cv2.blur(cv2.absdiff(now, cv2.convertScaleAbs(then, None, light)).astype(np.float32), (3, 3))
        weight = matte * np.clip(1.5 - missed / 12, 0.02, 1)
        return _evened(moved - displacement(np.linalg.inv(self._whole), part), weight, self._settings)

    def _go(self, motion: np.ndarray) -> None:
        """Takes the subject along by an affine motion (2, 3)."""
        self._whole = np.vstack([motion, [0, 0, 1]]) @ self._whole
        self._bends = cv2.warpAffine(self._bends, motion, self._matte.shape[::-1], borderMode=cv2.BORDER_REPLICATE)

    def _field(self, part: Part) -> np.ndarray:
        """The displacement of each pixel of a part from its own in the first frame: float32 (h, w, 2)."""
        return displacement(np.linalg.inv(self._whole), part) + self._bends[part]

    def _at(self, field: np.ndarray, part: Part) -> list[np.ndarray]:
        """The matte and the subject, grey, as a field finds them."""
        return taken((self._matte, self._grey), field, part)

    def _moved(self, field: np.ndarray, now: np.ndarray, drawing: np.ndarray) -> np.ndarray:
        """A field (h, w, 2), by which a drawing was made, and what moved since: how far each pixel is from its own."""
        since = self._flow.calc(now, drawing, None)  # type: ignore[call-overload]
        inside = slice(0, now.shape[0]), slice(0, now.shape[1])
        return since + np.dstack(taken(tuple(cv2.split(field)), since, inside))

    def _was_seen(self, field: np.ndarray, part: Part) -> np.ndarray:
        """The pixels of a part that lay within the first frame: bool (h, w)."""
        h, w = self._matte.shape
        x = np.arange(part[1].start, part[1].stop, dtype=np.float32)[None] + field[..., 0]
        y = np.arange(part[0].start, part[0].stop, dtype=np.float32)[:, None] + field[..., 1]
        return (x > 2) & (y > 2) & (x < w - 3) & (y < h - 3)

    def _trusted(self, alike: np.ndarray, matte: np.ndarray, bends: np.ndarray) -> np.ndarray:
        """The trust in each pixel of a matte: float32 (h, w), 0…1.

        Somebody who walks is drawn with legs where they were: then it differs in many places along the outline, and
        what does not may as well be chance.
        """
        set_ = self._settings
        size = max(1, matte.shape[1] // set_.coarse), max(1, matte.shape[0] // set_.coarse)
        matte, coarse, bends = (cv2.resize(v, size, interpolation=cv2.INTER_AREA) for v in (matte, alike, bends))
        edge = cv2.GaussianBlur(matte, (0, 0), 4 / set_.coarse)
        edge = 4 * edge * (1 - edge)
        length = max(1e-3, float(edge.sum()))
        fit = float((edge * coarse).sum()) / length
        self._fit = fit if self._fit is None else self._fit + set_.latest * (fit - self._fit)
        across, down = (cv2.Sobel(bends, cv2.CV_32F, *by, scale=1 / 8 / set_.coarse) for by in ((1, 0), (0, 1)))
        roughness = float((edge * (np.abs(across).max(2) + np.abs(down).max(2))).sum()) / length
        counts = _ramp(self._fit, *set_.fits) * min(1.0, max(0.0, 2 - roughness / set_.bent))
        if counts == 0:
            return np.zeros_like(alike)
        agreed, around = (cv2.GaussianBlur(v, (0, 0), set_.nearby / set_.coarse) for v in (edge * coarse, edge))
        fits_here = _ramp(agreed / (around + 1e-3), *set_.fits_here)
        near = cv2.resize(fits_here, alike.shape[::-1], interpolation=cv2.INTER_LINEAR)
        return alike * np.float32(counts) * near


def _evened(field: np.ndarray, weight: np.ndarray, settings: LikenessSettings) -> np.ndarray:
    """A field (h, w, 2) with each pixel's mean of what is nearby, by weights (h, w); nearer to 0 where they are few."""
    size = max(1, weight.shape[1] // 2), max(1, weight.shape[0] // 2)
    weighted, around = (
        cv2.GaussianBlur(cv2.resize(v, size, interpolation=cv2.INTER_AREA), (0, 0), settings.smooth / 2)
        for v in (field * weight[..., None], weight)
    )
    return cv2.resize(
        weighted / (around[..., None] + settings.rigid), weight.shape[::-1], interpolation=cv2.INTER_LINEAR
    )


def _ramp(value, low: float, high: float):
    return np.clip((value - low) / (high - low), 0, 1)


def _light(now: np.ndarray, then: np.ndarray, where: np.ndarray) -> float:
    """The light of a frame, uint8 grey (h, w), against another one of the same: as a factor near 1."""
    where = where[::2, ::2]
    if where.sum() < 50:
        return 1.0
    values, others = (v[::2, ::2][where].astype(np.float32) + 4 for v in (now, then))
    return float(np.clip(np.median(values / others), 0.8, 1.25))


@njit(parallel=True, cache=True, nogil=True)
def _draw(matte, then, light, behind, out):
    height, width = matte.shape
    for y in prange(height):
        for x in range(width):
            under = np.float32(behind[y, x])
            over = min(np.float32(255), then[y, x] * light)
            out[y, x] = np.uint8(under + matte[y, x] * (over - under) + np.float32(0.5))


def _drawn(matte, then, light: float, behind) -> np.ndarray:
    """A subject, uint8 (h, w), in a light, over what is behind it: uint8 (h, w)."""
    out = np.empty_like(then)
    _draw(matte, then, np.float32(light), behind, out)
    return out


@njit(parallel=True, cache=True, nogil=True)
def _differ(rgb, matte, then, light, behind, out):
    height, width, _ = rgb.shape
    for y in prange(height):
        for x in range(width):
            most = np.float32(0)
            for c in range(3):
                under = np.float32(behind[y, x, c])
                over = min(np.float32(255), then[y, x, c] * light)
                most = max(most, abs(under + matte[y, x] * (over - under) - rgb[y, x, c]))
            out[y, x] = most


def _apart(rgb, matte, then, light: float, behind) -> np.ndarray:
    """The difference of a frame from the subject drawn over what is behind it, uint8 (h, w, 3), in levels."""
    out = np.empty(matte.shape, np.float32)
    _differ(rgb, matte, then, np.float32(light), behind, out)
    return out
