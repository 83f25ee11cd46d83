"""A camera followed: where each frame of a take lies on one of them.

Each frame is warped by what is guessed and followed directly from a key frame, the held one as long as enough of it is
in sight: so errors do not add up (as in registration by inverse composition, Baker and Matthews 2004). Corners (Shi and
Tomasi 1994) are followed there and back by pyramids (Lucas and Kanade; Bouguet 2001); which of several motions is the
camera's is settled as for mattes (`track.align`), and its map refined by weighted least squares (`fit`).
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

import cv2
import numpy as np
from scipy.optimize import minimize_scalar

from ...common.errors import Refusal
from ...piece.model.track import DOUBTFUL
from .align import homography
from .fit import MODELS, Lens, Model, corners_of, fitted, from_corners, nearest, through

Grey = Callable[[int], np.ndarray]
"""A frame by its number: uint8 (h, w), all of one size."""


@dataclass(frozen=True)
class CameraTrackSettings:
    """The settings by which a camera is followed. Lengths are pixels of the frames that are given.

    corners: how many are followed at most; apart: how far from each other, in parts of the frame's shorter side;
    quality: how strong one is compared with the strongest; window, levels: of the pyramids; there_and_back: how far
    from where it began a corner may come back to; near: how far from the camera's motion one may be to be weighed at
    all; fewest: corners without which a frame is lost; in_sight: the share of a key frame's corners that has to be in
    sight to follow from it; kept: once fewer than that share are followed another key frame is needed; softer: how
    much better a softer model has to fit, in pixels, to be preferred; calm: how far corners are off where nothing is
    doubtful, and wild: where all is; smooth: how much grain is smoothed away; around: how far about a
    touched place corners count, in parts of the frame's shorter side; cells, spread, enough: into how many
    cells a side is parted to see how far corners reach, what share of them, and how many corners, are as good as all;
    before: which frames back are compared to see what goes its own way; differs: by how many levels that differs, and
    thin: what is narrower does not.
    """

    corners: int = 420
    apart: float = 1 / 50
    quality: float = 0.006
    window: int = 23
    levels: int = 3
    there_and_back: float = 0.35
    near: float = 2.0
    fewest: int = 14
    in_sight: float = 0.25
    kept: float = 0.4
    softer: float = 0.03
    calm: float = 0.4
    wild: float = 1.6
    smooth: float = 1.6
    around: float = 0.2
    cells: int = 8
    spread: float = 0.3
    enough: int = 60
    before: tuple[int, ...] = (2, 5)
    differs: float = 9.0
    thin: int = 9


@dataclass(frozen=True)
class Followed:
    """Where a frame lies on the held one: pixels to pixels, (3, 3), and how much that is to be trusted, 0…1."""

    matrix: np.ndarray
    confidence: float


@dataclass(frozen=True)
class CameraPath:
    """The path of a camera over the frames from `first` on, seen from frame `ref`, by maps of a model."""

    ref: int
    first: int
    model: Model
    frames: tuple[Followed, ...]


@dataclass
class _Key:
    number: int
    picture: np.ndarray
    points: np.ndarray
    to_ref: np.ndarray


@dataclass
class _Seen:
    """The sight of a key frame in another: where its corners are, how much each counts, and the map to them."""

    key: _Key
    points: np.ndarray
    there: np.ndarray
    weights: np.ndarray
    off: np.ndarray
    matrix: np.ndarray = field(default_factory=lambda: np.eye(3))

    @property
    def rms(self) -> float:
        total = max(float(self.weights.sum()), 1e-9)
        return float(np.sqrt((self.weights * self.off**2).sum() / total))


def follow(
    grey: Grey,
    numbers: range,
    ref: int,
    subject: np.ndarray | None = None,
    model: Model | None = None,
    touched: tuple[float, float] | None = None,
    settings: CameraTrackSettings | None = None,
    progress: Callable[[float], None] = lambda share: None,
) -> CameraPath:
    """The way of the camera over some frames in order, seen from one of them.

    subject: where something in frame `ref` goes its own way, bool (h, w)
    model: what maps are made of, None to have that chosen
    touched: a place in frame `ref` that is to be stuck to, where not all of the scene moves alike
    progress: is told the share done, 0…1
    Raises Refusal if there is nothing to follow.
    """
    follower = _Follower(grey, numbers, ref, subject, touched, settings or CameraTrackSettings())
    return follower.way(model, progress)


class _Follower:
    def __init__(
        self, grey: Grey, numbers: range, ref: int, subject: np.ndarray | None, touched: tuple[float, float] | None,
        settings: CameraTrackSettings,
    ) -> None:  # fmt: skip
        self._grey, self._numbers, self._ref, self._s = grey, numbers, ref, settings
        self._touched: np.ndarray | None = None
        self._to_touch = None if touched is None else np.array([touched], float)
        first = self._picture(ref)
        self._size = first.shape[1], first.shape[0]
        points = self._corners(first, subject)
        if len(points) < settings.fewest:
            raise Refusal("There is nothing in that frame that could be followed. Choose one that shows more.")
        self._root = _Key(ref, first, points, np.eye(3))
        self._model: Model = "homography"
        self._lens: Lens | None = None
        self._begin()

    def _begin(self) -> None:
        """Nothing is followed yet but the held frame."""
        self._seen: dict[int, _Seen] = {}
        self._to_ref: dict[int, np.ndarray] = {self._ref: np.eye(3)}
        self._lost: set[int] = set()
        self._drifts: list[tuple[int, int, np.ndarray]] = []

    def way(self, model: Model | None, progress: Callable[[float], None]) -> CameraPath:
        """Follows it both ways, chooses a model, and follows it again by that."""
        self._both_ways(lambda share: progress(share / 2))
        others = [n for n in self._numbers if n != self._ref]
        if others and len(self._lost) > 0.6 * len(others):
            raise Refusal(
                "Nothing in this shot can be followed well enough: it is too plain, or too little of it stays."
            )
        self._model = model or self._chosen()
        if self._model == "turn" and self._lens is None:
            self._lens = self._sharpest()
        if self._to_touch is not None and model is None and self._model == "homography":
            # Corners of a small part say little of how the whole leans.
            self._model, self._lens = "turn", self._lens or self._sharpest()
        if self._model != "homography" or self._to_touch is not None:
            self._touched = self._to_touch
            self._begin()
            self._both_ways(lambda share: progress(0.5 + share / 2))
        for before, past, corners in self._drifts:
            self._undrift(before, past, corners)
        self._bridge()
        frames = [Followed(self._to_ref[n] / self._to_ref[n][2, 2], self._confidence(n)) for n in self._numbers]
        return CameraPath(self._ref, self._numbers.start, self._model, tuple(frames))

    def _both_ways(self, progress: Callable[[float], None]) -> None:
        done = 0
        for order in (range(self._ref + 1, self._numbers.stop), range(self._ref - 1, self._numbers.start - 1, -1)):
            for _ in self._along(order):
                done += 1
                progress(done / max(1, len(self._numbers)))

    def _picture(self, number: int) -> np.ndarray:
        return cv2.GaussianBlur(self._grey(number), (0, 0), self._s.smooth)

    def _corners(self, picture: np.ndarray, without: np.ndarray | None) -> np.ndarray:
        """Corners of a picture, none of them on what goes its own way: float64 (n, 2)."""
        mask = np.full(picture.shape, 255, np.uint8)
        side = 2 * self._s.window + 1
        if without is not None and without.any():
            mask[cv2.dilate(without.astype(np.uint8), np.ones((side, side), np.uint8)) > 0] = 0
        rim = self._s.window // 2
        mask[:rim], mask[-rim:], mask[:, :rim], mask[:, -rim:] = 0, 0, 0, 0
        apart = max(3.0, min(picture.shape) * self._s.apart)
        found = cv2.goodFeaturesToTrack(picture, self._s.corners, self._s.quality, apart, mask=mask, blockSize=5)
        return np.zeros((0, 2)) if found is None else found.reshape(-1, 2).astype(float)

    def _along(self, order: range) -> Iterator[int]:
        """Follows the camera frame by frame away from the held one; tells each that is done."""
        keys, through_root = [self._root], self._ref
        for number in order:
            picture = self._picture(number)
            guess = self._to_ref[number - order.step]
            seen = self._sighted(keys, picture, guess)
            if seen is None:
                self._lost.add(number)
                self._to_ref[number] = guess
                yield number
                continue
            if seen.key is self._root:
                if through_root != number - order.step and len(keys) > 1:
                    self._closed(keys, picture, guess, seen, through_root, number)
                through_root = number
            self._seen[number] = seen
            known = seen.key.to_ref @ np.linalg.inv(seen.matrix)
            self._to_ref[number] = known / known[2, 2]
            if (seen.weights > 0.3).sum() < self._s.kept * len(seen.key.points):
                key = self._new_key(number, picture, seen, order.step)
                if key is not None:
                    keys = [self._root, *keys[1:][-2:], key]
            yield number

    def _sighted(self, keys: list[_Key], picture: np.ndarray, guess: np.ndarray) -> _Seen | None:
        """A picture seen from the first key frame of which enough is in sight: the held one, then the newest."""
        for key in [keys[0], *reversed(keys[1:])]:
            from_key = np.linalg.inv(guess) @ key.to_ref
            if self._inside(through(from_key, key.points)).mean() < self._s.in_sight:
                continue
            seen = self._look(key, picture, from_key)
            if seen is not None and (seen.weights > 0.3).sum() >= max(self._s.fewest, 0.12 * len(key.points)):
                return seen
        return None

    def _inside(self, points: np.ndarray) -> np.ndarray:
        w, h = self._size
        x, y = points.T
        return (x > 2) & (y > 2) & (x < w - 3) & (y < h - 3)

    def _look(self, key: _Key, picture: np.ndarray, guess: np.ndarray) -> _Seen | None:
        """The sight of a key frame in a picture, given a map from the one to the other near the truth."""
        s, matrix = self._s, guess / guess[2, 2]
        for levels in (s.levels, 0):
            inside = self._inside(through(matrix, key.points))
            points = key.points[inside]
            if len(points) < s.fewest:
                return None
            flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
            warped = cv2.warpPerspective(picture, matrix, self._size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
            there, good = self._flow(key.picture, warped, points, levels)
            points, there = points[good], there[good]
            if len(points) < s.fewest:
                return None
            rough = np.eye(3)
            if levels:
                found = self._of_the_touched(key, points, there)
                if found is None:
                    found = self._of_the_camera(points, there)
                if found is None:
                    return None
                rough = found
            near = np.linalg.norm(there - through(rough, points), axis=1) < s.near
            if near.sum() < s.fewest:
                return None
            # About what is known already the rest is small enough to be linear.
            weights = self._weights(key, points[near])
            fit = fitted(through(rough, points[near]), there[near], self._model, weights, lens=self._lens)
            if fit is None:
                return None
            left, weights, off = fit
            there = through(matrix, there)
            matrix = nearest(matrix @ left @ rough, self._size, self._model, self._lens)
            if not self._plausible(matrix):
                return None
            seen = _Seen(key, points[near], there[near], weights, off, matrix)
        return seen

    def _weights(self, key: _Key, points: np.ndarray) -> np.ndarray | None:
        """The weights of corners of a key frame, (n,): where a place was touched, those around it above all."""
        if self._touched is None:
            return None
        place = through(np.linalg.inv(key.to_ref), self._touched)
        far = np.linalg.norm(points - place, axis=1) / (self._s.around * min(self._size))
        return np.exp(-0.5 * np.minimum(far, 4) ** 2) + 1e-3

    def _of_the_touched(self, key: _Key, points: np.ndarray, there: np.ndarray) -> np.ndarray | None:
        """The motion of what was touched; None if nothing was, or too little of that is in sight."""
        weights = self._weights(key, points)
        some = weights > 0.3 if weights is not None else np.zeros(len(points), bool)
        if some.sum() < 8:
            return None
        found, kept = cv2.estimateAffinePartial2D(
            points[some], there[some], method=cv2.RANSAC, ransacReprojThreshold=1.0
        )
        return None if found is None or kept.sum() < 6 else np.vstack([found, [0, 0, 1]])

    def _of_the_camera(self, points: np.ndarray, there: np.ndarray) -> np.ndarray | None:
        """The motion that is the camera's, of those that many corners share."""
        before, after = (a.reshape(-1, 1, 2).astype(np.float32) for a in (points, there))
        return homography(before, after, (self._size[1], self._size[0]))

    def _flow(
        self, one: np.ndarray, other: np.ndarray, points: np.ndarray, levels: int
    ) -> tuple[np.ndarray, np.ndarray]:
        """Where points of one picture are in another, and which of them come back to where they began."""
        s = self._s
        size, ends = (s.window, s.window), (cv2.TERM_CRITERIA_COUNT + cv2.TERM_CRITERIA_EPS, 24, 0.005)
        given = points.reshape(-1, 1, 2).astype(np.float32)
        nowhere = np.empty(0, np.float32)
        there, seen, _ = cv2.calcOpticalFlowPyrLK(
            one, other, given, nowhere, winSize=size, maxLevel=levels, criteria=ends
        )
        back, seen_back, _ = cv2.calcOpticalFlowPyrLK(
            other, one, there, given.copy(), winSize=size, maxLevel=levels, criteria=ends,
            flags=cv2.OPTFLOW_USE_INITIAL_FLOW,
        )  # fmt: skip
        good = (seen.ravel() > 0) & (seen_back.ravel() > 0)
        good &= np.linalg.norm(back - given, axis=2).ravel() < s.there_and_back
        return there.reshape(-1, 2).astype(float), good

    def _plausible(self, matrix: np.ndarray) -> bool:
        moved = through(matrix, corners_of(self._size))
        if not np.isfinite(moved).all():
            return False
        area = abs(cv2.contourArea(moved.astype(np.float32))) / (self._size[0] * self._size[1])
        return 0.15 < area < 7

    def _new_key(self, number: int, picture: np.ndarray, seen: _Seen, step: int) -> _Key | None:
        """A key frame more: corners of the picture, but not on what goes its own way."""
        points = self._corners(picture, self._own_way(number, picture, step))
        return _Key(number, picture, points, self._to_ref[number]) if len(points) >= self._s.fewest else None

    def _own_way(self, number: int, picture: np.ndarray, step: int) -> np.ndarray:
        """Where a frame differs from those before it as they lie on it: bool (h, w)."""
        s, own = self._s, np.zeros(picture.shape, np.float32)
        smooth = cv2.GaussianBlur(picture.astype(np.float32), (0, 0), 2)
        steep = cv2.magnitude(cv2.Sobel(smooth, cv2.CV_32F, 1, 0) / 8, cv2.Sobel(smooth, cv2.CV_32F, 0, 1) / 8)
        for back in s.before:
            other = number - step * back
            if other not in self._to_ref or other in self._lost:
                continue
            onto = np.linalg.inv(self._to_ref[number]) @ self._to_ref[other]
            seen = cv2.warpPerspective(self._picture(other), onto, self._size, borderValue=0)
            there = cv2.warpPerspective(np.ones(picture.shape, np.uint8), onto, self._size)
            off = np.abs(cv2.GaussianBlur(seen.astype(np.float32), (0, 0), 2) - smooth)
            # An edge is off by as much as it is steep where the frames lie half a pixel beside each other.
            own = np.maximum(own, np.where(there > 0, off - 0.5 * steep, 0))
        told = (own > max(s.differs, 4 * float(np.median(own)))).astype(np.uint8)
        # What is nearer than most of the scene differs along its edges only; within what moves there are places that
        # happen to look alike.
        broad = cv2.morphologyEx(told, cv2.MORPH_OPEN, np.ones((s.thin, s.thin), np.uint8))
        return cv2.morphologyEx(broad, cv2.MORPH_CLOSE, np.ones((41, 41), np.uint8)) > 0

    def _closed(
        self, keys: list[_Key], picture: np.ndarray, guess: np.ndarray, seen: _Seen, since: int, number: int
    ) -> None:
        """The held frame is in sight again: how far what was found over others has drifted until now."""
        before = self._sighted([keys[-1]], picture, guess)
        if before is None:
            return
        corners = corners_of(self._size)
        chained = through(before.key.to_ref @ np.linalg.inv(before.matrix), corners)
        self._drifts.append((since, number, through(np.linalg.inv(seen.matrix), corners) - chained))

    def _undrift(self, first: int, past: int, drift: np.ndarray) -> None:
        """Shares a drift out over the frames between two that were seen from the held one."""
        corners, step = corners_of(self._size), 1 if past > first else -1
        for number in range(first + step, past, step):
            share = (number - first) / (past - first)
            there = through(self._to_ref[number], corners) + share * drift
            self._to_ref[number] = nearest(from_corners(corners, there), self._size, self._model, self._lens)

    def _some(self) -> list[_Seen]:
        """Some of what was seen, here and there."""
        some = list(self._seen.values())
        return some[:: max(1, len(some) // 24)]

    def _sharpest(self) -> Lens:
        """The lens by which a camera that only turns and zooms would explain most of what was seen."""
        middle = self._size[0] / 2, self._size[1] / 2
        lenses = [Lens(middle, float(f)) for f in max(self._size) * np.geomspace(0.5, 4.0, 10)]

        def off(lens: Lens) -> float:
            found = [r for seen in self._some()[::3] if (r := self._rms(seen, "turn", lens)) is not None]
            return float(np.median(found)) if found else np.inf

        offs = [off(lens) for lens in lenses]
        best = int(np.argmin(offs))
        low, high = (lenses[min(max(best + side, 0), len(lenses) - 1)].focal for side in (-1, 1))
        finer = minimize_scalar(
            lambda f: off(Lens(middle, float(f))), bounds=(low, high), method="bounded", options={"maxiter": 12}
        )
        return Lens(middle, float(finer.x)) if finer.fun < offs[best] else lenses[best]

    def _chosen(self) -> Model:
        """The stiffest model that tells from one side of the picture what the other does as well as any other."""
        told: dict[Model, float] = {}
        for model in ("similarity", "affine", "homography"):
            told[model] = self._foretold(model)
        if told["similarity"] > self._good(told):
            self._lens = self._sharpest()
            told["turn"] = self._foretold("turn")
        return next((m for m in MODELS if m in told and told[m] <= self._good(told)), "homography")

    def _good(self, told: dict[Model, float]) -> float:
        """The residual that is as good as the best."""
        return 1.08 * min(told.values()) + self._s.softer

    def _foretold(self, model: Model) -> float:
        found = [r for seen in self._some() if (r := self._foretells(seen, model)) is not None]
        return float(np.median(found)) if found else np.inf

    def _foretells(self, seen: _Seen, model: Model) -> float | None:
        """The error over one half of a key frame's corners of a map that was made of the other half, in pixels."""
        start, wide = nearest(seen.matrix, self._size, model, self._lens), np.ptp(seen.points, axis=0)
        along = seen.points[:, int(wide[1] > wide[0])]
        one = along < np.median(along)
        off = []
        for made, told in ((one, ~one), (~one, one)):
            fit = fitted(
                through(start, seen.points[made]), seen.there[made], model, seen.weights[made], lens=self._lens
            )
            if fit is not None:
                far = np.linalg.norm(through(fit[0] @ start, seen.points[told]) - seen.there[told], axis=1)
                off.append(float(np.average(far, weights=seen.weights[told] + 1e-9)))
        return min(off) if off else None

    def _rms(self, seen: _Seen, model: Model, lens: Lens | None) -> float | None:
        """The error of a map of a model where corners of a key frame are, at its best."""
        start = nearest(seen.matrix, self._size, model, lens)
        fit = fitted(through(start, seen.points), seen.there, model, seen.weights, lens=lens)
        if fit is None:
            return None
        off = np.linalg.norm(through(fit[0] @ start, seen.points) - seen.there, axis=1)
        total = max(float(seen.weights.sum()), 1e-9)
        return float(np.sqrt((seen.weights * off**2).sum() / total))

    def _bridge(self) -> None:
        """Frames in which the camera was lost go evenly from the one before to the one after."""
        corners = corners_of(self._size)
        good = [n for n in self._numbers if n not in self._lost]
        for number in sorted(self._lost):
            before = max((n for n in good if n < number), default=None)
            after = min((n for n in good if n > number), default=None)
            if before is None or after is None:
                self._to_ref[number] = self._to_ref[after if before is None else before]  # type: ignore[index]
                continue
            share = (number - before) / (after - before)
            ends = (through(self._to_ref[n], corners) for n in (before, after))
            a, b = ends
            self._to_ref[number] = from_corners(corners, (1 - share) * a + share * b)

    def _confidence(self, number: int) -> float:
        """The confidence in a frame: by how many corners, how far they are spread, how well they agree."""
        if number == self._ref:
            return 1.0
        seen, s = self._seen.get(number), self._s
        if seen is None or number in self._lost:
            return 0.0
        counted = seen.points[seen.weights > 0.3]
        w, h = self._size
        cells = {(int(s.cells * x / w), int(s.cells * y / h)) for x, y in counted}
        many = min(1.0, len(counted) / s.enough)
        wide = min(1.0, len(cells) / (s.spread * s.cells**2))
        calm = float(np.clip((s.wild - seen.rms) / (s.wild - s.calm), 0, 1))
        return round(many * wide * calm, 4)


def doubtful(way: CameraPath) -> list[int]:
    """The frames of a way that are to be looked at."""
    return [way.first + n for n, f in enumerate(way.frames) if f.confidence < DOUBTFUL]
