"""Letters that come in and go out: one after another, by letter, word or line; at the end each lies in its place."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import skia

from .layout import Laid, Letter, around

Way = Literal[
    "rise", "drop", "from left", "from right", "pop", "spin", "unfold", "typed", "scrambled", "drawn"
]  # fmt: skip
By = Literal["letter", "word", "line"]
Order = Literal["forwards", "backwards", "from the middle", "by chance"]
Ease = Literal["even", "soft", "springy"]
SCRAMBLES = 8
"""How many other letters stand in the place of one that is scrambled, one after the other."""


@dataclass(frozen=True)
class Coming:
    """The way letters come in, and go out the way they came.

    `entered` is how far they have come, `gone` how far they have left again, 0…1 each. `stagger` is how much of its
    time each waits for the one before: at 0 all come at once, at 1 one comes after the other.
    """

    way: Way | None = None
    entered: float = 1.0
    gone: float = 0.0
    by: By = "letter"
    order: Order = "forwards"
    stagger: float = 0.6
    ease: Ease = "soft"
    seed: int = 1

    @property
    def at_rest(self) -> bool:
        """True if all letters are in their places."""
        return self.way is None or (self.entered >= 1 and self.gone <= 0)


def come(laid: Laid, coming: Coming, size: float) -> Laid:
    """Letters as they are on their way; `size` is the height of an em in pixels."""
    if coming.at_rest or not laid.letters:
        return laid
    units = [_unit(x, coming.by) for x in laid.letters]
    known = {u: n for n, u in enumerate(dict.fromkeys(units))}
    places = _places(len(known), coming.order, coming.seed)
    letters: list[Letter] = []
    for n, (letter, unit) in enumerate(zip(laid.letters, units, strict=True)):
        place = places[known[unit]]
        share = _share(place, len(known), coming.stagger, coming.entered)
        if coming.gone > 0:
            share = min(share, 1 - _share(place, len(known), coming.stagger, coming.gone))
        found = _moved(laid.letters, n, letter, share, coming, size)
        if found is not None:
            letters.append(found)
    return Laid(tuple(letters), around(letters), laid.missing)


def _unit(letter: Letter, by: By) -> tuple[int, ...]:
    if by == "line":
        return (letter.line,)
    return (letter.word,) if by == "word" else (letter.line, letter.letter)


def _places(count: int, order: Order, seed: int) -> Sequence[int]:
    """At which place each comes: 0 is the first."""
    if order == "backwards":
        return range(count - 1, -1, -1)
    if order == "from the middle":
        far = [abs(n - (count - 1) / 2) for n in range(count)]
        ranked = sorted(range(count), key=lambda n: far[n])
        found = [0] * count
        for place, n in enumerate(ranked):
            found[n] = place
        return found
    if order == "by chance":
        return [int(n) for n in np.random.default_rng(seed).permutation(count)]
    return range(count)


def _share(place: int, count: int, stagger: float, progress: float) -> float:
    """The progress of one letter, 0…1, given at which place it comes and how far all of them have."""
    lasts = 1 / (1 + stagger * (count - 1))
    return min(1.0, max(0.0, (progress - place * lasts * stagger) / lasts))


def _eased(share: float, ease: Ease) -> float:
    if ease == "even" or share in (0.0, 1.0):
        return share
    if ease == "soft":
        return 1 - (1 - share) ** 3
    # A spring that is let go and comes to rest at 1 (damped to e⁻⁵ by then).
    return 1 - math.exp(-5 * share) * math.cos(9 * share) * (1 - share)


def _moved(all_: Sequence[Letter], n: int, letter: Letter, share: float, coming: Coming, size: float) -> Letter | None:
    """A letter that has come so far; None while there is nothing of it to see."""
    if share >= 1:
        return letter
    if share <= 0:
        return None
    t, far, way = _eased(share, coming.ease), 0.0, coming.way
    if way == "typed":
        return letter
    if way == "drawn":
        return replace(letter, drawn=share)
    if way == "scrambled":
        step = int(share * SCRAMBLES)
        other = all_[int(np.random.default_rng((coming.seed, n, step)).integers(len(all_)))]
        there = skia.Matrix.Translate(letter.middle[0] - other.middle[0], letter.middle[1] - other.middle[1])
        return replace(letter, path=_by(other.path, there))
    x, y = letter.middle
    about = skia.Matrix.Translate(x, y)
    shown = min(1.0, 2.5 * share)
    if way in ("pop", "spin"):
        by = max(t, 0.001)
        if way == "spin":
            about.preRotate(-200 * (1 - t))
        about.preScale(by, by)
    elif way == "unfold":
        about.preScale(max(t, 0.001), 1)
    else:
        far = 1.1 * size * (1 - t)
        dx, dy = {"rise": (0, far), "drop": (0, -far), "from left": (-1.6 * far, 0), "from right": (1.6 * far, 0)}[
            way or "rise"
        ]
        about.postTranslate(dx, dy)
    about.preTranslate(-x, -y)
    return replace(letter, path=_by(letter.path, about), shown=shown)


def _by(path: skia.Path, matrix: skia.Matrix) -> skia.Path:
    moved = skia.Path()
    path.transform(matrix, moved)
    return moved
