"""The quality of a matte carried over 24 frames, against the demo's known alpha; beside it, dense flow alone."""

from time import perf_counter

import cv2
import numpy as np

from nervykite.core.see.matte import networks
from nervykite.demo import FOOTAGE
from nervykite.demo.demo_project import truth_alpha
from nervykite.studio.single import carried

from . import Result
from .material import edge_band, frames_of, overlap

SHOTS = {"dune-run": 40, "groyne-pan": 30, "kite-catch": 20, "change-over": 30, "reel-out": 20, "dusk-60": 20}
FRAMES = 24


def plain(frames: list[np.ndarray], alpha: np.ndarray) -> list[np.ndarray]:
    """The baseline: the matte warped from frame to frame by dense optical flow (DIS, Kroeger et al. 2016)."""
    flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_FAST)
    greys = [cv2.cvtColor(f, cv2.COLOR_RGB2GRAY) for f in frames]
    h, w = alpha.shape
    y, x = np.mgrid[0:h, 0:w].astype(np.float32)
    result = [alpha]
    for before, now in zip(greys, greys[1:], strict=False):
        back = flow.calc(now, before, None)  # type: ignore[call-overload]
        result.append(cv2.remap(result[-1], x + back[..., 0], y + back[..., 1], cv2.INTER_LINEAR))
    return result


def flicker(found: list[np.ndarray], truth: list[np.ndarray]) -> float:
    """The mean error of the change from frame to frame, in the band around the true edge."""
    errors = []
    for n in range(1, len(truth)):
        near = edge_band(truth[n])
        if near.any():
            change = (found[n] - found[n - 1]) - (truth[n] - truth[n - 1])
            errors.append(float(np.abs(change)[near].mean()))
    return float(np.mean(errors))


def measure() -> Result:
    """Carries the true matte of a frame of each shot onwards; the ratio: our missing overlap over the baseline's."""
    figures: dict[str, float | str] = {}
    ours: list[float] = []
    theirs: list[float] = []
    flickers: list[float] = []
    times: list[float] = []
    for shot, at in SHOTS.items():
        path = FOOTAGE / f"{shot}.mp4"
        frames = frames_of(path)[at : at + FRAMES + 1]
        truth = [truth_alpha(shot, at + n) for n in range(FRAMES + 1)]
        if not ours:
            list(carried(path, at, truth[0], range(at + 1, at + 4))[0])  # so that nothing is compiled on the clock
        networks.forget()
        begun = perf_counter()
        carried_on, _ = carried(path, at, truth[0], range(at + 1, at + FRAMES + 1))
        found = [truth[0], *(c.alpha for c in sorted(carried_on, key=lambda c: c.frame))]
        times.append((perf_counter() - begun) * 1e3 / FRAMES)
        base = plain(frames, truth[0])
        each = [[overlap(a > 0.5, t > 0.5) for a, t in zip(m, truth, strict=True)][1:] for m in (found, base)]
        ours.append(float(np.mean(each[0])))
        theirs.append(float(np.mean(each[1])))
        flickers.append(flicker(found, truth))
        last, base_last = each[0][-1], each[1][-1]
        figures[shot] = (
            f"IoU {ours[-1]:.3f}, last {last:.3f}   flicker {flickers[-1]:.3f}   {times[-1]:.0f} ms a frame"
            f"   baseline {theirs[-1]:.3f}, last {base_last:.3f}"
        )
    figures |= {"mean IoU": float(np.mean(ours)), "flicker": float(np.mean(flickers)), "ms": float(np.median(times))}
    missing = (1 - np.mean(ours)) / max(1e-6, 1 - np.mean(theirs))
    return Result("carry", float(missing), "IoU at least 0.98, flicker at most 0.06, 200 ms a frame", figures)
