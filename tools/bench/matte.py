"""The quality of mattes: overlap and edge error against known alpha, on the demo's truth or on a folder of cases."""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory
from time import perf_counter

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, ValidationError

from nervykite.core.common.errors import Refusal
from nervykite.core.see.find.strokes import draw
from nervykite.core.see.footage import loose
from nervykite.core.see.matte.fringe import own_colours
from nervykite.demo import FOOTAGE
from nervykite.demo.demo_project import truth_alpha
from nervykite.studio.single import MarksFile, cut

from . import Result
from .material import edge_band, overlap

MARKED = ("dune-run", "groyne-pan", "kite-catch", "splash-down", "dusk-60")
MOVING = ("dune-run", "groyne-pan", "kite-catch", "change-over", "phone-upright")
FRINGED = (("dune-run", 58), ("kite-catch", 40), ("groyne-pan", 45), ("dusk-60", 40))
BAND = 10
LIMBS = (
    ("pelvis", "neck", "head"), ("pelvis", "kneeN", "ankleN"), ("pelvis", "kneeF", "ankleF"),
    ("neck", "elbowN", "wristN"), ("neck", "elbowF", "wristF"),
)  # fmt: skip


class CaseFile(BaseModel):
    """case.json: files are named relative to it."""

    model_config = ConfigDict(extra="forbid")
    footage: str
    frame: int = 0
    marks: str | None = None
    pick: str | None = None
    plate: str | None = None
    truth: str


@dataclass(frozen=True)
class Case:
    """One thing to cut, and what the answer should be: float32 (h, w), 0…1."""

    name: str
    footage: Path
    frame: int
    marks: Path | None
    pick: str | None
    plate: Path | None
    truth: np.ndarray


def band_error(alpha: np.ndarray, truth: np.ndarray) -> float:
    """Mean absolute alpha error within BAND pixels of the true edge, both (h, w), 0…1."""
    near = edge_band(truth, BAND)
    return float(np.abs(alpha - truth)[near].mean()) if near.any() else 0.0


def fringe_error(shot: str, frame: int) -> float:
    """The part of the error that the source's own colours make over a saturated new one that is left after cleaning.

    With the true alpha, in the band around the edge. So that the subject's true colours are known, it is put over
    another shot's footage first, and cut out of that.
    """
    alpha = truth_alpha(shot, frame)
    share = alpha[..., None]
    true = own_colours(loose.around(FOOTAGE / f"{shot}.mp4", frame, None)[0], alpha).astype(np.float32)
    place = loose.around(FOOTAGE / "empty-shore.mp4", 0, None)[0][:, ::-1].astype(np.float32)
    source = np.round(true * share + place * (1 - share)).astype(np.uint8)
    near = edge_band(alpha, BAND) & (alpha > 0.02) & (alpha < 0.98)
    new = np.float32((255, 0, 255))
    wanted = true * share + new * (1 - share)
    kept, cleaned = (
        np.abs(c * share + new * (1 - share) - wanted)[near].mean() for c in (source, own_colours(source, alpha))
    )
    return float(cleaned / kept)


def cases_in(folder: Path) -> Iterator[Case]:
    """The cases of a folder: a folder each, with a `case.json`. Raises Refusal."""
    files = sorted(folder.glob("*/case.json"))
    if not files:
        raise Refusal(f"{folder} holds no cases: a case is a folder with a case.json.")
    for file in files:
        try:
            case = CaseFile.model_validate_json(file.read_bytes())
        except ValidationError as error:
            raise Refusal(f"{file} is not a case: {error.errors()[0]['msg']}.") from error
        if (case.marks is None) == (case.pick is None):
            raise Refusal(f"{file} needs either marks or a pick.")

        def beside(name: str | None, home: Path = file.parent) -> Path | None:
            return home / name if name else None

        yield Case(
            file.parent.name, file.parent / case.footage, case.frame, beside(case.marks), case.pick,
            beside(case.plate), loose.read_matte(file.parent / case.truth),
        )  # fmt: skip


def demo_cases(folder: Path) -> Iterator[Case]:
    """Marks along the limbs and picks, on the demo's shots."""
    for shot in MARKED:
        facts = json.loads((FOOTAGE / "truth" / f"{shot}.json").read_text())
        hold = facts["holds"][0]
        truth = truth_alpha(shot, hold["frame"])
        marks = folder / f"{shot}.json"
        marks.write_text(json.dumps(strokes_for(hold["joints"], truth)))
        yield Case(f"{shot}, marks", FOOTAGE / f"{shot}.mp4", hold["frame"], marks, None, None, truth)
    for shot in MOVING:
        facts = json.loads((FOOTAGE / "truth" / f"{shot}.json").read_text())
        frame = facts["holds"][0]["frame"]
        for pick in ("mover", "person"):
            yield Case(f"{shot}, {pick}", FOOTAGE / f"{shot}.mp4", frame, None, pick, None, truth_alpha(shot, frame))


def strokes_for(figures: list[dict[str, list[float]]], truth: np.ndarray) -> dict:
    """The strokes that a hurried person would draw: a line along each limb, four around the subject."""
    inside = cv2.erode((truth > 0.95).astype(np.uint8), np.ones((5, 5), np.uint8))
    keep = []
    for joints in figures:
        for limb in LIMBS:
            ends = np.array([joints[name] for name in limb], float)
            steps = np.concatenate(
                [a + (b - a) * np.linspace(0, 1, 12)[:, None] for a, b in zip(ends, ends[1:], strict=False)]
            )
            points = [p for p in steps if _at(inside, p)]
            if len(points) > 1:
                keep.append({"points": [p.round(1).tolist() for p in points], "width": 5})
    outside = cv2.dilate((truth > 0.02).astype(np.uint8), np.ones((41, 41), np.uint8)) == 0
    rows, columns = np.nonzero(truth > 0.5)
    x0, x1, y0, y1 = columns.min() - 60, columns.max() + 60, rows.min() - 60, rows.max() + 60
    corners = np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)], float)
    drop = []
    for a, b in zip(corners, corners[1:], strict=False):
        points = [p for p in a + (b - a) * np.linspace(0.05, 0.95, 24)[:, None] if _at(outside, p)]
        if len(points) > 1:
            drop.append({"points": [p.round(1).tolist() for p in points], "width": 5})
    return {"keep": keep, "drop": drop}


def _at(mask: np.ndarray, point: np.ndarray) -> bool:
    x, y = (round(v) for v in point)
    return 0 <= y < mask.shape[0] and 0 <= x < mask.shape[1] and bool(mask[y, x])


def plain(case: Case) -> tuple[np.ndarray, float]:
    """The baseline: grabCut from the strokes, or the difference to the temporal median; and its milliseconds."""
    if case.marks is not None:
        picture, _, _ = loose.around(case.footage, case.frame, None)
        keep, drop = MarksFile.read(case.marks).strokes()
        h, w = picture.shape[:2]
        mask = np.full((h, w), cv2.GC_PR_BGD, np.uint8)
        mask[draw(keep, h, w)], mask[draw(drop, h, w)] = cv2.GC_FGD, cv2.GC_BGD
        begun = perf_counter()
        models = np.zeros((1, 65)), np.zeros((1, 65))
        cv2.setRNGSeed(1)
        cv2.grabCut(picture, mask, (0, 0, w, h), *models, 3, cv2.GC_INIT_WITH_MASK)
        found = (mask == cv2.GC_FGD) | (mask == cv2.GC_PR_FGD)
        return found.astype(np.float32), (perf_counter() - begun) * 1e3
    width, height = loose.size_of(case.footage)
    _, small, at = loose.around(case.footage, case.frame, (width // 2, height // 2))
    begun = perf_counter()
    apart = np.abs(np.median(small, 0) - small[at]).max(-1)
    found = cv2.resize((apart > 24).astype(np.float32), (width, height))
    return found, (perf_counter() - begun) * 1e3


def measure(cases: Path | None = None, kinds: str | None = None, without: str | None = None) -> Result:
    """Scores every case; the ratio is our missing overlap (1 − IoU) over the baseline's.

    cases: a folder of cases instead of the demo's; kinds: many kinds of shot instead, those whose names begin so;
    without: the same with something left out, beside it as it is.
    """
    if kinds is not None or without is not None:
        return by_kind(kinds or "", without)
    figures: dict[str, float | str] = {}
    ours: list[float] = []
    theirs: list[float] = []
    bands: list[float] = []
    times: list[float] = []
    with TemporaryDirectory() as folder:
        for case in cases_in(cases) if cases else demo_cases(Path(folder)):
            if not ours:
                _cut(case)  # so that nothing is compiled while the clock runs
            done = _cut(case)
            alpha = done.alpha
            base, base_ms = plain(case)
            ours.append(overlap(alpha > 0.5, case.truth > 0.5))
            theirs.append(overlap(base > 0.5, case.truth > 0.5))
            bands.append(band_error(alpha, case.truth))
            times.append(done.ms)
            figures[case.name] = (
                f"IoU {ours[-1]:.3f}   band {bands[-1]:.3f}   {times[-1]:.0f} ms"
                f"   baseline {theirs[-1]:.3f}, {base_ms:.0f} ms"
            )
    figures["mean IoU"], figures["least IoU"] = float(np.mean(ours)), float(np.min(ours))
    figures["mean band error"], figures["median ms"] = float(np.mean(bands)), float(median(times))
    if cases is None:
        figures["fringe left"] = float(np.mean([fringe_error(*known) for known in FRINGED]))
    missing = (1 - np.mean(ours)) / max(1e-6, 1 - np.mean(theirs))
    return Result("matte", float(missing), "IoU at least 0.98 from marks, 0.975 for a mover", figures)


def by_kind(which: str, name: str | None) -> Result:
    """Scores each kind of shot, as it is and with something left out; the ratio is the missing overlap over that."""
    from .kinds import kinds, left_out

    figures: dict[str, float | str] = {}
    as_it_is: list[float] = []
    less: list[float] = []
    with left_out(() if name is None else (name,)):
        pass  # an unknown name is refused before anything is measured
    for kind in kinds():
        if not kind.name.startswith(which):
            continue
        ious, bands = _scored(kind.mattes(()))
        as_it_is.append(ious)
        figures[kind.name] = f"IoU {ious:.4f}   band {bands:.4f}"
        if name is not None:
            with left_out((name,)):
                without_it, bands_without = _scored(kind.mattes((name,)))
            less.append(without_it)
            figures[kind.name] += (
                f"   without {name}: IoU {without_it:.4f} ({without_it - ious:+.4f})"
                f"   band {bands_without:.4f} ({bands_without - bands:+.4f})"
            )
    figures["mean IoU"] = float(np.mean(as_it_is))
    if name is None:
        return Result("matte", float(1 - np.mean(as_it_is)), "as little as can be", figures, "missing overlap")
    missing = (1 - np.mean(as_it_is)) / max(1e-6, 1 - np.mean(less))
    return Result("matte", float(missing), f"below 1, or {name} is good for nothing", figures, f"of it without {name}")


def _scored(mattes: Iterator[tuple[np.ndarray, np.ndarray]]) -> tuple[float, float]:
    """The mean overlap and the mean band error of mattes."""
    scores = [(overlap(alpha > 0.5, truth > 0.5), band_error(alpha, truth)) for alpha, truth in mattes]
    ious, bands = np.array(scores).T
    return float(ious.mean()), float(bands.mean())


def _cut(case: Case):
    return cut(case.footage, case.frame, case.marks, case.pick, case.plate)  # type: ignore[arg-type]
