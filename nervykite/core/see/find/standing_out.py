"""Saliency against what is known to lie behind: the search of pick mover and pick difference."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import cv2
import numpy as np

from ...common.aside import crew
from ..matte.colours import SPACES, Mixture, lab, placed
from ..matte.part import around
from ..scene.behind import Behind
from ..scene.difference import textures_apart
from ..scene.shade import shaded
from .evidence import Later, edges_of, known_to_each, leaning_of, pairwise_of
from .opinion import MARGIN, Opined, Unmarked, from_near, judge, looks
from .search import Evidence, SearchSettings, search

BESIDE = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (41, 41))
"""How far beside what is found, in pixels, it may go on."""


@dataclass(frozen=True)
class StandingOutSettings:
    """The settings of how much each voice counts, found by trying them on shots with known mattes."""

    search: SearchSettings = field(default_factory=lambda: SearchSettings(turns=4, steps=200, settled=0.97))
    outline: float = 0.8
    """What an outline costs in even places."""
    other_texture: float = 0.5
    """How much of what is around a pixel may have another texture than the plate's, if that is in shade."""
    borne_out: float = 0.3
    """What is left of the doubt about a place that a frame shows in shade."""
    unrest: tuple[float, float] = (1.5, 3.0)
    """The unrest, in levels, from which on and by which a place is in doubt."""
    great_unrest: tuple[float, float] = (3.5, 5.0)
    """The unrest, in levels, from which on and by which somebody is taken to linger there if nothing else moves."""
    lingers: float = 0.6
    """The say of somebody who lingers."""
    own: float = 0.5
    own_unsure: float = 1.0
    """The say of what goes with the subject or with the scene; and how much more where that is in doubt."""
    alike: float = 0.3
    alike_unsure: float = 1.0
    """The say of what looks alike; and of that where hardly any frame has seen what is behind."""
    judged: float = 0.8
    """How much of the unary term is the judge's, the rest being that of the rules."""
    here: float = 0.35
    """The say of whose colours they are there."""
    place: float = 40.0
    """The difference of colours that the place counts as, in units of colour, see `colours.placed`."""
    beside: float = 0.15
    """The say against what lies far from what was found."""
    little: float = 0.5
    """From which doubt on a place teaches nothing: who lingers there may not have been found yet."""
    link: float = 0.01
    """Half of how far apart, in the root of the frame's area, parts may lie that belong together."""


class StandingOut(Unmarked):
    """A frame, uint8 RGB (h, w, 3), and what lies behind it; finder, whose, lingers: see `standing_out`."""

    def __init__(
        self, frame: np.ndarray, behind: Behind, finder: Later, whose: Later, lingers: bool,
        settings: StandingOutSettings,
    ) -> None:  # fmt: skip
        self.picture, self.behind, self.settings, self.lingers, self._whose = frame, behind, settings, lingers, whose
        differs = behind.apart(frame)
        # A blurred edge differs long before it is half subject: the level is a third of what its surroundings reach.
        reached = cv2.dilate(cv2.medianBlur(np.clip(differs, 0, 255).astype(np.uint8), 3), np.ones((7, 7), np.uint8))
        level = np.maximum(np.maximum(2.6 * behind.noise, 7.0), 0.33 * np.minimum(reached, 80))
        strong = differs / level
        self.shade = shaded(frame, behind.plate, behind.noise)
        unsure = np.clip(1.6 - behind.support / 2.5, 0, 1)  # hardly any frame knows what is behind
        # The plate may show somebody who lingers.
        unsure = np.maximum(unsure, ramp(behind.unrest, settings.unrest) * (1 - behind.sways))
        # What lies in shade keeps its texture, and something plain gets none from it.
        other = np.maximum(textures_apart(frame, behind.plate, behind.noise), 0)
        self.shade &= cv2.blur(other, (9, 9)) < settings.other_texture
        self.pairwise = pairwise_of(edges_of(lab(frame)), settings.outline)
        self.person = finder()
        if self.person is not None:
            self.shade &= self.person < 0.4
        unsure[self.shade] *= settings.borne_out  # a shadow shows its place
        self.unknown = unsure
        self.strong = np.where(self.shade, np.minimum(0.12 * strong, 0.2), strong)
        self.likeness = settings.alike + (settings.alike_unsure - settings.alike) * unsure
        self.judgement = settings.judged
        self.moves = np.zeros(differs.shape, np.float32)

    @cached_property
    def own(self) -> np.ndarray | None:
        """The side that a pixel goes with, from -1 (the scene's) to 1 (the subject's)."""
        own = self._whose()
        return None if own is None else np.where(self.shade, np.minimum(own, 0), own)  # a shadow goes with its caster

    @cached_property
    def scenes(self) -> np.ndarray | float:
        """As far as a pixel is known to go with the scene, -1…0; see `own_way`."""
        if self.own is None:
            return 0.0
        # A foot that is put down stays where the scene does, but is known not to be the scene.
        return np.minimum(self.own, 0) * (1 - np.maximum(self.moves, 0) * (1 - self.unknown))

    @cached_property
    def _colours(self) -> tuple[np.ndarray, np.ndarray]:
        return lab(self.picture, SPACES[1]), lab(self.behind.plate, SPACES[1])

    def turn(self, number: int, found: np.ndarray | None) -> Opined | None:
        """The turn that an answer leads to; None if it teaches too little."""
        if found is None:
            return Opined.first(self.picture, self.person, self.unknown)
        hard, core, rest = sides(found)
        if core.sum() < 60 or rest.sum() < 60:
            return None
        near = _beside(hard)
        others = rest & (self.unknown < self.settings.little)
        box = around(near, MARGIN)
        known = near & (self.unknown < 0.5)
        long = 0.25 * math.hypot(*(side.stop - side.start + 3 for side in around(hard > 0, 0)))
        with crew(1) as aside:
            each = aside.submit(known_to_each, self._colours[0], core, others, box)
            here = self._leaning_here(core, known if known.sum() > 60 else near, near, long)
            kept, dropped = each.result()
        unsaid = np.zeros(near.shape, np.float32)
        return Opined(
            number, found, core, others, kept, dropped, here, unsaid, self.picture, near, self.person, self.unknown
        )

    def _leaning_here(self, ours: np.ndarray, others: np.ndarray, where: np.ndarray, long: float) -> np.ndarray:
        """Whose colours those around each pixel are, of the subject or of what is behind it: see `leaning_of`.

        ours, others: bool (h, w), what of the one and of the other is known; long: the pixels that count as much as a
        difference that is easily seen.
        """
        box = around(where, 0)
        spots, spots_behind = (placed(np.ascontiguousarray(v[box]), long, self.settings.place) for v in self._colours)
        keep, drop = (Mixture.of(s[known[box]], 24, 4.0) for s, known in ((spots, ours), (spots_behind, others)))
        result = np.zeros(where.shape, np.float32)
        result[box] = leaning_of(spots, keep, drop, where[box])
        return result

    def whole(self, found: np.ndarray) -> np.ndarray:
        """The parts that are large and strong enough."""
        return worthy(found, self.strong, self.behind.sways, self.settings.link)


def differs(view: StandingOut) -> np.ndarray:
    """The difference from what is behind it, where that is known."""
    strong = cv2.GaussianBlur(view.strong.astype(np.float32), (0, 0), 0.6)
    return np.tanh((strong - 1.0) * 0.9) * (1 - 0.7 * view.unknown)


def lingering(view: StandingOut) -> np.ndarray | None:
    """The evidence of what never comes to rest, if nothing else moves: waves and leaves do not, either."""
    if not view.lingers:
        return None
    return view.settings.lingers * ramp(view.behind.unrest, view.settings.great_unrest) * (1 - view.behind.sways)


def own_way(view: StandingOut) -> np.ndarray | None:
    """The evidence of what goes with the subject, or with the scene."""
    if view.own is None:
        return None
    return (view.settings.own + view.settings.own_unsure * view.unknown) * (np.maximum(view.own, 0) + view.scenes)


def somebody(view: StandingOut) -> np.ndarray | None:
    """The evidence of who finds people, most of all where nobody knows what is behind."""
    if view.person is None:
        return None
    sure = 2 * view.person - 1
    says = np.where(sure > 0, 1 + view.scenes, 0.3) * sure * np.abs(sure)  # who goes with the scene is a part of it
    return (0.25 + 0.75 * view.unknown) * says


MOVES: tuple[Evidence, ...] = (differs, lingering, own_way, somebody)
"""What tells whether a pixel stands out by itself, each heard in order and never beyond -1…1."""


def moves(view: StandingOut, turn: Opined) -> np.ndarray:
    """All that tells whether a pixel stands out by itself."""
    return view.moves


def here(view: StandingOut, turn: Opined) -> np.ndarray | None:
    """Whose colours they are there, once something is found; and that it hardly goes on far from that."""
    if turn.found is None:
        return None
    return view.settings.here * turn.leans - view.settings.beside * ~turn.near


STANDING_OUT: tuple[Evidence, ...] = (moves, here, judge, looks)
"""What is heard at each turn, in this order."""


@dataclass(frozen=True)
class Saliency:
    """The saliency: float32 (h, w), 0…1; by what, -1…1; and how little is known of what is behind, 0…1."""

    found: np.ndarray
    moves: np.ndarray
    unknown: np.ndarray


def standing_out(
    frame: np.ndarray, behind: Behind, finder: Later = lambda: None, whose: Later = lambda: None,
    lingers: bool = False, evidence: Sequence[Evidence] = (*MOVES, *STANDING_OUT),
    settings: StandingOutSettings = StandingOutSettings(),
) -> Saliency:  # fmt: skip
    """The saliency against what is known to lie behind it.

    A person `finder` speaks where hardly any frame has seen what is behind. whose: asked when it is needed, says
    whether a pixel goes with the subject or with the scene, float32 (h, w), -1…1, see `scene.own_way`. If somebody
    `lingers`, what never comes to rest stands out as well. evidence: what is heard, of `MOVES` and `STANDING_OUT`.
    """
    view = StandingOut(frame, behind, finder, whose, lingers, settings)
    for speaks in MOVES:
        says = speaks(view) if speaks in evidence else None
        if says is not None:
            view.moves = np.clip(view.moves + says, -1, 1)
    found, turn = search(view, [e for e in evidence if e not in MOVES], settings.search)
    if turn is not None and turn.found is not None:
        _, core, rest = sides(found)
        found = view.whole(from_near(turn, found, core, rest & (view.unknown < settings.little)))
    return Saliency(found, view.moves, view.unknown)


def ramp(values: np.ndarray, ends: tuple[float, float]) -> np.ndarray:
    """From 0 at the one end to 1 at the other: float32."""
    return np.clip((values - ends[0]) / (ends[1] - ends[0]), 0, 1).astype(np.float32)


def sides(u: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The answer, uint8 (h, w), 0 or 1; what of that surely is, and what surely is not, bool (h, w)."""
    hard = (u > 0.5).astype(np.uint8)
    return hard, cv2.erode(hard, np.ones((3, 3))) > 0, cv2.dilate(hard, np.ones((9, 9))) == 0


def _beside(hard: np.ndarray) -> np.ndarray:
    """The surroundings of an answer, uint8 (h, w), 0 or 1: bool (h, w)."""
    box = around(hard > 0, max(BESIDE.shape))
    near = np.zeros(hard.shape, bool)
    near[box] = cv2.dilate(np.ascontiguousarray(hard[box]), BESIDE) > 0
    return near


def worthy(u: np.ndarray, strong: np.ndarray, sways: np.ndarray, link: float) -> np.ndarray:
    """The parts of an answer that are large and strong enough: beside the largest part, or in a chain with it, less is.

    What only sways, float32 (h, w), 0…1, has to be large to count. link: see `StandingOutSettings`.
    """
    count, labels, stats, _ = cv2.connectedComponentsWithStats((u > 0.5).astype(np.uint8), connectivity=8)
    if count < 2:
        return u
    areas = stats[:, cv2.CC_STAT_AREA]
    weight = np.bincount(labels.ravel(), np.minimum(strong, 6).ravel(), minlength=count)
    weight[0] = 0
    largest = labels == int(np.argmax(weight))
    reach = 2 * round(0.06 * math.sqrt(largest.size)) + 1
    beside = np.zeros(count, bool)
    beside[labels[cv2.dilate(largest.astype(np.uint8), np.ones((reach, reach), np.uint8)) > 0]] = True
    side = 2 * round(link * math.sqrt(largest.size)) + 1
    chains = cv2.connectedComponents(cv2.dilate((labels > 0).astype(np.uint8), np.ones((side, side), np.uint8)))[1]
    beside[labels[chains == chains[largest][0]]] = True  # a leg that is found in pieces
    often = np.bincount(labels.ravel(), sways.ravel(), minlength=count) / np.maximum(1, areas)
    enough = np.where(often > 0.5, 0.3, np.where(beside, 0.0015, 0.06))
    kept = (weight > enough * weight.max()) & (areas > 12)
    kept[0] = False
    return np.where(kept[labels], u, 0).astype(np.float32)
