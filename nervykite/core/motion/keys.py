"""The value of a channel at a frame."""

from collections.abc import Mapping

from ..model.layers import Channel, Key, Layer, Tie
from .easing import ease


def frame_of(key: Key, ties: Mapping[Tie, int]) -> int:
    """The project frame of a key, given the frames of the layer's start, landing and end."""
    return ties[key.tie] + key.offset


def value_at(layer: Layer, channel: Channel, frame: int, ties: Mapping[Tie, int]) -> list[float]:
    """The channel's value: eased between keys, held before the first and after the last, the pose's without any.

    Of keys that fall on one frame, the one later in the list counts.
    """
    placed = sorted(((frame_of(k, ties), n, k) for n, k in enumerate(layer.keys) if k.channel == channel))
    if not placed:
        return layer.pose.value(channel)
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
