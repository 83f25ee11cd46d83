"""Where an outline settles, near where it came to: by colours, the scene behind, motion, people and the judge."""

from dataclasses import dataclass, replace

import cv2
import numpy as np

from ..find.cut import minimal_cut
from ..find.evidence import edges_of, known_to, leaning, leaning_of, tie_of
from ..find.judge import judged, seen_at
from ..find.opinion import Opined, voices_on
from ..matte.colours import SPACES, Mixture, lab
from ..matte.part import around
from ..scene.difference import beyond, reach
from ..scene.shade import shaded
from .fields import Part
from .sight import Sighting

FLOOR = 13.0
"""Levels by which a subject stands out at least."""
EDGE = 0.35
"""The part of the contrast nearby from which on something differs from the scene: more would eat thin limbs."""
STAY, NEAR = 1.2, 4.4
"""How much an outline wants to stay where it came to, and from how far on, in working pixels, it wants that fully."""
BEHIND, BEFORE = 1.0, 0.6
"""How much it counts that something goes with the scene, or with the subject."""
SOMEBODY, NOBODY = 0.3, 0.5
"""How much it counts that a person is found there, or that none is."""
REACH, JUDGED_REACH, UNSURE, BESIDE = 8, 32, 14, 3
"""How far from where it came to, in working pixels, an outline is looked for, and if the judge is heard; how much
farther where it is unsure; and how far beside that is looked."""
CUT = 60, 5e-3
"""After how many steps, or how small a change, the cut is good enough: it begins near its end."""
JUDGED, FEWEST = 0.6, 60
"""How much of the wish is the judge's, the rest being that of the rules; the pixels of subject and surroundings that it
has to see."""

Sides = tuple[Mixture, Mixture]
"""Colours of the subject, and of what is around it."""


@dataclass(frozen=True)
class Told:
    """What is known of a frame, or of a part of it, before the outline settles; float32 (h, w), 0…1, unless said."""

    rgb: np.ndarray
    """uint8 (h, w, 3)."""
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


def settled(told: Told, sides: Sides, sighting: Sighting | None = None) -> tuple[np.ndarray, float]:
    """The outline near the one that came along, float32 (h, w), and how doubtful it is, 0…1.

    Where it came along well its own word counts; where it did not, and farther from it, what colours and the scene
    behind say. sighting: what all of it looks like, if the judge is to be heard, which sees what opens beside it.
    """
    hard = (told.came > 0.5).astype(np.uint8)
    if hard.min() == hard.max():
        return told.came, 1.0
    if sighting is None:  # the judge looks at all of it
        there = around(hard > 0, REACH + UNSURE + BESIDE)
        cut = told.came.copy()
        cut[there], doubt = _settled(told.part(there), hard[there], sides)
        return cut, doubt
    return _settled(told, hard, sides, sighting)


def _settled(told: Told, hard: np.ndarray, sides: Sides, sighting: Sighting | None = None) -> tuple[np.ndarray, float]:
    """`settled` of a frame, or as much of it as counts, where the matte that came along is `hard`, uint8 (h, w)."""
    away = cv2.distanceTransform(hard, cv2.DIST_L2, 5) + cv2.distanceTransform(1 - hard, cv2.DIST_L2, 5)
    far = REACH if sighting is None else JUDGED_REACH
    band = away < far + UNSURE * cv2.dilate(told.unsure, np.ones((9, 9), np.uint8))
    box = around(band, BESIDE)
    here, near = told.part(box), band[box]
    colours = lab(told.rgb, SPACES[0])
    stays = STAY * np.clip(away / (NEAR + 10 * told.unsure), 0, 1.3) * (2 * hard.astype(np.float32) - 1)
    wish = stays.copy()
    if sighting is None:  # the judge sees shade for what it is, about as well, and needs no rule for it
        shade = shaded(here.rgb, here.scene, here.noise)
        wish[box] += _evidence(here, leaning_of(colours[box], *sides, near), shade)
    else:
        known = known_to(sides[0], colours), known_to(sides[1], colours)
        wish[box] += _evidence(here, leaning(known[0][box], known[1][box]), np.zeros(near.shape, bool))
        wish += _judged(told, wish, known, sighting)
    wish = np.where(near, wish[box], 40 * np.sign(stays[box])).astype(np.float32)
    cut = told.came.copy()
    cut[box] = minimal_cut(wish, tie_of(edges_of(colours[box]), 0.9), here.came, *CUT)
    changed = np.abs(cut - told.came)[away < 4]
    return cut, float(np.clip(2.25 * changed.mean() + 0.72 * told.unsure[away < 4].mean(), 0, 1))


def _evidence(told: Told, by_colour: np.ndarray, shade: np.ndarray) -> np.ndarray:
    """What colours, the scene behind, in shade or not, motion and people say: float32 (h, w), about -2…2."""
    scene, seen = told.scene, told.seen
    differs = beyond(told.rgb, scene, scene) + beyond(told.rgb, *reach(scene, 3))
    differs = cv2.GaussianBlur(0.5 * differs, (0, 0), 0.8)
    known = np.clip(2 * seen - 0.6, 0, 1)
    # An edge lies well within the contrast across it, and not where that begins to show.
    level = np.maximum(np.maximum(FLOOR, 2.2 * told.noise), EDGE * cv2.dilate(differs, np.ones((5, 5), np.uint8)))
    by_scene = np.tanh((differs - level) / (0.6 * level)) * known
    by_scene = np.where(shade & (by_scene > 0), -0.3 * by_scene, by_scene)
    # What differs from the scene in the scene's own colours is the scene moving, or its light.
    by_scene = np.where((by_scene > 0) & (by_colour < 0), by_scene * (1 + 0.9 * by_colour), by_scene)
    says = 0.45 * by_colour * (1 - 0.4 * known) + 0.95 * by_scene
    says += np.where(told.layers < 0, BEHIND, BEFORE) * told.layers
    if told.person is not None:
        sure = 2 * told.person - 1
        says += np.where(sure > 0, SOMEBODY, NOBODY) * sure * np.abs(sure)
    return says


def _judged(told: Told, wish: np.ndarray, known: tuple[np.ndarray, np.ndarray], sighting: Sighting) -> np.ndarray:
    """What the judge adds to the wish of the rules, float32 (h, w); known: how well the colours are to both sides."""
    came = (told.came > 0.5).astype(np.uint8)
    ours = cv2.erode(came, np.ones((3, 3), np.uint8)) > 0
    others = cv2.dilate(came, np.ones((9, 9), np.uint8)) == 0
    if min(ours.sum(), others.sum()) < FEWEST:
        return np.zeros_like(wish)
    unknown = np.clip(1 - told.seen, 0, 1)
    turn = Opined(
        0, told.came, ours, others, *known, leaning(*known), wish, told.rgb, np.ones(came.shape, bool), told.person,
        unknown,
    )  # fmt: skip
    everywhere = slice(0, came.shape[0]), slice(0, came.shape[1])
    voices = voices_on(turn, everywhere, sighting.looks, sighting.similar)
    says = None if voices is None else judged(voices)
    return np.zeros_like(wish) if voices is None or says is None else JUDGED * (says - seen_at(voices.wish))
