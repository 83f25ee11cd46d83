"""Pick person: a small network says roughly where people are, the picture says where they end.

The network is the segmentation model (256 × 256, TensorFlow Lite) that the npm package
`@mediapipe/selfie_segmentation` ships (Apache-2.0); it is loaded from the installed package and never fetched.
"""

import functools
import os
from pathlib import Path

import cv2
import numpy as np

from ..errors import Refusal
from .colours import SPACES, Mixture, lab
from .cut import minimal_cut
from .marks import edges_of, leaning_of, tie_of
from .mover import Proposal, working_size

SIDE = 256
MODEL = "node_modules/@mediapipe/selfie_segmentation/selfie_segmentation.tflite"


def model_path() -> Path:
    """Where the network is looked for: NERVYKITE_PERSON_MODEL, or beside the page's packages."""
    given = os.environ.get("NERVYKITE_PERSON_MODEL")
    return Path(given) if given else Path(__file__).parents[3] / "web" / MODEL


@functools.cache
def _network(path: Path):
    try:
        from ai_edge_litert.interpreter import Interpreter
    except ImportError as error:
        raise Refusal("Pick person is off: the package ai-edge-litert is not installed. Use marks instead.") from error
    if not path.is_file():
        raise Refusal("Pick person is off: the person network is not installed (run “make setup”). Use marks instead.")
    network = Interpreter(str(path), num_threads=2)
    network.allocate_tensors()
    return network


def likelihood(picture: np.ndarray) -> np.ndarray:
    """How likely a person is at each pixel of a picture uint8 RGB (h, w, 3): float32 (h, w), 0…1. Raises Refusal."""
    network = _network(model_path())
    small = cv2.resize(picture, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    network.set_tensor(network.get_input_details()[0]["index"], small[None])
    network.invoke()
    answer = network.get_tensor(network.get_output_details()[0]["index"])[0, ..., 0]
    return cv2.resize(np.clip(answer, 0, 1), (picture.shape[1], picture.shape[0]), interpolation=cv2.INTER_CUBIC)


def prior(picture: np.ndarray, near: np.ndarray | None = None) -> np.ndarray:
    """The network's answers to several crops, put together: float32 (h, w), 0…1. Raises Refusal.

    The full picture and squares of it disagree, and either may be right; so does a crop closer to what was found.
    A crop counts by how sure it is of itself. `near` (h, w), 0…1, says where to look as well: an earlier answer,
    or where something moves.
    """
    h, w = picture.shape[:2]
    total, weight = np.zeros((h, w), np.float32), np.full((h, w), 1e-4, np.float32)

    def ask(x0: int, y0: int, x1: int, y1: int, trust: float) -> None:
        crop = picture[y0:y1, x0:x1]
        if min(crop.shape[:2]) < 24:
            return
        found = np.clip(likelihood(crop), 0, 1)
        sure = trust * (0.05 + np.abs(2 * found - 1) ** 2)
        sure *= _window(*found.shape)  # a crop knows least about its own rim
        total[y0:y1, x0:x1] += sure * found
        weight[y0:y1, x0:x1] += sure

    ask(0, 0, w, h, 1.0)
    side = min(h, w)
    for k in range(3 if max(h, w) > 1.25 * side else 1):
        shift = round((max(h, w) - side) * k / 2)
        x0, y0 = (0, shift) if h >= w else (shift, 0)
        ask(x0, y0, x0 + side, y0 + side, 0.8)
    for widen in (1.7, 1.3):
        guide = total / weight
        if near is not None:
            guide = np.maximum(guide, 0.9 * near)
        box = _box(guide)
        if box is None:
            break
        cx, cy, long = box
        half = round(long * widen / 2)
        ask(max(0, cx - half), max(0, cy - half), min(w, cx + half), min(h, cy + half), 2.5)
    return np.clip(total / weight, 0, 1)


def person_hint(picture: np.ndarray) -> np.ndarray | None:
    """The prior for a picture uint8 RGB (h, w, 3) as a help for marks, at `working_size`; None if it is off."""
    try:
        return prior(cv2.resize(picture, working_size(*picture.shape[1::-1]), interpolation=cv2.INTER_AREA))
    except Refusal:
        return None


def _window(h: int, w: int) -> np.ndarray:
    y, x = (np.minimum(np.linspace(0.15, 2.5, n), np.linspace(2.5, 0.15, n)).clip(0, 1) for n in (h, w))
    return (y[:, None] * x[None, :]).astype(np.float32)


def _box(guide: np.ndarray) -> tuple[int, int, float] | None:
    count, labels, stats, _ = cv2.connectedComponentsWithStats((guide > 0.5).astype(np.uint8))
    if count < 2:
        return None
    mass = np.bincount(labels.ravel(), guide.ravel(), minlength=count)
    mass[0] = 0
    x, y, w, h, _ = stats[int(np.argmax(mass))]
    return int(x + w / 2), int(y + h / 2), float(max(w, h, 32))


def pick_person(picture: np.ndarray, near: np.ndarray | None = None) -> Proposal:
    """Finds the people in a picture, uint8 RGB (h, w, 3) of any size, and cuts them out along edges.

    `near`: see `prior`, at any size. Works at `working_size`. Raises Refusal if there is nobody, or no network.
    """
    h, w = picture.shape[:2]
    size = working_size(w, h)
    small = cv2.resize(picture, size, interpolation=cv2.INTER_AREA)
    guide = prior(small, None if near is None else cv2.resize(near, size))
    if (guide > 0.6).mean() < 0.001:
        raise Refusal("No person was found in this frame. Use marks, or pick mover.")
    colours = lab(small, SPACES[0])
    tie = tie_of(edges_of(lab(small)), 0.9)
    sure = np.tanh((guide - 0.5) * 5).astype(np.float32)
    u = minimal_cut(1.2 * sure, tie, None, 120)
    for _ in range(2):
        inside = (u > 0.5) & (guide > 0.8)
        near_by = cv2.dilate((u > 0.5).astype(np.uint8), np.ones((61, 61), np.uint8)) > 0
        outside = (u < 0.5) & (guide < 0.2) & near_by
        if inside.sum() < 80 or outside.sum() < 80:
            break
        here = leaning_of(colours, Mixture.of(colours[inside], 8), Mixture.of(colours[outside], 8))
        u = minimal_cut(1.3 * sure * np.abs(sure) + 0.35 * sure + 0.30 * here * near_by, tie, u, 160)
    count, labels, stats, _ = cv2.connectedComponentsWithStats((u > 0.5).astype(np.uint8))
    kept = stats[:, cv2.CC_STAT_AREA] > 0.04 * max(1, stats[1:, cv2.CC_STAT_AREA].max(initial=1))
    kept[0] = False
    u = np.where(kept[labels], u, 0).astype(np.float32)
    return Proposal(u)
