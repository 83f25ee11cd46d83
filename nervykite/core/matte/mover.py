"""Pick mover: what moves against the scene in the frames around a held one."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from ..errors import Refusal
from ..plate.plate import Stack, lay, noise_of, plate_of
from .colours import SPACES, Mixture, lab
from .cut import minimal_cut
from .marks import edges_of, leaning_of, tie_of

PIXELS = 330_000
"""Pixels at which movement is looked for."""


@dataclass(frozen=True)
class Proposal:
    """A subject found, before its edge is solved.

    found: float32 (h, w), 0…1, almost everywhere 0 or 1; warnings: sentences for the person.
    """

    found: np.ndarray
    warnings: tuple[str, ...] = ()


def working_size(width: int, height: int) -> tuple[int, int]:
    """The size at which a mover is looked for in frames of the given size."""
    scale = min(1.0, math.sqrt(PIXELS / (width * height)))
    return max(16, round(width * scale)), max(16, round(height * scale))


def pick_mover(
    frames: list[np.ndarray], at: int, person: Callable[[np.ndarray], np.ndarray | None] | None = None
) -> tuple[Proposal, np.ndarray]:
    """Finds what moves in frame `at` of a shot, and the plate behind it.

    frames: uint8 RGB (h, w, 3) at the working size, in order. The frames are laid onto the held one, the scene
    without its movers is built from them, and what differs from it beyond the scene's own noise, flicker and
    swaying is cut out along edges. `person`, if given, says how likely a person is at each pixel of a frame: it keeps
    somebody who lingers out of the plate. Raises Refusal if nothing moves, or if the whole picture does.
    """
    if len(frames) < 4:
        raise Refusal("A mover shows by comparing frames, and this shot has fewer than four. Use marks instead.")
    stack = lay(frames, at)
    if len(stack.frames) < 4:
        raise Refusal("The frames around this one cannot be laid over each other. Use marks instead.")
    people = people_in(stack, person) if person is not None else None
    plate, support = plate_of(stack, unwanted=people)
    proposal = differing(
        frames[at], plate, noise_of(stack, plate), support, stack, None if people is None else people[0]
    )
    share = float((proposal.found > 0.5).mean())
    if share < 0.0004:
        raise Refusal("Nothing moves in this frame that stands out from the scene. Use marks, or pick another frame.")
    if share > 0.85:
        raise Refusal("Almost the whole picture moves against itself, so no subject stands out. Use marks instead.")
    return proposal, plate


def people_in(stack: Stack, person: Callable[[np.ndarray], np.ndarray | None]) -> np.ndarray | None:
    """How likely a person is in each frame of a stack: float32 (n, h, w); None if they are in none, or all over.

    What the finder says of a whole shot counts only if it found something there: one frame alone may be a mistake.
    """
    found = [person(frame) for frame in stack.frames]
    if any(f is None for f in found):
        return None
    likely = np.stack([f for f in found if f is not None])
    share = (likely > 0.6).mean((1, 2))
    return likely if (share > 0.003).mean() > 0.4 and np.median(share) < 0.7 else None


def pick_difference(frame: np.ndarray, plate: np.ndarray) -> Proposal:
    """What a frame shows that its clean plate does not, both uint8 RGB (h, w, 3) at the working size.

    Raises Refusal if they do not differ, or differ everywhere.
    """
    gain = (np.median(frame.reshape(-1, 3), 0) + 1) / (np.median(plate.reshape(-1, 3), 0) + 1)
    if np.abs(gain - 1).max() < 0.3:
        plate = np.clip(plate * gain, 0, 255).astype(np.uint8)
    apart = np.abs(frame.astype(np.int16) - plate).max(-1)
    noise = np.full(apart.shape, min(np.float32(np.median(apart)), np.float32(5)) + 1.5, np.float32)
    proposal = differing(frame, plate, noise, np.full(apart.shape, 9, np.float32), None)
    share = float((proposal.found > 0.5).mean())
    if share < 0.0004:
        raise Refusal("The frame and the plate show the same. Choose a plate of the scene without the subject.")
    if share > 0.85:
        raise Refusal("The frame and the plate differ nearly everywhere. Choose a plate from the same camera.")
    return proposal


def differing(
    frame: np.ndarray, plate: np.ndarray, noise: np.ndarray, support: np.ndarray, stack: Stack | None,
    person: np.ndarray | None = None,
) -> Proposal:  # fmt: skip
    """What stands out from a plate, given the scene's own noise (h, w) in levels.

    `person` (h, w), 0…1, speaks where hardly any frame has seen what is behind.
    """
    apart = _apart(frame, plate)
    swaying = _seen_before(frame, stack) if stack is not None else apart
    # A blurred edge differs long before it is half subject: the level is half of what its surroundings reach.
    around = cv2.dilate(cv2.medianBlur(np.clip(apart, 0, 255).astype(np.uint8), 3), np.ones((7, 7), np.uint8))
    level = np.maximum(np.maximum(2.6 * noise, 7.0), 0.33 * np.minimum(around, 80))
    strong = np.minimum(apart, 0.35 * apart + 0.65 * swaying) / level
    strong = np.where(_shadowed(frame, plate), np.minimum(0.12 * strong, 0.8), strong)
    unsure = np.clip(1.6 - support / 2.5, 0, 1)  # hardly any frame knows what is behind
    moves = np.tanh((cv2.GaussianBlur(strong.astype(np.float32), (0, 0), 0.6) - 1.0) * 0.9) * (1 - 0.7 * unsure)
    if person is not None:
        sure = 2 * person - 1
        moves = moves + (0.25 + 0.75 * unsure) * np.where(sure > 0, 1.0, 0.3) * sure * np.abs(sure)
        moves = np.clip(moves, -1, 1)
    colours = lab(frame, SPACES[1])
    tie = tie_of(edges_of(lab(frame)), 0.8)
    u = minimal_cut(1.1 * moves, tie, None, 200)
    for _ in range(2):
        u = _worthy(u, strong)
        core = cv2.erode((u > 0.5).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
        rest = cv2.dilate((u > 0.5).astype(np.uint8), np.ones((9, 9), np.uint8)) == 0
        if core.sum() < 60 or rest.sum() < 60:
            break
        near = cv2.dilate(core.astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (41, 41))) > 0
        behind = lab(plate, SPACES[1])
        here = leaning_of(colours, Mixture.of(colours[core], 8), Mixture.of(behind[near], 8))
        wish = 0.95 * moves + 0.35 * here * near - 0.15 * ~near
        u = minimal_cut(wish, tie, u, 160)
    u = _worthy(u, strong)
    warnings = []
    if (unsure * (u > 0.5)).sum() > 0.2 * max(1, (u > 0.5).sum()):
        warnings.append("The subject stays in one place for most of the shot: what is behind it is partly a guess.")
    return Proposal(u, tuple(warnings))


def _apart(frame: np.ndarray, plate: np.ndarray) -> np.ndarray:
    """Difference in levels, forgiving half a pixel of misalignment: float32 (h, w)."""
    f, p = frame.astype(np.int16), plate.astype(np.int16)
    low = cv2.erode(plate, np.ones((3, 3), np.uint8)).astype(np.int16)
    high = cv2.dilate(plate, np.ones((3, 3), np.uint8)).astype(np.int16)
    slack = np.maximum(np.maximum(low - f, f - high), 0).max(-1)
    return (0.75 * np.abs(f - p).max(-1) + 0.25 * slack).astype(np.float32)


def _seen_before(frame: np.ndarray, stack: Stack) -> np.ndarray:
    """The difference to the most alike of the other frames' surroundings, in levels: float32 (h, w).

    What sways shows the same colours near the same place all through the shot; a subject that passes does not.
    """
    f = frame.astype(np.int16)
    nearest = []
    for other, moving, valid in zip(stack.frames[1:], stack.moving[1:], stack.valid[1:], strict=True):
        low = cv2.erode(other, np.ones((5, 5), np.uint8)).astype(np.int16)
        high = cv2.dilate(other, np.ones((5, 5), np.uint8)).astype(np.int16)
        off = np.maximum(np.maximum(low - f, f - high), 0).max(-1).astype(np.float32)
        off[~valid] = 255
        nearest.append(off + 6.0 * moving)
    # It has to be seen in three quarters of the shot: what sways comes back, a subject that lingers does not.
    quarters = [np.min(part, 0) for part in np.array_split(np.stack(nearest), min(4, len(nearest)))]
    return np.sort(np.stack(quarters), 0)[max(0, len(quarters) - 2)]


def _shadowed(frame: np.ndarray, plate: np.ndarray) -> np.ndarray:
    """Where the frame looks like the plate in shade: darker by one factor in all channels, the texture kept."""
    f = cv2.GaussianBlur(frame, (0, 0), 1.2).astype(np.float32) + 4
    p = cv2.GaussianBlur(plate, (0, 0), 1.2).astype(np.float32) + 4
    ratio = f / p
    middle = ratio.mean(-1)
    spread = np.ptp(ratio, axis=-1)
    bluer = (ratio[..., 0] <= ratio[..., 1] + 0.02) & (ratio[..., 1] <= ratio[..., 2] + 0.02)  # skylight fills shade
    change = cv2.GaussianBlur(middle, (0, 0), 3)
    texture = np.abs(middle - change)
    shade = (middle > 0.42) & (middle < 0.96) & (spread < np.where(bluer, 0.24, 0.10)) & (texture < 0.07)
    shade = cv2.morphologyEx(shade.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    return cv2.dilate(shade, np.ones((3, 3), np.uint8)) > 0


def _worthy(u: np.ndarray, strong: np.ndarray) -> np.ndarray:
    """The parts of an answer that are large and strong enough: beside the largest part, less is enough."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats((u > 0.5).astype(np.uint8), connectivity=8)
    if count < 2:
        return u
    areas = stats[:, cv2.CC_STAT_AREA]
    weight = np.bincount(labels.ravel(), np.minimum(strong, 6).ravel(), minlength=count)
    weight[0] = 0
    largest = labels == int(np.argmax(weight))
    reach = 2 * round(0.06 * math.sqrt(largest.size)) + 1
    beside = np.zeros(count, bool)
    beside[np.unique(labels[cv2.dilate(largest.astype(np.uint8), np.ones((reach, reach), np.uint8)) > 0])] = True
    kept = (weight > np.where(beside, 0.004, 0.06) * weight.max()) & (areas > 12)
    kept[0] = False
    return np.where(kept[labels], u, 0).astype(np.float32)
