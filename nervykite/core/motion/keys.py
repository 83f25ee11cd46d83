"""The value of a channel at a frame."""

from collections.abc import Mapping, Sequence

from ..model.layers import Channel, Key, Tie
from .easing import ease

REST: dict[str, list[float]] = {"position": [0.0, 0.0], "scale": [1.0], "rotation": [0.0], "opacity": [1.0]}
"""Where a cutout rests: on its own place, as filmed."""


def frame_of(key: Key, ties: Mapping[Tie, int]) -> int:
    """The project frame of a key, given the frames of the layer's start, landing and end."""
    return ties[key.tie] + key.offset


def value_at(keys: Sequence[Key], channel: Channel, frame: int, ties: Mapping[Tie, int]) -> list[float]:
    """The channel's value: eased between keys, held before the first and after the last, at rest without any.

    Of keys that fall on one frame, the one later in the list counts.
    """
    placed = sorted(((frame_of(k, ties), n, k) for n, k in enumerate(keys) if k.channel == channel))
    if not placed:
        return REST[channel]
    before = [p for p in placed if p[0] <= frame]
    after = [p for p in placed if p[0] > frame]
    if not before:
        return list(after[0][2].value)
    at, _, key = before[-1]
    if not after:
        return list(key.value)
    until, _, following = after[0]
    progress = ease(key.easing, (frame - at) / (until - at))
    return [a + (b - a) * progress for a, b in zip(key.value, following.value, strict=True)]
