"""A second opinion on an answer that no strokes led to: what looks alike in the picture, and what the judge says.

The judge learned from strokes. Here the depth of what was found stands for keep strokes, and a line around it, as far
as that is known to be others', for drop strokes.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np

from .colours import Mixture
from .evidence import known_to
from .judge import Voices, judged, seen_at
from .looks import alike, looks_of
from .marks import extent
from .solve import around

BESIDE = 32
"""How far beside the area in question is looked, px."""
DEEP = 0.5
"""From which part of its greatest depth on what was found stands for keep strokes."""
LINE = (22, 28)
"""How far around it the line runs that stands for drop strokes, px."""
PARTS = 8
"""Of how many colours the subject and the rest are taken to be."""


@dataclass(frozen=True)
class Answer:
    """What was found in a picture, and why; float32 or bool (h, w) unless said."""

    picture: np.ndarray
    """uint8 RGB (h, w, 3)."""
    colours: np.ndarray
    """The same as colours that differ as they look, float32 (h, w, 3)."""
    wish: np.ndarray
    """All rules together: above 0 for the subject."""
    leans: np.ndarray
    """Whose colours they are, -1…1."""
    found: np.ndarray
    """The subject, 0…1."""
    ours: np.ndarray
    others: np.ndarray
    """What is surely the subject, and surely not."""
    person: np.ndarray | None
    """What a person finder says, 0…1."""

    def part(self, box: tuple[slice, slice]) -> "Answer":
        """The same in some rows and columns."""
        return replace(self, **{k: np.ascontiguousarray(v[box]) for k, v in vars(self).items() if v is not None})


def reconsidered(
    answer: Answer, where: np.ndarray, likeness: np.ndarray | float, judgement: np.ndarray | float
) -> np.ndarray:
    """The wish in and beside an area bool (h, w), not empty, once looks and the judge are heard, too: float32 (h, w).

    likeness: the say of what looks alike; judgement: the share of the judge, 0…1; both (h, w) if they differ.
    """
    wish = answer.wish.astype(np.float32)
    box = around(where, BESIDE)
    likeness, judgement = (v[box] if isinstance(v, np.ndarray) else v for v in (likeness, judgement))
    here = answer.part(box)
    looks = looks_of(here.picture)
    similar = None if looks is None else alike(looks, here.ours, here.others)
    if similar is None:
        return wish
    rules = wish[box].copy()
    wish[box] += likeness * similar
    if not np.any(judgement):
        return wish
    deep = cv2.distanceTransform(here.ours.astype(np.uint8), cv2.DIST_L2, 5)
    beside = cv2.distanceTransform((here.found < 0.5).astype(np.uint8), cv2.DIST_L2, 5)
    keep = here.ours & (deep >= DEEP * deep.max())
    drop = here.others & (beside > LINE[0]) & (beside < LINE[1])
    if not keep.any() or not drop.any():
        return wish
    nothing = np.zeros(rules.shape, np.float32)
    kept, dropped = (known_to(Mixture.of(here.colours[area], PARTS), here.colours) for area in (here.ours, here.others))
    says = judged(
        Voices(
            here.picture,
            rules,
            here.leans,
            along=2 * cv2.GaussianBlur(here.found, (0, 0), 3) - 1,
            away=cv2.distanceTransform((~keep).astype(np.uint8), cv2.DIST_L2, 5) / extent(here.ours),
            person=nothing if here.person is None else 2 * here.person - 1,
            sure=nothing,
            before=here.found,
            keep=keep,
            drop=drop,
            kept=kept,
            dropped=dropped,
            similar=similar,
            looks=looks,
        )
    )
    if says is not None:
        wish[box] += judgement * (says - seen_at(rules))
    return wish
