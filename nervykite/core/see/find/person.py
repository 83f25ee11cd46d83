"""Pick person: small networks say roughly where people are, the picture says where they end."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from ...common.errors import Refusal
from ..matte.colours import SPACES, lab
from ..matte.part import around
from ..scene.scene import working_size
from .evidence import edges_of, known_to_each, leaning, pairwise_of
from .opinion import MARGIN, Opined, Unmarked, judge, looks
from .prior import PriorSettings, prior
from .proposal import Proposal
from .search import Evidence, SearchSettings, search


@dataclass(frozen=True)
class PersonSettings:
    """The settings by which people whom networks see roughly are cut out along edges."""

    search: SearchSettings = field(default_factory=lambda: SearchSettings(turns=3, steps=160, settled=0.95))
    outline: float = 0.9
    """What an outline costs in even places."""
    prior: PriorSettings = field(default_factory=PriorSettings)
    """How what networks say is put together, and at which size all is looked for."""
    even: float = 0.4
    """How likely a person is where it is open whether there is one: networks are too careful about limbs and blur."""
    sure: float = 1.3
    """The say of networks where they are sure."""
    likely: float = 0.35
    """The say of networks in all else that they say."""
    colour: float = 0.3
    """The say of whose colours they are."""
    alike: float = 0.15
    """The say of what looks like the people that are sure."""
    judged: float = 0.5
    """How much of the unary term is the judge's, the rest being that of the rules."""
    least: float = 0.04
    """The smallest part of an answer that is somebody, beside the surest one, 0…1."""
    as_likely: float = 0.7
    """The likelihood, beside that of the surest one, from which on a part is a person's, 0…1."""


class Guided(Unmarked):
    """A picture, uint8 RGB (h, w, 3), in which a guide, float32 (h, w), 0…1, sees people roughly."""

    def __init__(self, picture: np.ndarray, guide: np.ndarray, settings: PersonSettings) -> None:
        self.picture, self.guide, self.settings = picture, guide, settings
        self.likeness, self.judgement = settings.alike, settings.judged
        self._colours = lab(picture, SPACES[0])
        self.pairwise = pairwise_of(edges_of(lab(picture)), settings.outline)

    def turn(self, number: int, found: np.ndarray | None) -> Opined | None:
        """The turn that an answer leads to; None if it teaches too little."""
        nothing = np.zeros(self.guide.shape, np.float32)  # what is behind is not looked at
        if found is None:
            return Opined.first(self.picture, self.guide, nothing)
        ours = (found > 0.5) & (self.guide > 0.8)
        near = cv2.dilate((found > 0.5).astype(np.uint8), np.ones((61, 61), np.uint8)) > 0
        others = (found < 0.5) & (self.guide < 0.2) & near
        if ours.sum() < 80 or others.sum() < 80:
            return None
        kept, dropped = known_to_each(self._colours, ours, others, around(near, MARGIN))
        return Opined(
            number, found, ours, others, kept, dropped, leaning(kept, dropped), nothing.copy(), self.picture, near,
            self.guide, nothing,
        )  # fmt: skip

    def whole(self, found: np.ndarray) -> np.ndarray:
        """All that is found."""
        return found


def likely_people(view: Guided, turn: Opined) -> np.ndarray:
    """The likely people, as the networks say."""
    sure = np.tanh((view.guide - view.settings.even) * 5).astype(np.float32)
    return view.settings.sure * sure * np.abs(sure) + view.settings.likely * sure


def colour(view: Guided, turn: Opined) -> np.ndarray:
    """Whose colours they are."""
    return view.settings.colour * turn.leans * turn.near


PERSON: tuple[Evidence, ...] = (likely_people, colour, judge, looks)
"""What is heard, in this order."""


def found_by(
    guide: np.ndarray, picture: np.ndarray, evidence: Sequence[Evidence] = PERSON,
    settings: PersonSettings = PersonSettings(),
) -> np.ndarray:  # fmt: skip
    """The people in a picture, uint8 RGB (h, w, 3), that a guide float32 (h, w), 0…1, sees roughly, along edges.

    float32 (h, w), mostly 0 or 1. evidence: what is heard.
    """
    found, _ = search(Guided(picture, guide, settings), evidence, settings.search)
    assert found is not None
    return found


def pick_person(
    picture: np.ndarray, near: np.ndarray | None = None, stirs: np.ndarray | None = None,
    evidence: Sequence[Evidence] = PERSON, settings: PersonSettings = PersonSettings(),
) -> Proposal:  # fmt: skip
    """Finds the people in a picture, uint8 RGB (h, w, 3) of any size, and cuts them out along edges.

    `near`, `stirs`: see `prior`, at any size. Raises Refusal if there is nobody, or no network.
    """
    h, w = picture.shape[:2]
    size = working_size(w, h, settings.prior.pixels)
    small = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)

    def at_size(given: np.ndarray | None) -> np.ndarray | None:
        return None if given is None else cv2.resize(given, size, interpolation=cv2.INTER_LINEAR)

    guide = prior(small, at_size(near), None, at_size(stirs), settings=settings.prior)
    if (guide > 0.6).mean() < 0.001:
        raise Refusal("No person was found in this frame. Use marks, or pick mover.")
    return Proposal(_likely_parts(found_by(guide, small, evidence, settings), guide, settings))


def _likely_parts(u: np.ndarray, guide: np.ndarray, settings: PersonSettings) -> np.ndarray:
    """The parts of an answer (h, w), 0…1, that are people as well as the surest one: about as likely and not tiny."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats((u > 0.5).astype(np.uint8))
    if count < 2:
        return u
    areas = stats[:, cv2.CC_STAT_AREA].astype(float)
    open_or_more = guide > settings.even  # somebody of whom one is sure is not the less so for what came along
    mass, counted = (
        np.bincount(labels[open_or_more], weights, minlength=count) for weights in (guide[open_or_more], None)
    )
    mass[0] = 0
    usual, surest = mass / np.maximum(1, counted), int(np.argmax(mass))
    kept = (areas > settings.least * areas[surest]) & (usual > settings.as_likely * usual[surest])
    kept[0] = False
    return np.where(kept[labels], u, 0).astype(np.float32)
