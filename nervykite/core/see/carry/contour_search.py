"""Where an outline settles, near where it came to: by colours, the scene behind, motion, people and the judge."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from ..find.cut import minimal_cut
from ..find.evidence import edges_of, known_to, leaning, leaning_of, pairwise_of
from ..find.judge import judged, seen_at
from ..find.opinion import Opined, voices_on
from ..find.search import Evidence, hear
from ..matte.colours import SPACES, Mixture, lab
from ..matte.part import around
from ..scene.difference import beyond, reach
from ..scene.shade import shaded
from .fields import Part
from .sight import Sighting


@dataclass(frozen=True)
class SettleSettings:
    """The settings by which an outline settles; how much each voice counts was found by trying them on shots with known
    mattes.
    """

    floor: float = 13.0
    """Levels by which a subject stands out at least."""
    edge: float = 0.35
    """The part of the contrast nearby from which on something differs from the scene: more would eat thin limbs."""
    stay: float = 1.2
    """The weight by which an outline stays where it came to."""
    near: float = 4.4
    """The distance from there, in working pixels, from which on that weighs fully."""
    colour: float = 0.45
    scene: float = 0.95
    """The say of whose colours they are, and of what differs from the scene."""
    behind: float = 1.0
    before: float = 0.6
    """How much it counts that something goes with the scene, or with the subject."""
    somebody: float = 0.3
    nobody: float = 0.5
    """How much it counts that a person is found there, or that none is."""
    reach: int = 8
    judged_reach: int = 32
    """The distance from where it came to, in working pixels, within which it is looked for if the judge is heard."""
    unsure: int = 14
    """The distance added to that, in working pixels, where the judge is unsure."""
    beside: int = 3
    """The distance beside that, in working pixels, that is looked at as well."""
    outline: float = 0.9
    """What an outline costs in even places."""
    steps: int = 60
    enough: float = 5e-3
    """After how many steps, or how small a change, the cut is good enough: it begins near its end."""
    judged: float = 0.6
    """The judge's part of the unary term, 0…1, the rest being that of the rules."""
    fewest: int = 60
    """The pixels of subject, and of surroundings, that the judge has to see at least."""


Sides = tuple[Mixture, Mixture]
"""Colours of the subject, and of what is around it."""


@dataclass(frozen=True)
class Told:
    """The evidence in a frame, or in a part of it, before the outline settles; float32 (h, w), 0…1, unless said."""

    rgb: np.ndarray
    """The frame, uint8 RGB (h, w, 3)."""
    came: np.ndarray
    """The matte that came along."""
    unsure: np.ndarray
    scene: np.ndarray
    """What is behind, uint8 RGB (h, w, 3)."""
    seen: np.ndarray
    """How well that is known."""
    noise: np.ndarray
    """In levels."""
    layers: np.ndarray
    """Whether it goes with the scene (-1) or with the subject (1), more if other things say so as well."""
    person: np.ndarray | None
    """How likely a person is there."""

    def part(self, box: Part) -> "Told":
        """The same in some rows and columns."""
        return replace(self, **{k: np.ascontiguousarray(v[box]) for k, v in vars(self).items() if v is not None})


def sides_of(colours: np.ndarray, matte: np.ndarray) -> Sides:
    """Whose colours (h, w, 3) they are in a frame with a known matte, float32 (h, w), 0…1."""
    core, rest = matte > 0.9, matte < 0.05
    near = rest & (cv2.dilate((matte > 0.5).astype(np.uint8), np.ones((81, 81), np.uint8)) > 0)
    if core.sum() < 20:
        core = matte >= max(0.3, float(matte.max()) * 0.8)
    return Mixture.of(colours[core], 10), Mixture.of(colours[near if near.sum() > 100 else rest], 10)


@dataclass
class Settling:
    """An outline about to settle, in a box around where it came to; float32 (h, w) of the box unless said."""

    told: Told
    """What is known of the whole part."""
    here: Told
    """What is known in the box."""
    box: Part
    near: np.ndarray
    """How far it may go, bool."""
    stays: np.ndarray
    """How much it wants to stay where it came to: that of the whole part."""
    known: tuple[np.ndarray, np.ndarray]
    """How well the colours are known to subject and surroundings; if a judge is to be heard, in the whole part."""
    by_colour: np.ndarray
    """Whose colours they are, -1…1."""
    shade: np.ndarray
    """What lies in shade, bool."""
    sighting: Sighting | None
    """What all of it looks like, if the judge is to be heard."""
    unary: np.ndarray
    """What was said so far."""
    settings: SettleSettings


def stays(view: Settling, turn: Settling) -> np.ndarray:
    """It stays where it came to, the more the farther from its edge, and the better it came along."""
    return view.stays[view.box]


def colour(view: Settling, turn: Settling) -> np.ndarray:
    """Whose colours they are, less where it is known what is behind."""
    return view.settings.colour * view.by_colour * (1 - 0.4 * _known(view.here))


def behind(view: Settling, turn: Settling) -> np.ndarray:
    """The evidence of what differs from the scene behind, in shade or not."""
    told, by_colour = view.here, view.by_colour
    scene = told.scene
    differs = beyond(told.rgb, scene, scene) + beyond(told.rgb, *reach(scene, 3))
    differs = cv2.GaussianBlur(0.5 * differs, (0, 0), 0.8)
    # An edge lies well within the contrast across it, and not where that begins to show.
    level = np.maximum(
        np.maximum(view.settings.floor, 2.2 * told.noise),
        view.settings.edge * cv2.dilate(differs, np.ones((5, 5), np.uint8)),
    )
    by_scene = np.tanh((differs - level) / (0.6 * level)) * _known(told)
    by_scene = np.where(view.shade & (by_scene > 0), -0.3 * by_scene, by_scene)
    # What differs from the scene in the scene's own colours is the scene moving, or its light.
    return view.settings.scene * np.where((by_scene > 0) & (by_colour < 0), by_scene * (1 + 0.9 * by_colour), by_scene)


def layers(view: Settling, turn: Settling) -> np.ndarray:
    """The evidence of what goes with the scene, or with the subject."""
    return np.where(view.here.layers < 0, view.settings.behind, view.settings.before) * view.here.layers


def somebody(view: Settling, turn: Settling) -> np.ndarray | None:
    """The evidence of who finds people."""
    if view.here.person is None:
        return None
    sure = 2 * view.here.person - 1
    return np.where(sure > 0, view.settings.somebody, view.settings.nobody) * sure * np.abs(sure)


def judge(view: Settling, turn: Settling) -> np.ndarray | None:
    """The judge, who looks at the whole part, instead of a part of all that was said."""
    if view.sighting is None:
        return None
    told = view.told
    came = (told.came > 0.5).astype(np.uint8)
    ours = cv2.erode(came, np.ones((3, 3), np.uint8)) > 0
    others = cv2.dilate(came, np.ones((9, 9), np.uint8)) == 0
    if min(ours.sum(), others.sum()) < view.settings.fewest:
        return None
    unary = view.stays.copy()
    unary[view.box] = turn.unary
    opined = Opined(
        0, told.came, ours, others, *view.known, leaning(*view.known), unary, told.rgb, ours, told.person,
        np.clip(1 - told.seen, 0, 1),
    )  # fmt: skip
    everywhere = slice(0, came.shape[0]), slice(0, came.shape[1])
    voices = voices_on(opined, everywhere, view.sighting.looks, view.sighting.similar)
    says = None if voices is None else judged(voices)
    return None if voices is None or says is None else view.settings.judged * (says - seen_at(voices.unary))[view.box]


SETTLE: tuple[Evidence, ...] = (stays, colour, behind, layers, somebody, judge)
"""What is heard, in this order."""


def settled(
    told: Told,
    sides: Sides,
    sighting: Sighting | None = None,
    evidence: Sequence[Evidence] = SETTLE,
    settings: SettleSettings = SettleSettings(),
) -> tuple[np.ndarray, float]:
    """The outline near the one that came along, float32 (h, w), and how doubtful it is, 0…1.

    Where it came along well its own word counts; where it did not, and farther from it, what colours and the scene
    behind say. sighting: what all of it looks like, if the judge is to be heard, which sees what opens beside it;
    evidence: what is heard.
    """
    hard = (told.came > 0.5).astype(np.uint8)
    if hard.min() == hard.max():
        return told.came, 1.0
    if sighting is None:  # the judge looks at all of it
        there = around(hard > 0, settings.reach + settings.unsure + settings.beside)
        cut = told.came.copy()
        cut[there], doubt = _settled(told.part(there), hard[there], sides, None, evidence, settings)
        return cut, doubt
    return _settled(told, hard, sides, sighting, evidence, settings)


def _settled(
    told: Told,
    hard: np.ndarray,
    sides: Sides,
    sighting: Sighting | None,
    evidence: Sequence[Evidence],
    settings: SettleSettings,
) -> tuple[np.ndarray, float]:
    """`settled` of a frame, or as much of it as counts, where the matte that came along is `hard`, uint8 (h, w)."""
    away = cv2.distanceTransform(hard, cv2.DIST_L2, 5) + cv2.distanceTransform(1 - hard, cv2.DIST_L2, 5)
    far = settings.reach if sighting is None else settings.judged_reach
    band = away < far + settings.unsure * cv2.dilate(told.unsure, np.ones((9, 9), np.uint8))
    box = around(band, settings.beside)
    here, near = told.part(box), band[box]
    colours = lab(told.rgb, SPACES[0])
    where = (
        settings.stay * np.clip(away / (settings.near + 10 * told.unsure), 0, 1.3) * (2 * hard.astype(np.float32) - 1)
    )
    if sighting is None:  # the judge sees shade for what it is, about as well, and needs no rule for it
        shade, known = shaded(here.rgb, here.scene, here.noise), (near, near)
        by_colour = leaning_of(colours[box], *sides, near)
    else:
        shade, known = np.zeros(near.shape, bool), (known_to(sides[0], colours), known_to(sides[1], colours))
        by_colour = leaning(known[0][box], known[1][box])
    nothing = np.zeros(near.shape, np.float32)
    view = Settling(told, here, box, near, where, known, by_colour, shade, sighting, nothing, settings)
    hear(view, view, evidence)
    unary = np.where(near, view.unary, 40 * np.sign(where[box])).astype(np.float32)
    cut = told.came.copy()
    cut[box] = minimal_cut(
        unary, pairwise_of(edges_of(colours[box]), settings.outline), here.came, settings.steps, settings.enough
    )
    changed = np.abs(cut - told.came)[away < 4]
    return cut, float(np.clip(2.25 * changed.mean() + 0.72 * told.unsure[away < 4].mean(), 0, 1))


def _known(told: Told) -> np.ndarray:
    """The certainty of what is behind, 0…1."""
    return np.clip(2 * told.seen - 0.6, 0, 1)
