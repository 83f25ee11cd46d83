"""The difficulty of cutting the demo shots: by colour alone, by motion, and how much of the subject is only partly
there.
"""

import warnings

import cv2
import numpy as np

from nervykite.demo import FOOTAGE

from ..world.shots import SHOTS
from . import Result
from .material import frames_of, overlap


def measure() -> Result:
    """For each shot the best overlap (IoU) that colour alone, and motion alone, could reach, knowing the truth.

    Colour: every colour (of 16³) goes to whichever it belongs to more often in that very frame. Motion: the
    difference to the shot's temporal median, frames aligned by the true camera, at the best threshold. The ratio
    is the mean of colour over that of motion.
    """
    figures: dict[str, float | str] = {}
    colours, motions = [], []
    for name, shot in SHOTS.items():
        if not shot.cast:
            continue
        pictures = frames_of(FOOTAGE / f"{name}.mp4")
        alphas = [a[..., 0] for a in frames_of(FOOTAGE / "truth" / f"{name}-alpha.mp4")]
        cameras = [shot.camera_at(n) for n in range(shot.frames)]
        seen = [n for n in range(len(pictures)) if (alphas[n] > 127).mean() > 0.01][::12]
        colour = [_by_colour(pictures[n], alphas[n] > 127) for n in seen]
        motion = [_by_motion(pictures, n, cameras, alphas[n] > 127) for n in seen]
        partial = [((a > 5) & (a < 250)).sum() / max(1, (a > 5).sum()) for a in (alphas[n] for n in seen)]
        colours.append(np.mean(colour))
        motions.append(np.mean(motion))
        figures[name] = (
            f"colour {np.mean(colour):.2f}   motion {np.mean(motion):.2f}   "
            f"partial pixels {100 * np.mean(partial):.0f} % of the subject's"
        )
    return Result("footage", float(np.mean(colours) / np.mean(motions)), "colour alone under 0.75 everywhere", figures)


def _by_colour(picture: np.ndarray, truth: np.ndarray) -> float:
    bins = (picture.astype(int) >> 4) @ np.array([256, 16, 1])
    inside = np.bincount(bins[truth], minlength=4096)
    outside = np.bincount(bins[~truth], minlength=4096)
    return overlap((inside > outside)[bins], truth)


def _by_motion(pictures: list[np.ndarray], number: int, cameras: list[np.ndarray], truth: np.ndarray) -> float:
    w, h = truth.shape[1] // 2, truth.shape[0] // 2
    truth = cv2.resize(truth.astype(np.uint8), (w, h), interpolation=cv2.INTER_AREA) > 0
    here = cv2.resize(pictures[number], (w, h), interpolation=cv2.INTER_AREA)
    others = []
    for other in range(number % 6, len(pictures), 6):
        turn = _turn(cameras[other], cameras[number], w, h)
        small = cv2.resize(pictures[other], (w, h), interpolation=cv2.INTER_AREA)
        moved = cv2.warpPerspective(small, turn, (w, h), flags=cv2.INTER_LINEAR)
        inside = cv2.warpPerspective(np.ones((h, w), np.uint8), turn, (w, h))
        others.append(np.where(inside[..., None] > 0, moved, np.float32(np.nan)).astype(np.float32))
    with warnings.catch_warnings():  # where no other frame looked, there is no median
        warnings.simplefilter("ignore", RuntimeWarning)
        scene = np.nanmedian(others, 0)
    differs = np.nan_to_num(np.abs(scene - here).max(-1))
    return max(overlap(cv2.medianBlur((differs > t).astype(np.uint8), 5) > 0, truth) for t in (12, 20, 32, 48, 64))


def _turn(first: np.ndarray, other: np.ndarray, w: int, h: int) -> np.ndarray:
    """The homography of what is far away from one camera's pixels to another's."""

    def rays(camera: np.ndarray) -> np.ndarray:
        pixel = camera[12] * 2 / h
        right, up, forward = camera[6:9] * pixel, camera[9:12] * pixel, camera[3:6]
        return np.stack([right, -up, forward - right * w / 2 + up * h / 2], 1)

    return np.linalg.inv(rays(other)) @ rays(first)
