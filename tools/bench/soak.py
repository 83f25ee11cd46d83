"""Half an hour of three people at work on one server: its memory, open files and threads stay what they are."""

import random
import threading
import time
import urllib.parse
from dataclasses import dataclass, field
from http.client import HTTPException
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from urllib.error import HTTPError

import numpy as np

from nervykite.core.piece.model import Matte, Node, Shape
from nervykite.core.piece.model.base import new_id

from . import Result
from .broken import whole_files
from .crash import Served

DRAWN = [Node(x=x, y=y) for x, y in ((8, 8), (40, 8), (40, 30), (8, 30))]
"""What is cut out."""
CLIENTS = 3
EVERY = 2.0
"""Seconds between two looks at the server."""
WARM = 0.25
"""The share of the time after which it has all that it keeps."""


@dataclass(frozen=True)
class Held:
    """The holdings of a process at a time: resident bytes, open files, threads."""

    memory: int
    files: int
    threads: int

    @classmethod
    def of(cls, process: int) -> "Held":
        """Of a process, as Linux tells it (proc(5))."""
        root = Path(f"/proc/{process}")
        told = dict(line.split(":", 1) for line in (root / "status").read_text().splitlines() if ":" in line)
        threads = int(told["Threads"])
        return cls(int(told["VmRSS"].split()[0]) * 1024, len([*(root / "fd").iterdir()]), threads)


@dataclass
class Soaked:
    """The outcome: rounds of work, how often each thing was asked for, what failed, and the looks in order."""

    rounds: int = 0
    asked: dict[str, int] = field(default_factory=dict)
    faults: list[str] = field(default_factory=list)
    looks: list[Held] = field(default_factory=list)

    def grown(self, what: str) -> float:
        """The number of times as much there is at the end as once it was warm: means of as many looks at both."""
        values = [float(getattr(one, what)) for one in self.looks[int(WARM * len(self.looks)) :]]
        part = max(1, len(values) // 3)
        return float(np.mean(values[-part:]) / np.mean(values[:part]))


class Client:
    """Somebody at work: makes a project, fills it, edits, looks, sends, stops what is sent, and takes it away."""

    def __init__(self, server: Served, clips: list[Path], chance: random.Random, found: Soaked) -> None:
        self._server, self._clips, self._chance, self._found = server, clips, chance, found

    def round(self) -> None:
        """Does all of it once."""
        made = self._ask("projects", "projects", {"name": "Soaked"})["project"]["id"]
        try:
            self._work(f"projects/{made}")
        finally:
            self._server.delete(f"projects/{made}")
            self._server.delete(f"deleted-projects/{made}")

    def _work(self, at: str) -> None:
        for clip in self._chance.sample(self._clips, 2):
            name = urllib.parse.quote(clip.name)
            self._over(at, self._ask("imports", f"{at}/shots?name={name}", content=clip.read_bytes()))
        item, layer = self._ask("views", at)["ground_order"][0], new_id()
        self._edit(at, kind="hold", item=item, frame=3, layer=layer)
        view = self._ask("views", at)
        hold = next(iter(view["holds"]))
        self._edit(at, kind="change matte", hold=hold, matte=Matte(pieces=[Shape(nodes=DRAWN)]).model_dump(mode="json"))
        self._edit(at, kind="put move", layers=[layer], side="in", move={"kind": "drop"})
        self._ask("keys", f"{at}/keys")
        self._ask("snags", f"{at}/snags")
        self._over(at, self._ask("tracks", f"{at}/track", {"layers": [layer]}))
        sending = {"writer": {"kind": "mp4"}, "sending": {"span": [0, 8]}}
        self._ask("foretold", f"{at}/exports/foretold", sending)
        self._over(at, self._ask("exports", f"{at}/exports", sending))
        stopped = self._ask("exports stopped", f"{at}/exports", sending)
        self._ask("cancels", f"jobs/{stopped['id']}/cancel", {})
        self._over(at, stopped)
        self._server.call(f"{at}/undo", {"revision": self._ask("views", at)["revision"]})

    def _ask(self, what: str, path: str, body: Any = None, content: bytes | None = None) -> Any:
        self._found.asked[what] = self._found.asked.get(what, 0) + 1
        return self._server.call(path, body, content)

    def _edit(self, at: str, **edit: Any) -> None:
        revision = self._server.call(at)["revision"]
        self._ask("edits", f"{at}/edits", {"revision": revision, "edit": edit})

    def _over(self, at: str, job: dict[str, Any]) -> None:
        until = time.monotonic() + 120
        while time.monotonic() < until:
            now = next(j for j in self._server.call(f"{at}/jobs") if j["id"] == job["id"])
            if now["state"] not in ("waiting", "running"):
                return
            time.sleep(0.05)
        self._found.faults.append(f"{job['title']} does not end")


def soak(minutes: float, seed: int = 1, clients: int = CLIENTS) -> Soaked:
    """Has so many clients work for so long on a server in a process of its own, and looks at that meanwhile."""
    found, until = Soaked(), time.monotonic() + 60 * minutes
    with TemporaryDirectory() as folder:
        clips = [p for p in whole_files(Path(folder)) if p.suffix in (".mp4", ".mov", ".webm", ".mkv")]
        server = Served(Path(folder) / "data")

        def works(number: int) -> None:
            client = Client(server, clips, random.Random(seed + number), found)
            while time.monotonic() < until:
                try:
                    client.round()
                    found.rounds += 1
                except (OSError, HTTPException, KeyError, StopIteration) as error:
                    said = error.read().decode() if isinstance(error, HTTPError) else ""
                    found.faults.append(f"client {number}: {error!r} {said}")
                    time.sleep(0.5)

        threads = [threading.Thread(target=works, args=(n,)) for n in range(clients)]
        for thread in threads:
            thread.start()
        while any(t.is_alive() for t in threads):
            time.sleep(min(EVERY, 60 * minutes / 20))
            found.looks.append(Held.of(server.process))
        server.kill()
    return found


def measure(minutes: float = 30.0) -> Result:
    """The number of times as much memory the server has at the end as when it was warm."""
    found = soak(minutes)
    last = found.looks[-1]
    figures: dict[str, Any] = {
        "minutes": minutes,
        "rounds": found.rounds,
        **{f"of them {what}": count for what, count in sorted(found.asked.items())},
        "memory at the end, MB": last.memory / 1e6,
        "open files, times": found.grown("files"),
        "threads, times": found.grown("threads"),
        "faults": len(found.faults),
    }
    figures |= {f"fault {n + 1}": fault for n, fault in enumerate(found.faults[:10])}
    return Result("soak", found.grown("memory"), "at most 1.10, and as many files and threads", figures)
