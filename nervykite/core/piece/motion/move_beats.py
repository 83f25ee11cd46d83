"""Beats, in which moves are written: they become keys; and how they are turned backwards."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from ..model import Bezier, Easing, Key, Spring, Stay, Steps
from ..model.base import new_id
from ..model.move import LINEAR, MoveBeat, MoveKind, MoveScene, Side
from ..model.ties import Tie
from .easing import PRESETS

FACTORS = ("scale", "width", "height", "opacity")
"""The channels in which what a move adds is a factor; in all others it is added."""


def preset(name: str) -> Bezier:
    """A ready curve by its name."""
    x1, y1, x2, y2 = PRESETS[name]
    return Bezier(x1=x1, y1=y1, x2=x2, y2=y2)


FALL = Bezier(x1=1 / 3, y1=0, x2=2 / 3, y2=1 / 3)
"""Exactly the square of the time: how things fall."""
FALLING = Bezier(x1=1 / 3, y1=0.2, x2=2 / 3, y2=0.533)
"""The same of what has fallen for a while when it comes into sight: 0.6 of the time and 0.4 of its square."""


def backwards(beats: Sequence[MoveBeat]) -> list[MoveBeat]:
    """The same beats from the last to the first."""
    channels: dict[str, list[MoveBeat]] = {}
    for beat in beats:
        channels.setdefault(beat.channel, []).append(beat)
    turned = []
    for own in channels.values():
        own.sort(key=lambda b: b.at)
        for n, beat in enumerate(reversed(own)):
            came = own[len(own) - 2 - n].easing if n < len(own) - 1 else LINEAR
            turned.append(replace(beat, at=1 - beat.at, easing=mirrored(came)))
    return turned


def mirrored(easing: Easing) -> Easing:
    """The easing of the same way gone backwards. A spring, which cannot, becomes the curve most like it."""
    if isinstance(easing, Bezier):
        return Bezier(x1=1 - easing.x2, y1=1 - easing.y2, x2=1 - easing.x1, y2=1 - easing.y1)
    if isinstance(easing, Steps):
        jump = {"start": "end", "end": "start"}.get(easing.jump, easing.jump)
        return easing.model_copy(update={"jump": jump})
    if isinstance(easing, Stay):
        return Steps(count=1, jump="start")
    assert isinstance(easing, Spring)
    return mirrored(preset("past and back"))


def turned(key: Key, own: Sequence[Key], frame: Callable[[Key], int]) -> Key:
    """A key of some, as it goes on from there backwards in time; `frame` tells when each is."""
    before = [k for k in own if k.channel == key.channel and frame(k) < frame(key)]
    # How it goes on from there is how it came there.
    came = max(before, key=frame).easing if before else LINEAR
    bend = None if key.bend is None else (*key.bend[2:], *key.bend[:2])
    return key.model_copy(update={"easing": mirrored(came), "bend": bend})


def beats_of(move: MoveKind, side: Side, scene: MoveScene) -> list[MoveBeat]:
    """A move's beats on a side, from time 0 to 1."""
    if side == "in":
        return move.beats(scene)
    leaving = move.leaving(scene)
    return backwards(move.beats(scene)) if leaving is None else leaving


@dataclass(frozen=True)
class MovePlacement:
    """Where a move goes in time: from one frame over so many, counted from a tie."""

    tie: Tie
    first: int
    lasts: int


def keys_of(
    beats: Sequence[MoveBeat], side: Side, when: MovePlacement, rest: Callable[[str], list[float]], apart: bool = False
) -> list[Key]:
    """Beats as keys.

    rest: the value of a channel where the move meets what is there without it; apart: across and down have keys of
    their own.
    """
    keys = []
    for beat in sorted(beats, key=lambda b: (b.channel, b.at)):
        base = rest(beat.channel)
        if beat.channel in FACTORS:
            value = [v * f for v, f in zip(base, beat.add, strict=True)]
        else:
            value = [v + f for v, f in zip(base, beat.add, strict=True)]
        offset = when.first + round(beat.at * when.lasts)
        parts = [("across", value[:1]), ("down", value[1:])] if apart and beat.channel == "position" else None
        for channel, part in parts or [(beat.channel, value)]:
            keys.append(
                Key(
                    id=new_id(), channel=channel, tie=when.tie, offset=offset, value=part, easing=beat.easing, made=side
                )
            )
    return keys
