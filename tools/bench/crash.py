"""The server, killed again and again while it is worked with: no answered edit is lost, and nothing half is left."""

import json
import random
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from dataclasses import dataclass, field
from http.client import HTTPException
from pathlib import Path
from socket import socket
from tempfile import TemporaryDirectory
from typing import Any

from nervykite.studio import Studio
from nervykite.studio.importing import import_shot

from . import Result
from .broken import needless, whole_files

BETWEEN = (0.05, 0.8)
"""Seconds from the first answered edit to the kill, from…to."""


@dataclass
class Kills:
    """The outcome: how many edits were answered, and what should not have happened."""

    kills: int = 0
    answered: int = 0
    faults: list[str] = field(default_factory=list)


class Served:
    """A server over a data folder, in a process of its own."""

    def __init__(self, data: Path) -> None:
        with socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{port}/api/"
        command = [sys.executable, "-m", "nervykite.cli", "serve", "--data", str(data), "--port", str(port)]
        self._process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert self._process.stdout is not None
        self._process.stdout.readline()
        until = time.monotonic() + 60
        while True:
            try:
                self.call("projects")
                return
            except OSError:
                if self._process.poll() is not None or time.monotonic() > until:
                    raise
                time.sleep(0.02)

    def kill(self) -> None:
        """Ends it as a power cut would."""
        self._process.kill()
        self._process.wait()
        assert self._process.stdout is not None
        self._process.stdout.close()

    @property
    def process(self) -> int:
        """The id of its process."""
        return self._process.pid

    def delete(self, path: str) -> None:
        """Has something deleted. Raises OSError if it refuses."""
        with urllib.request.urlopen(urllib.request.Request(self.url + path, method="DELETE"), timeout=20):
            pass

    def call(self, path: str, body: Any = None, content: bytes | None = None) -> Any:
        """The answer, from JSON. Raises OSError if there is none, or a refusal."""
        data = json.dumps(body).encode() if content is None and body is not None else content
        request = urllib.request.Request(self.url + path, data, {"Content-Type": "application/json"})
        with urllib.request.urlopen(request, timeout=20) as answer:
            return json.load(answer)


def crash(kills: int, seed: int = 1) -> Kills:
    """Kills a server so many times while edits, imports and exports go on, and looks at what is left each time."""
    chance, found = random.Random(seed), Kills()
    with TemporaryDirectory() as folder:
        data, clips = Path(folder) / "data", whole_files(Path(folder))
        studio = Studio(data)
        project = studio.projects.new("Name 0").document.project.id
        import_shot(studio, project, studio.keep_file(clips[0]), clips[0].name)
        studio.close()
        last = 0
        for _ in range(kills):
            server = Served(data)
            last = _looked_at(server, project, last, found)
            last = _worked_with(server, project, last, chance, clips, found)
            found.kills += 1
        server = Served(data)
        _looked_at(server, project, last, found)
        server.kill()
        _left(data, project, found)
    return found


def _looked_at(server: Served, project: str, last: int, found: Kills) -> int:
    """The number of the edit that is there; a fault is noted if that is not all that was answered."""
    name = server.call(f"projects/{project}")["project"]["name"]
    number = int(name.rpartition(" ")[2])
    if number not in (last, last + 1):  # the last one may be there without its answer
        found.faults.append(f"edit {last} was answered, and {number} is there")
    for job in server.call(f"projects/{project}/jobs"):
        # What was being sent is taken up again.
        if job["state"] in ("waiting", "running") and job["kind"] != "export":
            found.faults.append(f"{job['title']} is said to be running after a restart")
    return number


def _worked_with(
    server: Served, project: str, last: int, chance: random.Random, clips: list[Path], found: Kills
) -> int:
    """Edits one after the other until the server is killed; the number of the last that was answered."""
    over = threading.Event()

    def beside() -> None:
        while not over.is_set():
            clip = chance.choice(clips)
            name = urllib.parse.quote(clip.name)
            try:
                server.call(f"projects/{project}/shots?name={name}", content=clip.read_bytes())
                server.call(f"projects/{project}/exports", {"writer": {"kind": "mp4"}, "sending": {"span": [0, 4]}})
            except (OSError, HTTPException):  # it was killed meanwhile
                pass
            over.wait(0.15)

    thread = threading.Thread(target=beside)
    thread.start()
    until: float | None = None
    while until is None or time.monotonic() < until:
        revision = server.call(f"projects/{project}")["revision"]
        edit = {"kind": "rename project", "name": f"Name {last + 1}"}
        try:
            server.call(f"projects/{project}/edits", {"revision": revision, "edit": edit})
        except urllib.error.HTTPError as error:
            if error.code != 409:  # an import came in between
                found.faults.append(f"an edit was answered {error.code}")
            continue
        last += 1
        found.answered += 1
        until = until or time.monotonic() + chance.uniform(*BETWEEN)
    server.kill()
    over.set()
    thread.join()
    return last


def _left(data: Path, project: str, found: Kills) -> None:
    """Looks at the folder, once nobody works in it and what is not needed has gone."""
    studio = Studio(data)
    studio.recover()
    studio.tidy(0)
    with studio.database.reading() as connection:
        if [row[0] for row in connection.execute("PRAGMA integrity_check")] != ["ok"]:
            found.faults.append("the database is damaged")
        if connection.execute("PRAGMA foreign_key_check").fetchall():
            found.faults.append("rows refer to what is not there")
        found.faults += needless(connection)
    found.faults += [f"a file that nobody needs is left: {p.name}" for p in studio.files.unrecorded()]
    found.faults += [f"a file that is needed is gone: {hash_}" for hash_ in studio.files.missing()]
    found.faults += [f"half a file is left: {p.name}" for p in studio.exports.glob(".*")]
    while studio.state(project).undo:  # all the way back
        studio.projects.undo(project)
    studio.close()


def measure(kills: int = 100) -> Result:
    """The number of edits of those answered were lost, of a hundred kills; and what else should not be."""
    found = crash(kills)
    figures: dict[str, int | str] = {
        "kills": found.kills,
        "edits answered": found.answered,
        "faults": len(found.faults),
    }
    figures |= {f"fault {n + 1}": fault for n, fault in enumerate(found.faults[:20])}
    return Result("crash", float(len(found.faults)), "none", figures, "faults")
