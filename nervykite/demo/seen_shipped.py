"""The looking-through of the demo's shots, shipped beside them: nobody has to wait for it.

`python -m nervykite.demo.seen_shipped` looks all of them through again: to be done when another method sees them.
"""

import io
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from ..core.piece.model import Document, Project
from ..core.see.catch.seen import METHOD
from ..studio import Studio
from ..studio.importing import import_shot
from ..studio.watching import watch_shot
from . import FOOTAGE

KEPT = FOOTAGE / "seen"


def put_seen(studio: Studio, shot: str, name: str) -> None:
    """Keeps with a shot what was seen of one of the demo's, by its name; nothing if it was looked at by other means."""
    kept = KEPT / f"{name}.npz"
    if not kept.is_file():
        return
    with np.load(kept) as found:
        if int(found["method"]) != METHOD:
            return
        for n, (first, frames) in enumerate(found["stretches"].tolist()):
            studio.watched.put(shot, first, frames, found[f"seen{n}"].tobytes(), found[f"bodies{n}"].tobytes())


def written(studio: Studio, shot: str) -> bytes:
    """The records of a shot, as they are kept: a compressed NumPy archive."""
    stretches = studio.watched.stretches(shot)
    bodies = {first: data for first, _, data in studio.watched.bodies(shot, [s.first for s in stretches])}
    arrays: dict[str, np.ndarray] = {
        "method": np.array(METHOD),
        "stretches": np.array([(s.first, s.frames) for s in stretches], np.int32),
    }
    for n, stretch in enumerate(stretches):
        arrays[f"seen{n}"] = np.frombuffer(stretch.seen, np.uint8)
        arrays[f"bodies{n}"] = np.frombuffer(bodies[stretch.first], np.uint8)
    out = io.BytesIO()
    np.savez_compressed(out, **arrays)  # type: ignore[arg-type]
    return out.getvalue()


def main() -> None:
    """Looks all shots through and writes what was seen."""
    KEPT.mkdir(exist_ok=True)
    with TemporaryDirectory() as folder:
        studio = Studio(Path(folder), watches=False)
        project = studio.projects.create(Document(project=Project(name="Seen"))).document.project.id
        for clip in sorted(FOOTAGE.glob("*.mp4")):
            shot, _ = import_shot(studio, project, studio.keep_file(clip), clip.name)
            watch_shot(studio, shot)
            (KEPT / f"{clip.stem}.npz").write_bytes(written(studio, shot.id))
        studio.close()


if __name__ == "__main__":
    main()
