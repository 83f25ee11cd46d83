"""The value of a channel at a time."""

from collections.abc import Mapping, Sequence
from typing import Literal

from ..model import FinishKind, GroundItem, Key, Layer, Tie
from .channels import rest_value
from .easing import ease


def frame_of(key: Key, ties: Mapping[Tie, int]) -> int:
    """The project frame of a key, given the frames that its owner's keys count from."""
    return ties[key.tie] + key.offset


def value_at(keys: Sequence[Key], time: float, ties: Mapping[Tie, int], rest: list[float]) -> list[float]:
    """The value of a channel, given its own keys: eased between them, held before the first and after the last.

    `time` is in project frames and may lie between two; `rest` is the value without any key. Of keys that fall on one
    frame, the one later in the list counts.
    """
    placed = sorted(((frame_of(k, ties), n, k) for n, k in enumerate(keys)), key=lambda p: p[:2])
    if not placed:
        return rest
    before = [p for p in placed if p[0] <= time]
    after = [p for p in placed if p[0] > time]
    if not before:
        return list(after[0][2].value)
    at, _, key = before[-1]
    if not after:
        return list(key.value)
    until, _, following = after[0]
    progress = ease(key.easing, (time - at) / (until - at))
    return [a + (b - a) * progress for a, b in zip(key.value, following.value, strict=True)]


class Keyed:
    """The keys of a layer or a ground item, sorted by channel once, to be asked at many times."""

    def __init__(self, owner: Layer | GroundItem, ties: Mapping[Tie, int]) -> None:
        self._owner, self._ties = owner, ties
        self._channels: dict[str, list[Key]] = {}
        for key in owner.keys:
            self._channels.setdefault(key.channel, []).append(key)
        placed = [frame_of(k, ties) for k in owner.keys]
        self._first, self._last = min(placed, default=0), max(placed, default=0)
        self._looks = [(f.id, f.look) for f in owner.finishes if f.visible]
        worn = {f.id for f in owner.finishes}
        self.settings = sorted(c for c in self._channels if c.partition(".")[0] in worn)
        """The channels of finishes' settings that have keys."""

    def still(self, time: float) -> Literal["before", "after"] | None:
        """Whether nothing moves any more, or not yet: no key lies after that time, or none before."""
        return "after" if time >= self._last else "before" if time < self._first else None

    def value(self, channel: str, time: float) -> list[float]:
        """A channel's value at a time."""
        return value_at(self._channels.get(channel, ()), time, self._ties, rest_value(self._owner, channel))

    def most(self, channel: str) -> float:
        """The largest value that a channel's keys give it; without keys, its value."""
        keys = self._channels.get(channel)
        return max(k.value[0] for k in keys) if keys else rest_value(self._owner, channel)[0]

    def looks(self, time: float) -> tuple[FinishKind, ...]:
        """The finishes that are switched on, in order, with the settings that they have at a time."""
        return tuple(self._at(id_, look, time) for id_, look in self._looks)

    def _at(self, id_: str, look: FinishKind, time: float) -> FinishKind:
        keyed = {c.partition(".")[2]: c for c in self.settings if c.startswith(f"{id_}.")}
        if not keyed:
            return look
        return look.model_copy(update={s: self.value(c, time)[0] for s, c in keyed.items()})
