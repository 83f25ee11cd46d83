"""The exactness of following a camera: against cameras that are known, and the demo's Groyne pan."""

import json
from pathlib import Path
from time import perf_counter
from typing import Any

import cv2
import numpy as np

from nervykite.core.see.footage import loose
from nervykite.core.see.scene.follow import follow
from nervykite.demo import FOOTAGE
from nervykite.demo.demo_project import truth_alpha
from nervykite.studio.following import followed, small_size

from . import Result
from .cameras import Shot, errors, shot

SHOTS: tuple[tuple[str, dict[str, Any]], ...] = (
    *((f"{kind}, textured", {"kind": kind}) for kind in ("pan", "hand", "zoom", "tilt")),
    *((f"{kind}, dim and noisy", {"kind": kind, "noise": 9.0, "dim": 0.35}) for kind in ("pan", "hand")),
    ("120 frames out and back", {"kind": "out and back", "frames": 120}),
)
SEEDS = (0, 1, 2)
FULL = 2.0
"""By how much a frame of 1080×1920 is larger than those that are followed: errors are told in its pixels."""


def measure() -> Result:
    """Errors in pixels of 1080×1920; the ratio is ours over those of maps from frame to frame, strung together."""
    figures: dict[str, float] = {}
    ours, chained, times = [], [], []
    for name, settings in SHOTS:
        rms, worst = [], []
        for seed in SEEDS:
            made = shot(seed=seed, **settings)
            begun = perf_counter()
            way = follow(made.frames.__getitem__, range(len(made.frames)), made.ref, made.subject)
            times.append((perf_counter() - begun) / len(made.frames) * 1000)
            size = made.frames[0].shape[1], made.frames[0].shape[0]
            off = FULL * errors([f.matrix for f in way.frames], made.to_ref, size)
            rms.append(float(np.sqrt((off**2).mean())))
            worst.append(float(off.max()))
            if name.endswith("textured"):
                ours.append(rms[-1])
                chained.append(float(np.sqrt(((FULL * errors(_chained(made), made.to_ref, size)) ** 2).mean())))
        figures[f"{name}: rms, px"] = float(np.median(rms))
        figures[f"{name}: worst frame, px"] = float(np.max(worst))
    figures["strung together, textured: rms, px"] = float(np.median(chained))
    figures["a frame, ms"] = float(np.median(times))
    figures |= _groyne()
    aim = "0.15 and 0.5 px textured, 0.5 and 1.5 px noisy and out and back, 80 ms a frame, Groyne pan within 1 px"
    return Result("track", float(np.median(np.array(ours) / np.array(chained))), aim, figures)


def _chained(made: Shot) -> list[np.ndarray]:
    """Homographies from each frame to the next by corners and RANSAC, strung together from the held one on."""
    found = {made.ref: np.eye(3)}
    for order in (range(made.ref + 1, len(made.frames)), range(made.ref - 1, -1, -1)):
        for number in order:
            before, now = made.frames[number - order.step], made.frames[number]
            corners = cv2.goodFeaturesToTrack(before, 400, 0.01, 8)
            there, seen, _ = cv2.calcOpticalFlowPyrLK(before, now, corners, np.empty(0, np.float32))
            good = seen.ravel() > 0
            hop, _ = cv2.findHomography(there[good], corners[good], cv2.RANSAC, 1.0)
            found[number] = found[number - order.step] @ (np.eye(3) if hop is None else hop)
    return [found[n] for n in range(len(made.frames))]


def _groyne() -> dict[str, float]:
    """The error of the sand of the Groyne pan where it is seen, over the frames around the held one, and all."""
    truth = json.loads((FOOTAGE / "truth" / "groyne-pan.json").read_text())
    ground = [np.array(g).reshape(3, 3) for g in truth["ground"]]
    path, size, ref = Path(FOOTAGE / "groyne-pan.mp4"), (720, 1280), 45
    greys = [cv2.cvtColor(loose.shrunk(f, small_size(*size)), cv2.COLOR_RGB2GRAY) for f in loose.frames(path)]
    way = followed(greys.__getitem__, range(len(greys)), ref, size, truth_alpha("groyne-pan", ref))
    grid = np.stack(np.meshgrid(np.linspace(0, 720, 9), np.linspace(900, 1280, 5)), -1).reshape(-1, 1, 2)
    off = []
    for one, true in zip(way.frames, ground, strict=True):
        there = cv2.perspectiveTransform(grid, ground[ref] @ np.linalg.inv(true))
        off.append(float(np.sqrt(((cv2.perspectiveTransform(grid, one.matrix) - there) ** 2).sum(-1).mean())))
    near = off[ref - 5 : ref + 6]
    return {
        "Groyne pan, five frames either way: worst, px": max(near),
        "… all frames: median, px": float(np.median(off)),
    }
