"""The value of a channel at a time."""

from bisect import bisect_right
from collections.abc import Sequence
from functools import cached_property
from typing import Literal

import numpy as np

from ..model import Behaviour, FinishKind, GroundItem, Key, Layer, Source, Way, When
from ..model.behaviour import BehaviourStage, Shift, Shifts
from ..timeline.timeline import Ties
from .channels import POSE, SOURCE, rest_value, setting_of
from .easing import ease
from .keyable import KeyableSetting, settings_of
from .motion_path import PathSegment, Point
from .placing import Placement
from .shifts import Looked, shifts_of


class KeyTrack:
    """The keys of one channel in the order of their frames; of several on one frame the last one given counts.

    ties: what they count from; rate: frames a second; way: for a position, how it goes along its path; setting: for
    that of a finish or a behaviour, what lies between two of its values.
    """

    def __init__(
        self,
        keys: Sequence[Key],
        ties: Ties,
        rate: float = 30.0,
        way: Way | None = None,
        setting: KeyableSetting | None = None,
    ) -> None:
        placed = {ties.frame(k): k for k in sorted(keys, key=ties.frame)}
        self.frames = list(placed)
        self.keys = list(placed.values())
        self._rate, self._way, self._setting = rate, way or Way(), setting
        self._curves: dict[int, PathSegment] = {}

    def value(self, time: float) -> list[float]:
        """Eased between the keys, held before the first and after the last; `time` may lie between two frames."""
        n, progress = self._along(time)
        if progress == 0:
            return list(self.keys[n].value)
        stretch = self._stretch(n)
        if stretch is not None:
            return list(stretch.at(progress))
        one, other = self.keys[n].value, self.keys[n + 1].value
        if self._setting is not None:
            return self._setting.between(one, other, progress)
        return [a + (b - a) * progress for a, b in zip(one, other, strict=True)]

    def heading(self, time: float) -> float:
        """In which direction the path goes then, in radians; of a single key, to the right."""
        if len(self.keys) < 2:
            return 0.0
        n, progress = self._along(time)
        if n == len(self.keys) - 1:
            n, progress = n - 1, 1.0
        (ax, ay), (bx, by) = self.keys[n].value, self.keys[n + 1].value
        return self._curve(n).heading(progress) if (ax, ay) != (bx, by) else 0.0

    def handles(self, n: int) -> tuple[Point | None, Point | None]:
        """The handles of a key of a path, from the key: as it arrives and as it leaves; None before the first and after
        the last. Where it goes straight they lie a third of the way along it.
        """
        key = self.keys[n]
        if key.bend is not None:
            return key.bend[:2] if n else None, key.bend[2:] if n < len(self.keys) - 1 else None
        x, y = key.value
        third = [(m.value[0] - x, m.value[1] - y) for m in self.keys]
        arrive = (third[n - 1][0] / 3, third[n - 1][1] / 3) if n else None
        leave = (third[n + 1][0] / 3, third[n + 1][1] / 3) if n < len(self.keys) - 1 else None
        return arrive, leave

    @property
    def length(self) -> float:
        """The length of the path from the first key to the last."""
        return sum(self._curve(n).length for n in range(len(self.keys) - 1))

    def _along(self, time: float) -> tuple[int, float]:
        """Between which key and the next a time lies, and how far the value has come from one to the other."""
        n = bisect_right(self.frames, time) - 1
        if n < 0:
            return 0, 0.0
        if n >= len(self.keys) - 1:
            return len(self.keys) - 1, 0.0
        if self._way.whole and len(self.keys) > 2:
            return self._journey(time)
        start, end = self.frames[n : n + 2]
        return n, ease(self.keys[n].easing, (time - start) / (end - start), (end - start) / self._rate)

    def _journey(self, time: float) -> tuple[int, float]:
        """The same, when the path is gone along as one journey from the first key to the last."""
        start, end = self.frames[0], self.frames[-1]
        share = ease(self.keys[0].easing, (time - start) / (end - start), (end - start) / self._rate)
        lengths = self._lengths
        gone = share * lengths[-1]
        n = min(max(int(np.searchsorted(lengths, gone, side="right")) - 1, 0), len(lengths) - 2)
        return n, float((gone - lengths[n]) / max(1e-12, lengths[n + 1] - lengths[n]))

    @cached_property
    def _lengths(self) -> np.ndarray:
        return np.cumsum([0.0, *(self._curve(n).length for n in range(len(self.keys) - 1))])

    def _stretch(self, n: int) -> PathSegment | None:
        """The curve from a key of a path to the next; None where it goes straight."""
        straight = self.keys[n].bend is None and self.keys[n + 1].bend is None
        return None if straight or len(self.keys[n].value) != 2 else self._curve(n)

    def _curve(self, n: int) -> PathSegment:
        """The curve from a key of a path to the next, be it straight."""
        if n not in self._curves:
            one, two = self.keys[n : n + 2]
            (ax, ay), (bx, by) = one.value, two.value
            (_, leave), (arrive, _) = self.handles(n), self.handles(n + 1)
            assert leave is not None
            assert arrive is not None
            handles = (ax + leave[0], ay + leave[1]), (bx + arrive[0], by + arrive[1])
            self._curves[n] = PathSegment((ax, ay), *handles, (bx, by))
        return self._curves[n]


class Keyed:
    """The keys and behaviours of a layer or a ground item, made ready once, to be asked at many times.

    ties: what its keys count from; rate: frames a second; stage: where its behaviours play, if it has any.
    """

    def __init__(
        self, owner: Layer | GroundItem, ties: Ties, rate: float = 30.0, stage: BehaviourStage | None = None
    ) -> None:
        self._owner, self._stage, self.ties = owner, stage, ties
        channels: dict[str, list[Key]] = {}
        for key in owner.keys:
            channels.setdefault(key.channel, []).append(key)
        way = owner.way if isinstance(owner, Layer) else None
        self.tracks = {
            c: KeyTrack(k, ties, rate, way if c == "position" else None, setting_of(owner, c) if "." in c else None)
            for c, k in channels.items()
        }
        """The channels that have keys."""
        placed = [f for t in self.tracks.values() for f in t.frames]
        self._first, self._last = min(placed, default=0), max(placed, default=0)
        self._looks = [(f.id, f.look) for f in owner.finishes if f.visible]
        worn = {SOURCE, *(f.id for f in owner.finishes), *(b.id for b in owner.behaviours)}
        self.settings = sorted(c for c in channels if c.partition(".")[0] in worn)
        """The channels of settings, of what is shown, finishes and behaviours, that have keys."""
        self.varies = any(c.startswith(f"{SOURCE}.") for c in channels)
        """Whether what is shown changes by keys."""
        self._behaves = stage is not None and any(b.visible for b in owner.behaviours)
        moving = [b.id for b in owner.behaviours if b.visible]
        self._changes = any(c.partition(".")[0] in moving for c in self.settings)
        """Whether settings of behaviours have keys: they are others at each time."""
        self._shown = Looked(self.shifts)
        worn = {id_ for id_, _ in self._looks}
        times = {0, *(f for c in self.settings if c.partition(".")[0] in worn for f in self.tracks[c].frames)}
        self.restless = any(look.moment(When(0, 1, 0)) is not None for t in times for look in self.looks(t))
        """Whether a finish of it changes by itself, as it is or as any of its keys has it."""
        self.echoes = any(look.echoes for _, look in self._looks)
        """Whether a finish of it is drawn of earlier times."""
        self.stirs = self._behaves or any(c in POSE and c != "opacity" for c in channels)
        """Whether it moves at any time."""

    def still(self, time: float) -> Literal["before", "after"] | None:
        """True if nothing moves any more, or not yet: no key lies after that time, or none before."""
        if self._behaves or self.restless:
            return None
        return "after" if time >= self._last else "before" if time < self._first else None

    def value(self, channel: str, time: float) -> list[float]:
        """A channel's value at a time, without what behaviours add."""
        track = self.tracks.get(channel)
        return rest_value(self._owner, channel) if track is None else track.value(time)

    def number(self, channel: str, time: float) -> float:
        """The value of a channel of a single number."""
        return self.value(channel, time)[0]

    def position(self, time: float) -> tuple[float, float]:
        """Where it is, be it keyed across and down apart or together."""
        if isinstance(self._owner, Layer) and self._owner.apart:
            return self.number("across", time), self.number("down", time)
        x, y = self.value("position", time)
        return x, y

    def placement(self, time: float) -> Placement:
        """The placement of a layer against its place at rest, its behaviours included."""
        scale, turn, (x, y) = self.number("scale", time), self.number("rotation", time), self.position(time)
        path = self.tracks.get("position")
        if path is not None and isinstance(self._owner, Layer) and self._owner.way.turns and not self._owner.apart:
            turn += float(np.degrees(path.heading(time) - path.heading(self.ties.landing)))
        add = self.shift(time)
        if add is not None:
            x, y, turn, scale = x + add.across, y + add.down, turn + add.turn, scale * add.scale
        wide, high = self.number("width", time), self.number("height", time)
        return Placement((x, y), scale * wide, scale * high, turn, self.number("shear", time))

    def opacity(self, time: float) -> float:
        """The opacity of a layer, its behaviours included."""
        own, add = self.number("opacity", time), self.shift(time)
        return own if add is None else min(1.0, max(0.0, own * add.opacity))

    def shift(self, time: float) -> Shift | None:
        """The shift that behaviours add then; None if there are none."""
        return self._shown.at(time) if self._behaves else None

    def ahead(self, times: Sequence[float]) -> None:
        """Is told at which times it will be asked for what behaviours add."""
        if self._behaves and not self._changes:
            self._shown.ahead(times)

    def shifts(self, times: np.ndarray) -> Shifts:
        """The shifts that behaviours add at some times, float64 (n,)."""
        assert self._stage is not None
        worn = [b for b in self._owner.behaviours if b.visible]
        if not self._changes:
            return shifts_of(worn, [b.way for b in worn], times, self._stage)
        # With keys on them, settings are others at each time.
        found = []
        for time in times.tolist():
            now = [self._now(b, time) for b in worn]
            ways = [self._at(b.id, b.way, time) for b in worn]
            found.append(shifts_of(now, ways, np.array([time]), self._stage))
        return Shifts.joined(found)

    def _now(self, behaviour: Behaviour, time: float) -> Behaviour:
        """A behaviour as strong as it is at a time."""
        channel = f"{behaviour.id}.strength"
        if channel not in self.tracks:
            return behaviour
        return behaviour.model_copy(update={"strength": self.number(channel, time)})

    def most(self, channel: str) -> float:
        """The value that a channel's keys give it that is farthest from 0; without keys, its value."""
        track = self.tracks.get(channel)
        return max((k.value[0] for k in track.keys), key=abs) if track else rest_value(self._owner, channel)[0]

    @property
    def largest(self) -> float:
        """The number of times as large as at rest its keys and behaviours make it at most."""
        grows = float(np.prod([1 + (b.way.grows() - 1) * b.strength for b in self._owner.behaviours if b.visible]))
        return self.most("scale") * max(abs(self.most("width")), abs(self.most("height"))) * grows

    def source(self, time: float) -> Source:
        """The source, with the settings that it has at a time."""
        return self._at(SOURCE, self._owner.source, time) if self.varies else self._owner.source

    def looks(self, time: float) -> tuple[FinishKind, ...]:
        """The finishes that are switched on, in order, with the settings that they have at a time."""
        return tuple(self._at(id_, look, time) for id_, look in self._looks)

    def _at(self, id_: str, look, time: float):
        """A source, finish or behaviour with the settings that its keys give it at a time."""
        keyed = {c.partition(".")[2]: c for c in self.settings if c.startswith(f"{id_}.")}
        if not keyed:
            return look
        known = settings_of(look.__class__)
        given = {s: known[s].value(self.value(c, time)) for s, c in keyed.items() if s in known}
        return look.model_copy(update=given)


def pose_at(keyed: Keyed, time: float) -> dict[str, list[float]]:
    """The value of each channel of a layer's pose at a time, behaviours left out."""
    values = {c: keyed.value(c, time) for c in POSE if c != "anchor"}
    return values | {"position": list(keyed.position(time))}
