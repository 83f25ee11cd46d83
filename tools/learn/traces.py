"""Traces: squares along outlines that are a little off, and the true matte there: what the tracer learns from.

python -m tools.learn.traces traces-1.npz --count 5000 --seed 1 --cutouts FOLDER --places FOLDER
"""

import argparse
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np

from nervykite.core.see.find.refine import refined
from nervykite.core.see.matte.tracer import SIDE, signed_distance

from .camera import moved, power
from .cutouts import Collection
from .noise import noise
from .scenes import Scene, ragged
from .scenes import scene as made_up

TALL = (560, 1100)
"""Rows of a scene, which is upright."""
OUTLINES, MOST = 3, 24
"""How many outlines of a scene are tried, and how many squares of each are taken at most."""
SPACED, FEWEST = 50, 5
"""About how far from each other they are, px, and how many there are at least."""
MADE_UP, RAGGED = 0.25, 0.12
"""The share of made-up scenes, and of cut-outs that are given fur."""
NEAR = 0.55
"""The share of outlines that have been laid onto edges, right or wrong."""
UNIT = 7
"""What a pixel of distance is stored as."""


class Trace(NamedTuple):
    """A square: uint8 RGB, how far inside the outline each pixel is, int8 in UNITs, and the true matte, uint8."""

    picture: np.ndarray
    away: np.ndarray
    truth: np.ndarray


def traces_on(rng: np.random.Generator, picture: np.ndarray, alpha: np.ndarray) -> list[Trace]:
    """Squares along a few outlines that are off, of a subject in a picture, uint8 RGB, with the matte `alpha`."""
    h, w = alpha.shape
    truth = np.round(alpha * 255).astype(np.uint8)
    traces = []
    for _ in range(OUTLINES):
        hard = off(rng, picture, alpha)
        line = np.argwhere(cv2.morphologyEx(hard, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)))
        if len(line) < SPACED:
            continue
        away = np.round(signed_distance(hard) * UNIT).astype(np.int8)
        count = int(np.clip(len(line) / SPACED, FEWEST, MOST))
        for point in line[rng.integers(0, len(line), count)]:
            top, left = np.clip(point - rng.integers(8, SIDE - 8, 2), 0, (h - SIDE, w - SIDE))
            box = slice(top, top + SIDE), slice(left, left + SIDE)
            traces.append(Trace(picture[box], away[box], truth[box]))
    return traces


def off(rng: np.random.Generator, picture: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """An outline as it might be found of a subject: uint8 (h, w), 0 or 1.

    It wanders, cuts corners, loses what is thin, takes in or leaves out spots, and may then be laid onto edges.
    """
    h, w = alpha.shape
    rough = cv2.GaussianBlur(alpha, (0, 0), rng.uniform(0.5, 5)) if rng.random() < 0.5 else alpha
    far = rng.uniform(0, 1.5) if rng.random() < 0.4 else rng.uniform(1.5, 6)
    y, x = np.mgrid[:h, :w].astype(np.float32)
    across, down = (noise(rng, h, w, 3, 6, rng.uniform(0.3, 1.2)) * np.float32(far) for _ in range(2))
    rough = cv2.remap(rough, x + across, y + down, cv2.INTER_LINEAR)
    if rng.random() < 0.4:
        spots = np.clip(np.abs(noise(rng, h, w, 3, 5, 0.6)) - 1.2, 0, 1.5) * (cv2.GaussianBlur(alpha, (0, 0), 6) > 0.03)
        rough = rough + rng.choice([-0.45, 0.45]) * spots
    hard = (rough > rng.uniform(0.3, 0.7)).astype(np.float32)
    if 0 < hard.mean() < 1 and rng.random() < NEAR:
        found = cv2.resize(hard, None, fx=0.7, fy=0.7, interpolation=cv2.INTER_AREA)
        hard = cv2.resize(refined(picture, found, np.zeros_like(found)), (w, h), interpolation=cv2.INTER_LINEAR)
    return (hard > 0.5).astype(np.uint8)


def scene_for(rng: np.random.Generator, collection: Collection, height: int, width: int) -> Scene | None:
    """A scene whose subject is sharp, furry, out of focus or moving; None if it came out too small."""
    if rng.random() < MADE_UP:
        return made_up(rng, height, width)

    def soft(alpha: np.ndarray) -> np.ndarray:
        return ragged(rng, alpha) if rng.random() < RAGGED else alpha

    return collection.scene(rng, height, width, soft, lambda subject: moved(rng, subject), power(rng))


def main() -> None:
    """Makes traces and writes them into a file."""
    parser = argparse.ArgumentParser(description=main.__doc__)
    parser.add_argument("out", type=Path)
    parser.add_argument("--count", type=int, default=5000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--cutouts", type=Path, action="append", required=True, help="a folder of cut-out pictures")
    parser.add_argument("--places", type=Path, action="append", required=True, help="a folder of photographs")
    given = parser.parse_args()
    rng, collection = np.random.default_rng(given.seed), Collection(given.cutouts, given.places)
    traces: list[Trace] = []
    while len(traces) < given.count:
        height = int(rng.integers(*TALL))
        made = scene_for(rng, collection, height, round(height * 9 / 16))
        if made is not None:
            traces += traces_on(rng, made.picture, made.alpha)
    picture, away, truth = (np.stack(values) for values in zip(*traces, strict=True))
    np.savez(given.out, allow_pickle=False, picture=picture, away=away, truth=truth)


if __name__ == "__main__":
    main()
