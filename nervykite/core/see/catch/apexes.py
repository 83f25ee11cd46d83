"""Frames worth holding: where movements peak, and the crispest on the way; each with the reason in two words.

In: what was seen of a take, frame by frame. Out: the take's curves, and proposals, the best first.
"""

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.ndimage import gaussian_filter1d
from scipy.signal import find_peaks, peak_prominences

from .poses import Subject, subjects
from .seen import Seen


@dataclass(frozen=True)
class Apex:
    """A kind of apex: which movement, whether its heights or its depths, what it is called; how far the peak has to
    stand out, in the subject's heights, to be one, and to be as much of one as can be; what it is called of what is
    nobody, if that is something else.
    """

    movement: str
    sign: int
    called: str
    least: float
    full: float
    of_a_thing: str | None = None


KINDS = (
    Apex("rise", 1, "top of the jump", 0.04, 0.16, "highest point"),
    Apex("rise", -1, "lowest point", 0.06, 0.35),
    Apex("side", 1, "turn", 0.12, 0.45),
    Apex("side", -1, "turn", 0.12, 0.45),
    Apex("stride", 1, "widest stride", 0.15, 0.42),
    Apex("hands", 1, "arms highest", 0.15, 0.42),
    Apex("reach", 1, "farthest reach", 0.12, 0.36),
    Apex("tall", 1, "tallest", 0.15, 0.42),
    Apex("broad", 1, "broadest", 0.12, 0.36),
)


@dataclass(frozen=True)
class Choosing:
    """The settings of the choice of frames.

    near: within how many seconds two apexes are one; falls and deep: within how many seconds a subject has to have gone
    down how far, in its heights, to have hit something as hard as can be; crisp: how much being crisp counts beside
    being a peak; least: how good a proposal has to be to be made unasked; most: how many are made unasked; fine: how
    much its own detail counts beside how little it moves; inside: how much of a subject has to be in the picture;
    between: how many of the crispest frames on the way are proposed at most.
    """

    near: float = 0.14
    falls: float = 0.5
    deep: float = 0.3
    crisp: float = 0.35
    least: float = 0.3
    most: int = 12
    fine: float = 0.3
    inside: float = 0.7
    between: int = 36
    kinds: Sequence[Apex] = field(default=KINDS)


@dataclass(frozen=True)
class FrameProposal:
    """A frame, why it is proposed, how much of a peak it is and how crisp, 0…1, and how good that makes it."""

    frame: int
    why: str
    peak: float
    crisp: float
    worth: float


@dataclass(frozen=True)
class Curves:
    """A take's curves, a value a frame: how crisp the subject is, 0…1 within the take; how far it goes to the next
    frame, in shares of the height; how far its chief movement has gone, 0…1; whether it is there, and what that
    movement is.
    """

    crisp: np.ndarray
    speed: np.ndarray
    gone: np.ndarray
    there: np.ndarray
    movement: str


MOVEMENTS = {
    "rise": "how high it is", "side": "how far across", "stride": "how wide the stride", "hands": "how high the hands",
    "reach": "how far the reach", "tall": "how tall it is", "broad": "how broad it is", "": "nothing moves",
}  # fmt: skip
"""What the curves of movements are called."""


@dataclass
class _Peak:
    frame: int
    why: str
    peak: float


def curves_of(seen: Sequence[Seen], rate: float, wide: float, settings: Choosing | None = None) -> Curves:
    """The curves of a take; where nothing moves they are flat. See `proposals` for what is given."""
    return _curves(seen, subjects(seen, rate, wide), settings or Choosing())


def proposals(
    seen: Sequence[Seen],
    rate: float,
    wide: float,
    allowed: Collection[int] | None = None,
    settings: Choosing | None = None,
) -> list[FrameProposal]:
    """All frames of a take that are worth holding, the best first; of frames of one apex only the best.

    seen: what was seen, a frame each; rate: frames a second; wide: the frame's width in heights; allowed: the only
    frames that may be proposed, if not all: what is found in another is proposed in the nearest of them.
    """
    settings = settings or Choosing()
    found = subjects(seen, rate, wide)
    if not found:
        return []
    curves = _curves(seen, found, settings)
    near = max(1, round(settings.near * rate))
    peaks = [p for subject in found for p in _peaks(subject, rate, settings)]
    places = sorted(allowed) if allowed is not None else range(len(seen))
    if not len(places):
        return []
    made = [_proposal(cluster, curves, places, settings) for cluster in _clusters(peaks, near)]
    taken = [p.frame for p in made]
    between = _crispest(found, curves, near, taken, places, settings)
    once: dict[int, FrameProposal] = {}
    for one in sorted(made + between, key=lambda p: -p.worth):
        once.setdefault(one.frame, one)
    return list(once.values())


def unasked(found: Sequence[FrameProposal], settings: Choosing | None = None) -> int:
    """The number of of some proposals, the best first, are good enough to be made without being asked for a number."""
    settings = settings or Choosing()
    return min(settings.most, sum(p.worth >= settings.least for p in found))


def _curves(seen: Sequence[Seen], found: list[Subject], settings: Choosing) -> Curves:
    count = len(seen)
    there = np.zeros(count, bool)
    for subject in found:
        there[subject.first : subject.first + len(subject.size)] |= subject.inside > settings.inside / 2
    speed = np.array([s.speed for s in seen], float)
    gone, movement = np.zeros(count), ""
    if found:
        first = found[0]
        window = slice(first.first, first.first + len(first.size))
        movement, curve = _chief(first, settings)
        low, high = curve.min(), curve.max()
        if high > low:
            gone = np.interp(np.arange(count), np.arange(window.start, window.stop), (curve - low) / (high - low))
    detail = np.array([s.detail for s in seen], float)
    crisp = np.zeros(count)
    if there.any():
        sharp = settings.fine * np.log(detail + 1e-3) - np.log(speed + 1e-3)
        crisp = np.clip(_levelled(sharp, there), 0, 1) * there
    return Curves(crisp, speed * there, gone, there, movement)


def _levelled(values: np.ndarray, there: np.ndarray) -> np.ndarray:
    """Values so that nearly all of those that count lie within 0…1."""
    low, high = np.quantile(values[there], [0.05, 0.95])
    return (values - low) / max(high - low, 1e-6)


def _chief(subject: Subject, settings: Choosing) -> tuple[str, np.ndarray]:
    """The movement that peaks most, and how far it has gone."""
    best, chosen = 0.0, "rise"
    for kind in settings.kinds:
        if kind.movement == "side" or kind.movement not in subject.movements:
            continue
        heights = [p.peak for p in _of_kind(subject, kind, settings)]
        if max(heights, default=0) > best:
            best, chosen = max(heights), kind.movement
    return chosen, subject.movements[chosen]


def _runs(subject: Subject, settings: Choosing) -> list[slice]:
    """The stretches in which a subject is wholly in the picture: beyond them it is guessed where its limbs are."""
    whole = np.r_[0, subject.inside > settings.inside, 0].astype(np.int8)
    edges = np.flatnonzero(np.diff(whole))
    return [slice(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a > 4]


def _of_kind(subject: Subject, kind: Apex, settings: Choosing) -> list[_Peak]:
    if kind.movement not in subject.movements:
        return []
    found = []
    for run in _runs(subject, settings):
        curve = kind.sign * subject.movements[kind.movement][run]
        places, _ = find_peaks(curve, prominence=kind.least)
        stands = peak_prominences(curve, places)[0]
        for at, by in zip(places, stands, strict=True):
            called = kind.called if subject.person else kind.of_a_thing or kind.called
            found.append(_Peak(subject.first + run.start + int(at), called, min(1.0, float(by) / kind.full)))
    return found


def _peaks(subject: Subject, rate: float, settings: Choosing) -> list[_Peak]:
    found = [peak for kind in settings.kinds for peak in _of_kind(subject, kind, settings)]
    return found + [peak for run in _runs(subject, settings) for peak in _impacts(subject, run, rate, settings)]


def _impacts(subject: Subject, run: slice, rate: float, settings: Choosing) -> list[_Peak]:
    """Where a fall ends: it is braked most, after it has gone down a good way."""
    rise = subject.movements["rise"][run]
    if len(rise) < 8:
        return []
    smooth = max(0.6, 0.02 * rate)
    brake = gaussian_filter1d(rise, smooth, order=2, mode="nearest")
    span = max(2, round(settings.falls * rate))
    fallen = np.array([rise[max(0, k - span) : k + 1].max() - rise[k] for k in range(len(rise))])
    most = float(brake.max())
    if most <= 0:
        return []
    places, _ = find_peaks(brake, prominence=0.3 * most)
    return [
        _Peak(subject.first + run.start + int(at), "impact", min(1.0, float(fallen[at]) / settings.deep))
        for at in places
        if fallen[at] > settings.deep / 3 and brake[at] > 0.5 * most and at > 0.4 * span
    ]


def _clusters(peaks: list[_Peak], near: int) -> list[list[_Peak]]:
    """Peaks put together that are of one moment, each headed by the greatest."""
    clusters: list[list[_Peak]] = []
    for peak in sorted(peaks, key=lambda p: -p.peak):
        home = next((c for c in clusters if abs(c[0].frame - peak.frame) <= near), None)
        if home is None:
            clusters.append([peak])
        else:
            home.append(peak)
    return clusters


def _proposal(cluster: list[_Peak], curves: Curves, places: Sequence[int], settings: Choosing) -> FrameProposal:
    head = cluster[0]
    others = {p.why: p.peak for p in cluster[1:] if p.why != head.why}
    peak = min(1.0, head.peak + 0.3 * sum(others.values()))
    frame = min(places, key=lambda f: (abs(f - head.frame), -curves.crisp[f]))
    beside = [f for f in (frame - 1, frame, frame + 1) if f in places]
    frame = max(beside, key=lambda f: curves.crisp[f] - 0.3 * (f != frame))
    crisp = float(curves.crisp[frame])
    return FrameProposal(frame, head.why, peak, crisp, peak * (1 - settings.crisp) + settings.crisp * peak * crisp)


def _crispest(
    found: list[Subject], curves: Curves, near: int, taken: list[int], places: Sequence[int], settings: Choosing
) -> list[FrameProposal]:
    """The crispest frames on the way, apart from what is taken: for those who want more."""
    inside = np.zeros(len(curves.crisp), bool)
    for subject in found:
        inside[subject.first : subject.first + len(subject.inside)] |= subject.inside > settings.inside
    left = [f for f in places if inside[f]]
    made: list[FrameProposal] = []
    for frame in sorted(left, key=lambda f: -curves.crisp[f]):
        if all(abs(frame - other) > near for other in taken):
            taken.append(frame)
            crisp = float(curves.crisp[frame])
            made.append(FrameProposal(frame, "crispest", 0.0, crisp, 0.8 * settings.least * crisp))
        if len(made) == settings.between:
            break
    return made
