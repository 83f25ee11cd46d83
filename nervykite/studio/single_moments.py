"""The frames worth holding in a single file, without a project, by the same services: `nervykite moments`."""

import json
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from ..core.common.errors import Refusal
from ..core.piece.model import Shot
from ..core.see.catch.apexes import FrameProposal, unasked
from .importing import import_file
from .studio import Studio
from .watching import Cadence, ShotObservations, watch_shot


def moments(
    source: Path, count: int | None = None, every: int | None = None, span: tuple[int, int] | None = None
) -> dict[str, Any]:
    """The proposals for a video: {"frames": [{"frame", "crisp", "motion", "peak", "why"}], "curves": {…}, "note"}.

    count: how many, the best; every: every so manyth frame instead, while the subject is seen; span: only frames of a
    range, half-open. crisp and peak are 0…1, motion is in pixels of the file a frame. Raises Refusal.
    """
    if not source.is_file():
        raise Refusal(f"There is no file {source}. Check its name.")
    with TemporaryDirectory(prefix="nervykite-") as folder:
        studio = Studio(Path(folder))
        try:
            project = studio.projects.new(source.stem or "Moments").document.project.id
            shot, _ = import_file(studio, project, studio.keep_file(source), source.name)
            if not isinstance(shot, Shot):
                raise Refusal(f"{source.name} is a {shot.kind}: it has no frames to choose from. Give a video.")
            watch_shot(studio, shot)
            return _told(ShotObservations(studio), shot, count, every, span)
        finally:
            studio.close()


def _told(
    looks: ShotObservations, shot: Shot, count: int | None, every: int | None, span: tuple[int, int] | None
) -> dict:
    first, past = span or (0, shot.frames)
    if first >= shot.frames:
        raise Refusal(f"{shot.name} has no frame {first}; its last one is {shot.frames - 1}.")
    allowed = range(first, min(past, shot.frames))
    curves = looks.curves(shot)
    crisp = np.concatenate([c.crisp for c in curves])
    motion = np.concatenate([c.speed for c in curves]) * shot.height
    there = np.flatnonzero(np.concatenate([c.there for c in curves]))
    found = looks.proposals(shot, frozenset(allowed) if span else None)
    if every is not None:
        seen = [int(f) for f in there if int(f) in allowed] or list(allowed)
        asked = Cadence(first=seen[0], last=seen[-1], every=every)
        known = {p.frame: p for p in found if p.peak > 0}
        spaced = looks.cadence(shot, asked, list(allowed))
        chosen = [known.get(f, FrameProposal(f, "evenly spaced", 0.0, 0.0, 0.0)) for f in spaced]
    else:
        chosen = found[: unasked(found) if count is None else count]
    frames = [
        {"frame": p.frame, "crisp": round(float(crisp[p.frame]), 4), "motion": round(float(motion[p.frame]), 3),
         "peak": round(p.peak, 4), "why": p.why}
        for p in sorted(chosen, key=lambda p: p.frame)
    ]  # fmt: skip
    note = None if len(there) else "Nothing moves here that could be followed."
    return {
        "frames": frames,
        "curves": {"crisp": crisp.round(4).tolist(), "motion": motion.round(3).tolist()},
        "note": note,
    }


def written(told: dict[str, Any], json_file: Path | None) -> str:
    """The findings as lines of text; as JSON in a file, if one is given. Raises Refusal if that cannot be written."""
    if json_file is not None:
        try:
            json_file.write_text(json.dumps(told, indent=1) + "\n")
        except OSError as error:
            raise Refusal(f"{json_file} cannot be written: {error.strerror}. Choose another place.") from error
    lines = [f"{'frame':>6}  {'crisp':>5}  {'px a frame':>10}  {'peak':>4}  why"]
    lines += [
        f"{f['frame']:6d}  {f['crisp']:5.2f}  {f['motion']:10.1f}  {f['peak']:4.2f}  {f['why']}" for f in told["frames"]
    ]
    return "\n".join(lines if told["frames"] else [told["note"] or "No frame stands out."])
