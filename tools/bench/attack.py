"""Requests after the API's own description, with ids and revisions that are real: what a page gone mad would send."""

import json
import random
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from urllib.parse import quote

import hypothesis
import schemathesis
from schemathesis.generation import GenerationMode
from starlette.testclient import TestClient

from nervykite.core.change.edits import ChangeMatte, HoldFrame
from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Matte, Node, Shape
from nervykite.server.app import create_app
from nervykite.studio import Studio
from nervykite.studio.importing import import_shot

from .broken import broken, whole_files

BASE = "http://127.0.0.1:8457"
SLOW = 5.0
"""Seconds that no answer may take."""
LARGEST = 400
"""So many frames are asked for, mostly; now and then any number comes."""
VAST = (10**30, -(10**30), 2**63, 2**31, -1)
"""Numbers that fit in no column, and in few arrays."""
SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M5 5L60 5L60 40z"/></svg>',
    b'<svg xmlns="http://www.w3.org/2000/svg"><g id="a"><use href="#a"/></g></svg>',
    b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M1e300 0L-1e300 5 Lnan 4z"/><rect width="-5"/></svg>',
    b'<svg xmlns="http://www.w3.org/2000/svg">' + b"<g>" * 300 + b'<circle r="20"/>' + b"</g>" * 300 + b"</svg>",
    b"<svg", b"\xff\xfe\x00", b"",
)  # fmt: skip


@dataclass
class Outcome:
    """The outcome of an attack: answers by status, the slowest in seconds, and what should not have happened."""

    answers: Counter[int] = field(default_factory=Counter)
    sentences: Counter[str] = field(default_factory=Counter)
    slowest: tuple[float, str] = (0.0, "")
    faults: list[str] = field(default_factory=list)

    @property
    def count(self) -> int:
        """The number of requests were made."""
        return self.answers.total()


class Attack:
    """A studio with a project to be attacked, and a client that does it."""

    def __init__(self, folder: Path, seed: int = 1) -> None:
        self.studio = Studio(folder / "data")
        self.outcome = Outcome()
        self._chance = random.Random(seed)
        self._files = whole_files(folder)
        self._client = TestClient(create_app(self.studio), base_url=BASE, raise_server_exceptions=False)
        self._project = self._prepared()

    def _prepared(self) -> str:
        """A project with shots, a hold that is carved, and a plate."""
        project = self.studio.projects.new("Attacked").document.project.id
        for path in self._files[:2]:
            import_shot(self.studio, project, self.studio.keep_file(path), path.name)
        item = self.studio.state(project).document.project.ground[0].id
        state = self.studio.edit(project, HoldFrame(item=item, frame=4), None)
        corners = ((10, 8), (50, 8), (50, 40), (10, 40))
        matte = Matte(pieces=[Shape(nodes=[Node(x=x, y=y) for x, y in corners])])
        self.studio.edit(project, ChangeMatte(hold=next(iter(state.document.holds)), matte=matte), None)
        return project

    def run(self, count: int | None = None, seconds: float | None = None) -> Outcome:
        """Attacks with so many requests, or for so long."""
        until = None if seconds is None else time.monotonic() + seconds
        with TestClient(self._client.app, base_url=BASE, raise_server_exceptions=False) as client:
            self._client = client
            for number, (method, path, case) in enumerate(self._cases(count)):
                if (count is not None and number >= count) or (until is not None and time.monotonic() > until):
                    break
                if not self._there():
                    self._project = self._prepared()
                self._ask(method, path, case)
                if number % 50 == 49:
                    self._look_after(client)
            self._look_after(client)
            self._settle(client)
        self.studio.tidy(0)
        self._orphans()
        self.studio.close()
        return self.outcome

    def _there(self) -> bool:
        """True if the project has not been deleted for good."""
        try:
            self.studio.projects.revision(self._project)
            return True
        except Refusal:
            return False

    def _cases(self, wanted: int | None) -> Iterator[tuple[str, str, Any]]:
        """Made-up requests without end; only a few of each kind at a time if few are wanted, as each takes a while."""
        description = self._client.get("/api/openapi.json").json()
        schema = schemathesis.openapi.from_dict(description)
        operations = [result.ok() for result in schema.get_all_operations()]
        modes = (GenerationMode.POSITIVE, GenerationMode.NEGATIVE)
        few = wanted is not None and wanted < 2 * len(operations)
        strategies = [[o.as_strategy(generation_mode=mode) for mode in modes] for o in operations]
        while True:
            cases = []
            for operation, (fitting, breaking) in zip(operations, strategies, strict=True):
                # What documents go through comes more often than the rest.
                count = 60 if operation.path.endswith("/edits") else 1 if few else 4
                found = _examples(fitting, count, self._chance)
                if [*operation.body] or [
                    *operation.query
                ]:  # any name in a path fits, and looking for others takes long
                    found += _examples(breaking, -(-count // 4), self._chance)
                cases += [(operation.method.upper(), operation.path, case) for case in found]
            self._chance.shuffle(cases)
            yield from cases

    # -- real things in place of made-up ones ----------------------------------------------------------------

    def _real(self) -> dict[str, list[str]]:
        document = self.studio.state(self._project).document
        project = document.project
        keys = [k.id for x in project.layers for k in x.keys] + [k.id for x in project.ground for k in x.keys]
        with self.studio.database.reading() as connection:
            files = [hash_ for (hash_,) in connection.execute("SELECT hash FROM files")]
            jobs = [id_ for (id_,) in connection.execute("SELECT id FROM jobs ORDER BY made DESC LIMIT 9")]
            mattes = [id_ for (id_,) in connection.execute("SELECT id FROM saved_mattes")]
        return {
            "project": [self._project], "layer": [x.id for x in project.layers], "hold": [*document.holds],
            "item": [x.id for x in project.ground], "over": [x.id for x in project.ground], "shot": [*document.shots],
            "key": keys, "file": files, "plate": files, "job": jobs,
            "moment": [m.id for s in document.shots.values() for m in s.moments], "matte": mattes,
        }  # fmt: skip

    def _with_real(self, value: Any, real: dict[str, list[str]], name: str = "") -> Any:
        chance = self._chance
        if isinstance(value, dict):
            return {k: self._with_real(v, real, k) for k, v in value.items()}
        if isinstance(value, list):
            return [self._with_real(v, real, name) for v in value]
        if isinstance(value, str) and real.get(name) and chance.random() < 0.9:
            return chance.choice(real[name])
        if name == "revision" and chance.random() < 0.95:
            return self.studio.projects.revision(self._project)
        if isinstance(value, int) and not isinstance(value, bool):
            if chance.random() < 0.03:
                return chance.choice(VAST)
            if chance.random() < 0.6:
                return value % LARGEST if abs(value) > LARGEST else value
        return value

    # -- asking, and looking at what came of it --------------------------------------------------------------

    def _ask(self, method: str, path: str, case: Any) -> None:
        real = self._real()
        places = {k: self._with_real(v, real, k) for k, v in (case.path_parameters or {}).items()}
        query = {k: self._with_real(v, real, k) for k, v in (case.query or {}).items()}
        body = case.body if isinstance(case.body, dict | list | str | int | float | bool | None) else None
        given: dict[str, Any] = {}
        if path.endswith(("/shots", "/pieces", "/plate/picture")) and method == "POST":
            given["content"] = self._content()
            query = {"name": query.get("name") or "x.svg"} if self._chance.random() < 0.9 else query
        elif body is not None:
            given["content"] = json.dumps(self._with_real(body, real)).encode()
            given["headers"] = {"Content-Type": "application/json"}
        url = path
        for name, value in places.items():
            url = url.replace(f"{{{name}}}", _in_path(value))
        begun = time.monotonic()
        answer = self._client.request(method, url, params={k: str(v)[:2000] for k, v in query.items()}, **given)
        took = time.monotonic() - begun
        self._judge(f"{method} {url[:200]} {query} {given.get('content', b'')[:600]!r}", answer, took)

    def _content(self) -> bytes:
        chance = self._chance
        if chance.random() < 0.4:
            return chance.choice(SVG)
        data = chance.choice(self._files).read_bytes()
        return broken(data, chance) if chance.random() < 0.7 else data

    def _judge(self, what: str, answer: Any, took: float) -> None:
        outcome = self.outcome
        outcome.answers[answer.status_code] += 1
        if took > outcome.slowest[0]:
            outcome.slowest = took, what
        if took > SLOW:
            outcome.faults.append(f"{took:.1f} s: {what}")
        if answer.status_code >= 400:
            try:
                message = answer.json()["message"]
            except (ValueError, KeyError, TypeError):
                message = ""
            outcome.sentences[message] += 1
            if answer.status_code >= 500 or not clear(message):
                outcome.faults.append(f"{answer.status_code} “{message}”: {what}")

    def _look_after(self, client: TestClient) -> None:
        """The project can still be opened and drawn; what was deleted is restored, what runs is stopped."""
        if not self._there():
            return
        client.post(f"/api/projects/{self._project}/restore")
        for job in client.get(f"/api/projects/{self._project}/jobs").json():
            if job["state"] in ("waiting", "running"):
                client.post(f"/api/jobs/{job['id']}/cancel")
        document = self.studio.state(self._project).document
        try:
            if not document.holds:
                item = document.project.ground[0]
                frame = int(item.source.frames(document)[0])
                self.studio.edit(self._project, HoldFrame(item=item.id, frame=frame), None)
        except (Refusal, IndexError):  # there is no footage left in the ground
            self._project = self._prepared()
        for part in ("", "/keys", "/steps", "/poster.jpg"):
            answer = client.get(f"/api/projects/{self._project}{part}")
            if answer.status_code not in (200, 404):
                self.outcome.faults.append(
                    f"afterwards {part or 'the project'} is {answer.status_code}: {answer.text[:300]}"
                )

    def _settle(self, client: TestClient) -> None:
        """Waits for all jobs, and looks at how they ended."""
        jobs: list[dict] = []
        until = time.monotonic() + 120
        while time.monotonic() < until:
            jobs = client.get(f"/api/projects/{self._project}/jobs").json() if self._there() else []
            if all(j["state"] not in ("waiting", "running") for j in jobs):
                break
            time.sleep(0.1)
        for job in jobs:
            if job["state"] == "failed" and not clear(job["message"] or ""):
                self.outcome.faults.append(f"job {job['title']}: “{job['message']}”")
            elif job["state"] in ("waiting", "running"):
                self.outcome.faults.append(f"job {job['title']} does not end")

    def _orphans(self) -> None:
        files = self.studio.files
        self.outcome.faults += [f"a file that nobody needs is left: {p.name}" for p in files.unrecorded()]
        self.outcome.faults += [f"a file that is needed is gone: {hash_}" for hash_ in files.missing()]


def _examples(strategy: Any, count: int, chance: random.Random) -> list[Any]:
    """Some things that a strategy makes; none if it can make none."""
    found: list[Any] = []

    @hypothesis.seed(chance.randrange(1 << 30))
    @hypothesis.settings(
        max_examples=count, phases=[hypothesis.Phase.generate], database=None, deadline=None,
        suppress_health_check=list(hypothesis.HealthCheck),
    )  # fmt: skip
    @hypothesis.given(strategy)
    def collect(case: Any) -> None:
        found.append(case)

    try:
        collect()
    except Exception:  # the description leaves nothing to break
        return found
    return found


def clear(message: str) -> bool:
    """True if it is a sentence that says more than that something went wrong."""
    vague = ("did not see that coming", "does not know", "Internal Server Error", "inconsistent")
    return len(message) > 10 and message[-1] in ".?!)”" and not any(v in message for v in vague)


def _in_path(value: Any) -> str:
    return quote(str(value)[:300], safe="") or "-"


def attack(count: int | None = None, seconds: float | None = None, seed: int = 1) -> Outcome:
    """Attacks a fresh studio, see `Attack`."""
    with TemporaryDirectory() as folder:
        return Attack(Path(folder), seed).run(count, seconds)
