"""Marks: a few rough keep and drop strokes to the subject they mean."""

import math
from dataclasses import dataclass

import cv2
import numpy as np

from ..errors import Refusal
from .colours import SPACES, Mixture, lab, separation
from .cut import minimal_cut
from .geodesic import geodesic_distance

COARSE, FINE = 150_000, 700_000
"""Pixels of the two sizes at which the subject is looked for."""


# How much each voice counts, found by trying them on pictures with known subjects.
COLOUR_FIRST, COLOUR, ALONG, AWAY, NEARBY, DOUBT, OUTLINE = 0.55, 1.0, 0.75, 0.5, 0.15, 0.1, 1.4
PERSON, NO_PERSON = 0.5, 0.4


@dataclass(frozen=True)
class Stroke:
    """A line drawn by hand: points (n, 2) in source pixels, and its width."""

    points: np.ndarray
    width: float


def draw(strokes: list[Stroke], height: int, width: int, scale: float = 1.0) -> np.ndarray:
    """The pixels that strokes cover in a frame of the given size, `scale` times the source's: bool (height, width)."""
    mask = np.zeros((height, width), np.uint8)
    for stroke in strokes:
        points = np.round((np.asarray(stroke.points, float).reshape(-1, 2) * scale - 0.5) * 16).astype(np.int32)
        radius = stroke.width * scale / 2
        if radius > 0.75:
            cv2.polylines(mask, [points], False, 1, max(1, round(2 * radius)), cv2.LINE_8, 4)
            for end in (points[0], points[-1]):
                cv2.circle(mask, tuple(int(v) for v in end), max(8, round(radius * 16)), 1, -1, cv2.LINE_8, 4)
        else:
            cv2.polylines(mask, [points], False, 1, 1, cv2.LINE_8, 4)
    return mask > 0


def check(keep: list[Stroke], drop: list[Stroke], height: int, width: int) -> None:
    """Raises Refusal where nothing can be made of the strokes in a frame of this size."""
    inside, outside = draw(keep, height, width), draw(drop, height, width)
    if not keep and not drop:
        raise Refusal("There are no marks yet. Draw a keep stroke over the subject and a drop stroke beside it.")
    if not (inside.any() or outside.any()):
        raise Refusal("All marks lie outside the frame. Draw them over the picture.")
    if not inside.any():
        raise Refusal("No keep stroke lies on the picture. Draw one over the subject.")


def _small(picture: np.ndarray, pixels: int) -> tuple[np.ndarray, float]:
    h, w = picture.shape[:2]
    scale = min(1.0, math.sqrt(pixels / (h * w)))
    if scale == 1.0:
        return picture, 1.0
    size = (max(8, round(w * scale)), max(8, round(h * scale)))
    return cv2.resize(picture, size, interpolation=cv2.INTER_AREA), scale


def edges_of(colours: np.ndarray) -> np.ndarray:
    """How strongly colours (h, w, 3) change at each pixel, in colour units: float32 (h, w)."""
    soft = cv2.GaussianBlur(colours, (0, 0), 0.7)
    dx = cv2.Sobel(soft, cv2.CV_32F, 1, 0, ksize=3, scale=1 / 8)
    dy = cv2.Sobel(soft, cv2.CV_32F, 0, 1, ksize=3, scale=1 / 8)
    return np.sqrt((dx * dx + dy * dy).sum(-1))


def tie_of(edges: np.ndarray, strength: float) -> np.ndarray:
    """What an outline costs at each pixel: little on edges, `strength` where the picture is even."""
    usual = float(np.mean(edges)) + 1e-3
    return (strength * (0.06 + 0.94 * np.exp(-((edges / (1.6 * usual)) ** 1.0)))).astype(np.float32)


def leaning_of(colours, keep_mixture, drop_mixture) -> np.ndarray:
    """How much each pixel's colour speaks for the subject: float32 (h, w), about -1…1."""
    floor = np.float32(math.log(0.04 / 1e6) + 2.757)  # a colour that neither knows says nothing
    keep = np.logaddexp(keep_mixture.log_likelihood(colours), floor)
    drop = np.logaddexp(drop_mixture.log_likelihood(colours), floor)
    return np.tanh((keep - drop) / 4).astype(np.float32)


def find(picture: np.ndarray, keep: list[Stroke], drop: list[Stroke], person: np.ndarray | None = None) -> np.ndarray:
    """The subject that the strokes mean, before its edge is solved.

    picture: uint8 RGB (h, w, 3). person: how likely a person is at each pixel, 0…1, at any size; it counts only if
    the strokes agree with it. Returns float32 at FINE size at most (the caller enlarges it), 0…1, almost everywhere
    0 or 1. Raises Refusal.

    A coarse search (colours of the strokes, distance along the picture, minimal cut; colours learned anew from the
    answer) is followed by one more cut near its outline at the finer size.
    """
    h, w = picture.shape[:2]
    check(keep, drop, h, w)
    small, scale = _small(picture, COARSE)
    size = small.shape[:2]
    inside, outside = (draw(strokes, size[0], size[1], scale) for strokes in (keep, drop))
    outside &= ~inside
    rim = _rim(inside)
    spaces = [lab(small, space) for space in SPACES]
    known_out = outside if outside.any() else rim
    scores = [separation(c[inside], c[known_out]) for c in spaces]
    weights = SPACES[int(np.argmax(scores))]
    colours = spaces[int(np.argmax(scores))]
    edges = edges_of(colours)
    tie = tie_of(edges, OUTLINE)
    away = cv2.distanceTransform((~inside).astype(np.uint8), cv2.DIST_L2, 5) / _extent(inside)
    keep_mixture = Mixture.of(colours[inside])
    drop_mixture = Mixture.of(_with_what_is_far(colours, known_out, away), 10)
    hint = _agreed(person, inside, outside)
    u = None
    for turn in range(3):
        leaning = leaning_of(colours, keep_mixture, drop_mixture)
        soft = cv2.GaussianBlur(leaning, (0, 0), 1.0)
        step = edges_of(np.repeat(soft[..., None], 3, -1))
        cost = (0.02 + 0.08 * edges / (edges.mean() + 1e-3) + 8 * step).astype(np.float32)
        near = geodesic_distance(inside, cost)
        # The frame's edge is where the background is usually seen: a way may begin there too, at a price.
        price = np.where(rim & (leaning < 0.3), 0.1 * float(np.median(near)), 1e9).astype(np.float32)
        price[outside] = 0
        far = geodesic_distance(price, cost)
        along = (far - near) / (far + near + 1e-6)
        wish = (COLOUR_FIRST if turn == 0 else COLOUR) * leaning + ALONG * along
        wish -= AWAY * np.clip(away - NEARBY, 0, 1) + DOUBT
        if hint is not None:
            wish += np.where(hint > 0, PERSON * np.clip(1.3 - 2 * away, 0, 1), NO_PERSON) * hint
        wish[inside] = 40
        wish[outside] = -40
        u = minimal_cut(wish, tie, u if u is not None else (along > 0).astype(np.float32), 240)
        u = marked_parts(u, inside)
        if turn < 2:
            u_in, u_out = _learn_from(u, inside, outside)
            keep_mixture, drop_mixture = Mixture.of(colours[u_in], 8), Mixture.of(colours[u_out], 8)
    return _refine(picture, u, keep, drop, weights, keep_mixture, drop_mixture)


def _with_what_is_far(colours: np.ndarray, outside: np.ndarray, away: np.ndarray) -> np.ndarray:
    """Colours (n, 3) of the drop strokes and, as many again, of what lies far from the keep strokes."""
    rng = np.random.default_rng(2)
    marked = colours[outside]
    far = colours[(away > 0.22) & ~outside]
    if len(far) < 50:
        return marked
    count = 3000
    return np.concatenate([marked[rng.integers(0, len(marked), count)], far[rng.integers(0, len(far), count)]])


def _agreed(person: np.ndarray | None, inside: np.ndarray, outside: np.ndarray) -> np.ndarray | None:
    """What a person finder adds, -1…1, if the keep strokes lie on what it found and the drop strokes do not."""
    if person is None:
        return None
    here = cv2.resize(person, inside.shape[::-1], interpolation=cv2.INTER_LINEAR)
    if here[inside].mean() < 0.6 or (outside.any() and here[outside].mean() > 0.4):
        return None
    sure = 2 * here - 1
    return (sure * np.abs(sure)).astype(np.float32)


def _learn_from(u, inside, outside):
    core = cv2.erode((u > 0.5).astype(np.uint8), np.ones((3, 3))) > 0
    rest = cv2.dilate((u > 0.5).astype(np.uint8), np.ones((5, 5))) == 0
    return core | inside, rest | outside


def _rim(inside: np.ndarray) -> np.ndarray:
    """The frame's edge, but for where the keep strokes come near it."""
    rim = np.zeros(inside.shape, bool)
    k = max(1, min(inside.shape) // 60)
    rim[:k] = rim[-k:] = rim[:, :k] = rim[:, -k:] = True
    return rim & (cv2.dilate(inside.astype(np.uint8), np.ones((9, 9))) == 0)


def _extent(inside: np.ndarray) -> float:
    ys, xs = np.nonzero(inside)
    return float(np.hypot(np.ptp(ys) + 4, np.ptp(xs) + 4))


def marked_parts(u: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """The parts of an answer (h, w) that a keep stroke touches; what nobody marked is not the subject."""
    count, labels = cv2.connectedComponents((u > 0.5).astype(np.uint8), connectivity=8)
    kept = np.zeros(count, bool)
    kept[np.unique(labels[inside])] = True
    kept[0] = False
    return np.where(kept[labels], u, 0).astype(np.float32)


def _refine(picture, u, keep, drop, weights, keep_mixture, drop_mixture) -> np.ndarray:
    """One more cut at the finer size, within a band around the coarse outline."""
    medium, scale = _small(picture, FINE)
    h, w = medium.shape[:2]
    grown = cv2.resize(u, (w, h), interpolation=cv2.INTER_LINEAR)
    ratio = h / u.shape[0]
    radius = max(3, math.ceil(3.0 * ratio))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))
    sure_in = cv2.erode((grown > 0.5).astype(np.uint8), disc) > 0
    sure_out = cv2.dilate((grown > 0.5).astype(np.uint8), disc) == 0
    colours = lab(medium, weights)
    leaning = leaning_of(colours, keep_mixture, drop_mixture)
    wish = 0.55 * leaning + 0.5 * (2 * cv2.GaussianBlur(grown, (0, 0), radius / 1.5) - 1)
    wish[sure_in] = 40
    wish[sure_out] = -40
    inside, outside = draw(keep, h, w, scale), draw(drop, h, w, scale)
    wish[inside] = 40
    wish[outside & ~inside] = -40
    return marked_parts(minimal_cut(wish, tie_of(edges_of(colours), 1.3), grown, 120), inside)
