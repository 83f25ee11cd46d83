"""Carry: a matte taken along through the frames of a shot."""

import functools
import math
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace

import cv2
import numpy as np

from ...common.aside import crew, side_by_side
from ..find.search import Evidence
from ..matte.colours import SPACES, lab
from ..matte.fine import fine_edge
from ..matte.part import around
from ..scene.difference import beyond
from ..scene.rigid_motion import MARGIN, whole_motion
from ..scene.scene import Person
from .background_model import Known, behind_of, noisier, scenes_of
from .carry_state import Memory, Trail
from .contour_search import SETTLE, Sides, Told, settled, sides_of
from .crumbs import CrumbSettings, without_crumbs, without_what_stays
from .fields import Part, displacement, taken
from .reel import Reel, laid
from .template_matching import Likeness, LikenessSettings


@dataclass(frozen=True)
class CarrySettings:
    """The settings by which a matte is kept from frame to frame."""

    match: float = 6.0
    """Levels by which something that goes with the scene may differ from it."""
    trust: float = 0.2
    """How strongly the fine edge is drawn to where the outline came to: one that goes its own way each time
    flickers."""
    unlike: float = 12.0
    """The difference from the scene, in levels, of what stands before it."""
    stood: float = 6.0
    """The difference from the scene, in levels, up to which what stands there has been there from the beginning."""
    same: float = 3.0
    """The weight of looking as the subject did in the fixed frame."""
    cleared: float = 0.7
    """The part of doubts that looking so takes away, 0…1."""
    lost: float = 0.75
    """The overlap with what came along, 0…1, below which the subject is not found any more."""
    likeness: LikenessSettings = field(default_factory=LikenessSettings)
    crumbs: CrumbSettings = field(default_factory=CrumbSettings)


@dataclass(frozen=True)
class Carried:
    """A matte at a frame: alpha float32 (h, w), 0…1, at the frame's own size; how doubtful it is, 0…1."""

    frame: int
    alpha: np.ndarray
    doubt: float


def carry(
    pictures: Sequence[np.ndarray], fixed: dict[int, np.ndarray], wanted: list[int],
    progress: Callable[[float], None] = lambda share: None, person: Person | None = None,
    small: Sequence[np.ndarray] | None = None, trail: Trail | None = None, evidence: Sequence[Evidence] = SETTLE,
    settings: CarrySettings = CarrySettings(),
) -> Iterator[Carried]:  # fmt: skip
    """Mattes for frames of a shot, from those at which it is known.

    pictures: uint8 RGB (h, w, 3), in order, of which only those wanted are asked for if there are `small` ones of the
    same shape as well; fixed: alpha float32 (h, w), 0…1, by index, at least one; wanted: the indices asked for, which
    are answered in order; person: what finds people in a frame, which has a say if it finds the subject in the fixed
    ones; trail: what an earlier call left behind, from which this one goes on where a fixed frame is the one that it
    ended with; what this one leaves behind takes its place; evidence: what is heard where an outline settles.

    From each fixed frame the matte goes outwards, frame by frame: the subject's motion is followed first as a whole
    and then as it bends (DIS flow, Kroeger et al. 2016), and corrected near its outline by a minimal cut, in which the
    judge has a say. Then what is behind the subject is gathered from all frames, before and after, laid onto each by
    the camera's motion, and the cut is made again with it. Between two fixed frames both have a say, the nearer one
    more.
    """
    reel = Reel(pictures if small is None else small)
    progress(0.15)
    known = {k: cv2.resize(a.astype(np.float32), reel.working, interpolation=cv2.INTER_AREA) for k, a in fixed.items()}
    sides = {k: sides_of(lab(reel.rgb[k], SPACES[0]), a) for k, a in known.items()}
    low, high = min([*fixed, *wanted]), max([*fixed, *wanted])
    with crew() as aside:
        people = _People(reel, known, person, aside)
        followers = _Followers(reel, known, sides, people, aside, {} if trail is None else trail, evidence, settings)
        came = _gone_along(followers, known, low, high, lambda share: progress(0.15 + 0.35 * share))
    larger = reel.larger
    mattes = {k: larger.grown(matte) for k, (matte, _, _, _) in came.items()}
    scenes = scenes_of(larger, mattes, low, high, followers.begun)
    least = followers.least * larger.scale[0] * larger.scale[1]

    def finished(k: int, picture: np.ndarray) -> Carried:
        _, unsure, layers, near = came[k]
        person = people.at(k)
        told = Told(
            larger.rgb[k], mattes[k], larger.grown(unsure), *scenes[k], larger.grown(layers),
            None if person is None else larger.grown(person),
        )  # fmt: skip
        outline, doubt = settled(told, sides[near], None, evidence)
        outline = without_crumbs(outline, least)
        h, w = picture.shape[:2]
        grown = cv2.resize(outline, (w, h), interpolation=cv2.INTER_LINEAR)
        alpha = fine_edge(picture, grown, 8, trust=settings.trust)
        return Carried(k, alpha, doubt if alpha.max() > 0.5 else 1.0)

    def asked() -> Iterator[Callable[[], Carried]]:
        for k in wanted:
            if k in fixed:
                yield functools.partial(Carried, k, fixed[k], 0.0)
            else:
                yield functools.partial(finished, k, pictures[k])

    for n, carried in enumerate(side_by_side(asked())):
        followers.answered(carried)
        progress(0.5 + 0.5 * (n + 1) / len(wanted))
        yield carried


def _gone_along(followers: "_Followers", fixed, low: int, high: int, progress):
    """For each frame: the matte that came along, how unsure it is, what motion says, the nearest fixed frame."""
    known = sorted(fixed)
    answers: dict[int, list[tuple[float, np.ndarray, np.ndarray, np.ndarray, int]]] = {
        k: [] for k in range(low, high + 1)
    }
    done, total = 0, 2 * (high - low) + 1
    for start in known:
        nothing = np.zeros_like(fixed[start])
        answers[start].append((1e9, fixed[start], nothing, nothing, start))
        for by in (1, -1):
            ends = [k for k in known if (k - start) * by > 0]
            stop = (min(ends) if by > 0 else max(ends)) if ends else (high + 1 if by > 0 else low - 1)
            if start + by == stop:
                continue
            follower = followers.of(start, by)
            for k in range(start + by, stop, by):
                matte, unsure, layers = follower.to(k, k + by if k + by != stop else None)
                answers[k].append((1 / abs(k - start), matte, unsure, layers, start))
                done += 1
                progress(min(1, done / total))
            followers.ended(by, follower)
    result = {}
    for k, found in answers.items():
        _, matte, unsure, layers, _ = found[0]
        if len(found) > 1:
            weights = np.array([f[0] for f in found])
            weights /= weights.sum()
            matte, unsure, layers = (sum(w * f[n] for w, f in zip(weights, found, strict=True)) for n in (1, 2, 3))
            unsure = np.maximum(unsure, np.abs(found[0][1] - found[1][1]))
        result[k] = matte, unsure, layers, max(found, key=lambda f: f[0])[4]
    return result


class _Followers:
    """Those who go from the fixed frames of a reel, each way; and the trail that they go on from and leave behind."""

    def __init__(
        self, reel: Reel, fixed: dict[int, np.ndarray], sides: dict[int, Sides], people: "_People",
        aside: ThreadPoolExecutor, trail: Trail, evidence: Sequence[Evidence], settings: CarrySettings,
    ) -> None:  # fmt: skip
        self._settings = settings
        self.people, self._evidence = people, evidence
        self.begun: dict[tuple[int, int], Known] = {}
        self.least = math.inf
        self._reel, self._fixed, self._sides, self._aside = reel, fixed, sides, aside
        self._trail, self._earlier = trail, dict(trail)
        self._ends: dict[int, int] = {}

    def of(self, start: int, by: int) -> "_Follower":
        """The followers that go from a fixed frame, by 1 or -1."""
        rgb, matte = self._reel.rgb[start], self._fixed[start]
        memory = self._earlier.get(by)
        if memory is not None and memory.is_of(rgb, matte):
            self.begun[start, by] = memory.scene
        else:
            memory = Memory.of(rgb, matte, self._settings.likeness, self._settings.crumbs)
        self.least = min(self.least, memory.least)
        return _Follower(
            self._reel, start, matte, self._sides[start], self.people, self._aside, memory, self._evidence,
            self._settings,
        )  # fmt: skip

    def ended(self, by: int, follower: "_Follower") -> None:
        """Keeps what a follower knows for those who go on from there."""
        self._trail[by], self._ends[by] = follower.memory(), follower.at

    def answered(self, carried: Carried) -> None:
        """Has the trail remember a matte that was answered, if it is one that a follower ended with."""
        for by, end in self._ends.items():
            if end == carried.frame:
                matte = cv2.resize(carried.alpha, self._reel.working, interpolation=cv2.INTER_AREA)
                self._trail[by] = replace(self._trail[by], matte=matte)


class _People:
    """The likelihood of a person in each frame of a reel, asked once a frame, if that tells where the subject is."""

    def __init__(
        self, reel: Reel, fixed: dict[int, np.ndarray], person: Person | None, aside: ThreadPoolExecutor
    ) -> None:
        self._reel, self._person, self._aside = reel, person, aside
        self._answers: dict[int, Future[np.ndarray | None]] = {}
        if person is not None and not all(self._agrees(k, matte) for k, matte in fixed.items()):
            self._person = None

    def _agrees(self, k: int, matte: np.ndarray) -> bool:
        likely = self.at(k)
        if likely is None:
            return False
        found, subject = likely > 0.5, matte > 0.5
        return bool((found & subject).sum() > 0.45 * max(1, (found | subject).sum()))

    def expect(self, k: int) -> None:
        """Has frame k looked at beside other work, as it will soon be asked for."""
        if self._person is not None and k not in self._answers:
            self._answers[k] = self._aside.submit(self._person, self._reel.rgb[k], True)

    def at(self, k: int) -> np.ndarray | None:
        """Frame k's, float32 (h, w), 0…1, or None."""
        self.expect(k)
        return None if self._person is None else self._answers[k].result()


class _Follower:
    """Goes from frame to frame with a matte, and remembers the scene that it saw on the way."""

    def __init__(
        self, reel: Reel, start: int, matte: np.ndarray, sides: Sides, people: "_People", aside: ThreadPoolExecutor,
        memory: Memory, evidence: Sequence[Evidence], settings: CarrySettings,
    ) -> None:  # fmt: skip
        self._settings = settings
        self._evidence = evidence
        self._reel, self.at, self._matte, self._sides = reel, start, matte, sides
        self._people, self._aside = people, aside
        self._unsure = np.zeros_like(matte)
        self._scene, self._seen, self._noise = memory.scene
        self._flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_FAST)
        self._likeness, self._least = memory.likeness.copy(), memory.least
        self._sight = memory.sight
        self._alike = True
        self._began, self._since = (reel.grey[start], matte), np.eye(3)

    def memory(self) -> Memory:
        """The memory of what it knows by now."""
        known = self._scene, self._seen, self._noise
        return Memory(self._reel.rgb[self.at], self._matte, known, self._likeness, self._sight, self._least)

    def to(self, k: int, next_one: int | None) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """The matte at a neighbour of the last frame, how unsure each pixel of it is, 0…1, and what motion says.

        next_one: the frame after that, if there is one, which is already looked at while the outline settles.
        """
        reel, by = self._reel, k - self.at
        camera = reel.step(self.at, by, self._matte)
        whole = whole_motion(reel.grey[self.at], reel.grey[k], (self._matte > 0.6).astype(np.uint8))
        part = self._sight.part(self._part(whole), self._matte.shape)
        rgb = np.ascontiguousarray(reel.rgb[k][part])
        flow = self._aside.submit(self._motion, k, part, camera, whole)
        layers = self._aside.submit(self._layers, k, part, camera, whole)
        sight = self._aside.submit(self._sight.says, rgb)
        scene, seen, noise = (laid(p, camera, reel.working) for p in (self._scene, self._seen, self._noise))
        like, trust = self._likeness.found(whole, rgb, part, scene[part], seen[part])
        came, doubted, moved = taken((self._matte, self._unsure, reel.grey[self.at]), flow.result(), part)
        missed = np.clip((cv2.absdiff(moved, reel.grey[k][part]).astype(np.float32) - 8) / 30, 0, 1)
        doubted = np.clip(0.85 * doubted + cv2.GaussianBlur(missed, (0, 0), 2), 0, 1)
        said = layers.result()
        lost = np.minimum(like, came).sum() < self._settings.lost * np.maximum(like, came).sum()
        if not lost:
            came = came + trust * (like - came)
            doubted = doubted * (1 - self._settings.cleared * trust)
            said = said + self._settings.same * trust * (2 * like - 1)
        person = self._people.at(k)
        told = Told(
            rgb, came, doubted, scene[part], seen[part], noise[part], said, None if person is None else person[part]
        )  # fmt: skip
        looks = sight.result()
        if next_one is not None:
            self._people.expect(next_one)
        outline, _ = settled(told, self._sides, looks, self._evidence)
        free = np.clip(0.5 + doubted, 0, 1)
        matte, unsure, said, widest = (
            _put(part, v, noise.shape)
            for v in (came + free * (outline - came), doubted, said, np.maximum(came, outline))
        )
        kept = self._without_what_stays(k, matte, camera, scene, seen, _put(part, like, noise.shape))
        matte, widest = kept, np.where(kept < matte, 0, widest)
        behind = behind_of(widest)
        self._noise = noisier(noise, reel.rgb[k], scene, behind * (seen > 0.5))
        self._scene = cv2.copyTo(reel.rgb[k], (behind > 0).astype(np.uint8), scene.copy())
        self._seen = np.maximum(seen, behind)
        self._matte, self._unsure, self.at = matte, unsure, k
        if lost:
            self._likeness, self._alike = Likeness(reel.rgb[k], matte, self._settings.likeness), False
        return matte, unsure, said

    def _without_what_stays(
        self, k: int, matte: np.ndarray, camera: np.ndarray, scene: np.ndarray, seen: np.ndarray, like: np.ndarray
    ) -> np.ndarray:
        """A matte at frame k without pieces of the place, which it has come to show where the subject was before.

        Pieces are the subject's where its likeness is, whether or not that is believed, if it never had to begin anew.
        """
        size, now = self._reel.working, self._reel.grey[k]
        self._since = camera @ self._since

        def explained() -> np.ndarray:
            grey, subject = (laid(one, self._since, size) for one in self._began)
            stood = (subject > 0.5) & (cv2.blur(cv2.absdiff(now, grey), (5, 5)) < self._settings.stood)
            came_to_stand = (seen > 0.5) & (beyond(self._reel.rgb[k], scene, scene) > self._settings.unlike)
            return stood | came_to_stand | (self._alike & (like > 0.5))

        before = laid(self._reel.grey[self.at], camera, size)
        return without_what_stays(matte, now, before, explained, self._settings.crumbs)

    def _part(self, whole: np.ndarray | None) -> Part:
        """The part of the next frame in which the subject will be: where it was, where it seems to go, and around."""
        there = self._matte
        if whole is not None:
            there = np.maximum(there, cv2.warpAffine(there, whole, self._reel.working))
        inside = there > 0.02
        return around(inside, MARGIN) if inside.any() else (slice(0, there.shape[0]), slice(0, there.shape[1]))

    def _layers(self, k: int, part: Part, camera: np.ndarray, whole: np.ndarray | None) -> np.ndarray:
        """Side that a pixel of frame k's part goes with, the scene (-1) or the subject (1), as far as they differ."""
        reel, size = self._reel, self._reel.working
        now = reel.grey[k][part]
        if whole is None:
            return np.zeros(now.shape, np.float32)

        def missed(other: np.ndarray) -> np.ndarray:
            return cv2.blur(cv2.absdiff(now, other[part]).astype(np.float32), (7, 7))

        scene = missed(laid(reel.grey[self.at], camera, size))
        beyond = 2 * k - self.at  # the frame on the other side has seen what the subject is about to cover
        if 0 <= beyond < len(reel.grey):
            there = cv2.warpAffine(self._matte, whole, size)
            scene = np.minimum(
                scene, missed(laid(reel.grey[beyond], reel.step(beyond, self.at - k, there=there), size))
            )
        own = missed(cv2.warpAffine(reel.grey[self.at], whole, size, borderMode=cv2.BORDER_REPLICATE))
        apart = displacement(np.vstack([whole, [0, 0, 1]]), part) - displacement(camera, part)
        differ = np.clip((cv2.magnitude(*cv2.split(apart)) - 1.5) / 3, 0, 1)
        # A limb goes with neither: only what matches the scene well is said to go with it.
        matches = np.clip((self._settings.match - scene) / (0.6 * self._settings.match), 0, 1)
        word = np.tanh((scene - own) / 5)
        return (np.where(word < 0, word * matches, word) * differ).astype(np.float32)

    def _motion(self, k: int, part: Part, camera: np.ndarray, whole: np.ndarray | None) -> np.ndarray:
        """For each pixel of a part of frame k, how far from there it was in the last one: float32 (h, w, 2)."""
        before, now = (np.ascontiguousarray(self._reel.grey[n][part]) for n in (self.at, k))
        start = displacement(np.linalg.inv(camera), part)
        if whole is not None:
            moved = cv2.warpAffine(self._matte, whole, self._reel.working)[part]
            near = cv2.dilate((moved > 0.3).astype(np.uint8), np.ones((9, 9), np.uint8))
            back = np.vstack([cv2.invertAffineTransform(whole), [0, 0, 1]])
            cv2.copyTo(displacement(back, part), near, start)
        return self._flow.calc(now, before, start)


def _put(part: Part, values: np.ndarray, shape: tuple[int, ...]) -> np.ndarray:
    """Values of a part of a frame in the whole of it, which is 0 elsewhere."""
    result = np.zeros(shape, np.float32)
    result[part] = values
    return result
