"""Made-up requests and broken files, for as long as one likes: what is answered by a fault, vaguely, or slowly."""

import time
from collections import Counter
from pathlib import Path
from tempfile import TemporaryDirectory

from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Shot
from nervykite.studio import Studio
from nervykite.studio.importing import import_file

from . import Result
from .attack import Outcome, attack, clear
from .broken import broken_files, needless
from .edits import edits

EDITS_A_MINUTE = 200


def files(count: int, seed: int = 1) -> Outcome:
    """Imports so many broken files. Each is read, or refused with a clear sentence; of those read, frames are shown."""
    outcome = Outcome()
    with TemporaryDirectory() as folder:
        studio = Studio(Path(folder) / "data")
        project = studio.projects.new("Broken").document.project.id
        for number, path in enumerate(broken_files(Path(folder), count, seed)):
            begun = time.monotonic()
            try:
                made, _ = import_file(studio, project, studio.keep_file(path), path.name)
                for frame in (0, made.frames // 2, made.frames - 1) if isinstance(made, Shot) else ():
                    studio.library.exact(made, frame)
                outcome.answers[200] += 1
            except Refusal as refusal:
                outcome.answers[400] += 1
                outcome.sentences[str(refusal)] += 1
                if not clear(str(refusal)):
                    outcome.faults.append(f"file {number}, {path.name}: “{refusal}”")
            except Exception as error:
                outcome.faults.append(f"file {number}, {path.name}: {error!r}")
            outcome.slowest = max(outcome.slowest, (time.monotonic() - begun, path.name))
        studio.tidy(0)
        with studio.database.reading() as connection:
            outcome.faults += needless(connection)
        studio.close()
    return outcome


def measure(minutes: float = 2.0) -> Result:
    """The number of faults there were; of the time a third each goes to requests, to edits, and to files."""
    seed = int(time.time())
    asked = attack(seconds=20 * minutes, seed=seed)
    edited = edits(round(EDITS_A_MINUTE * minutes / 3), seed)
    read, until = Outcome(), time.monotonic() + 20 * minutes
    rounds = 0
    while time.monotonic() < until:
        more = files(100, seed + rounds)
        rounds += 1
        read.answers += more.answers
        read.faults += more.faults
        read.slowest = max(read.slowest, more.slowest)
    faults = [*asked.faults, *edited.faults, *read.faults]
    figures = {
        "seed": seed,
        "requests": asked.count,
        "of them answered by": _listed(asked.answers),
        "slowest request, s": asked.slowest[0],
        "edits": edited.count,
        "of them taken": edited.answers[200],
        "slowest edit, s": edited.slowest[0],
        "files": read.answers.total(),
        "of them read": read.answers[200],
        "slowest file, s": read.slowest[0],
    } | {f"fault {n + 1}": fault for n, fault in enumerate(faults[:20])}
    return Result("fuzz", float(len(faults)), "none, no request over 5 s", figures, "faults")


def _listed(answers: Counter[int]) -> str:
    return ", ".join(f"{status}: {count}" for status, count in sorted(answers.items()))
