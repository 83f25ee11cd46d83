"""Edits of all kinds with ids of all kinds, many in a row: what is taken can be shown, undone and done again."""

import json
import random
import time
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, get_args

import schemathesis
from schemathesis.generation import GenerationMode
from starlette.testclient import TestClient

from nervykite.core.change.edits import OneEdit, Several
from nervykite.core.piece.model import GroundItem, Layer
from nervykite.core.piece.model.base import new_id
from nervykite.server.app import create_app
from nervykite.studio import Studio
from nervykite.studio.importing import import_file

from .attack import BASE, LARGEST, SLOW, Outcome, _examples, clear
from .broken import whole_files

KINDS = (*get_args(get_args(OneEdit)[0]), Several)
OWNED = {k.model_fields["kind"].default for k in KINDS if {"layer", "item"} <= k.model_fields.keys()}
"""Edits of a layer or of a piece of the ground."""
REFILLED = 8
"""After so many edits one more frame is held."""
EACH = 4
"""So many edits of each kind are made up at a time."""
VIEWS = ("", "/keys?first=0&past=4", "/sound", "/snags", "/steps", "/mix", "/poster.jpg?height=64")
"""What a page asks of a project."""
MEANT = 0.75
"""The share of ids that are of what their name says; the others are of anything, or of nothing."""
SAME = {
    "over": "item", "group": "layer", "of": "layer", "plate": "file", "replaces": "track", "instead": "made",
    "layers": "layer", "items": "item", "holds": "hold", "cues": "cue", "keys": "key", "id": "key", "key_id": "key",
}  # fmt: skip
"""What is named so is an id of that."""


class Edits:
    """A project to be edited without sense, and what came of it."""

    def __init__(self, folder: Path, seed: int) -> None:
        self._chance, self.outcome = random.Random(seed), Outcome()
        self.studio = Studio(folder / "data", watches=False)
        made = self.studio.projects.new("Edited").document.project.id
        for path in whole_files(folder)[:3]:
            import_file(self.studio, made, self.studio.keep_file(path), path.name)
        self._project = made
        operations = [r.ok() for r in schemathesis.openapi.from_dict(_described()).get_all_operations()]
        self._kinds = [o.as_strategy(generation_mode=GenerationMode.POSITIVE) for o in operations]
        self._client = TestClient(create_app(self.studio), base_url=BASE, raise_server_exceptions=False)

    def run(self, count: int) -> Outcome:
        """Makes so many edits that are taken or refused, then undoes and redoes all that were taken."""
        with self._client as client:
            done = 0
            while done < count:
                for body in self._edits():
                    done += 1
                    if self._edit(client, body):
                        self._looked_at(client, body)
                    if done >= count:
                        break
            self._there_and_back(client)
        self.studio.close()
        return self.outcome

    def _edits(self) -> Iterator[Any]:
        """Some edits of each kind, in any order."""
        found = [e.body for s in self._kinds for e in _examples(s, EACH, self._chance) if isinstance(e.body, dict)]
        self._chance.shuffle(found)
        for number, edit in enumerate(found):
            if number % REFILLED == 0:
                yield self._held()
            yield self._owned(self._with_ids(edit, self._known(), ""))

    def _held(self) -> Any:
        """A frame that is held, so that there is something to edit."""
        ground = self.studio.state(self._project).document.project.ground
        items = [g for g in ground if g.source.footage(self.studio.state(self._project).document)]
        if not items:
            return {"kind": "add ground", "shot": self._known()["shot"][0]}
        return {"kind": "hold", "item": self._chance.choice(items).id, "frame": self._chance.randrange(12)}

    def _owned(self, edit: Any) -> Any:
        """The same, of a layer or of a piece of the ground where it is of either."""
        if edit["kind"] not in OWNED:
            return edit
        known, one = self._known(), self._chance.choice(("layer", "item"))
        rest = {k: v for k, v in edit.items() if k not in ("layer", "item")}
        return rest | {one: self._chance.choice(known[one] or [new_id()])}

    def _known(self) -> dict[str, list[str]]:
        """The ids of what is there, by what it is."""
        document = self.studio.state(self._project).document
        project = document.project
        owners: list[Layer | GroundItem] = [*project.layers, *project.ground]
        with self.studio.database.reading() as connection:
            files = [hash_ for (hash_,) in connection.execute("SELECT hash FROM files")]
        return {
            "layer": [x.id for x in project.layers], "item": [g.id for g in project.ground],
            "cue": [c.id for c in project.cues], "set": [s.id for s in project.sets],
            "made": [m.id for m in project.made], "hold": [*document.holds], "shot": [*document.shots],
            "asset": [*document.assets], "track": [*document.tracks], "file": files,
            "key": [k.id for x in owners for k in x.keys],
            "moment": [m.id for s in document.shots.values() for m in s.moments],
        }  # fmt: skip

    def _with_ids(self, value: Any, known: dict[str, list[str]], name: str) -> Any:
        if isinstance(value, dict):
            return {k: self._with_ids(v, known, k) for k, v in value.items()}
        if isinstance(value, list):
            return [self._with_ids(v, known, name) for v in value]
        if isinstance(value, int) and not isinstance(value, bool):
            return value % LARGEST if self._chance.random() < 0.8 else value
        if not isinstance(value, str) or len(value) not in (16, 64) or not set(value) <= set("0123456789abcdef"):
            return value
        meant = known.get(SAME.get(name, name), [])
        if meant and self._chance.random() < MEANT:
            return self._chance.choice(meant)
        if len(value) == 64:
            return self._chance.choice(known["file"])
        return self._chance.choice([new_id(), *(id_ for kind, ids in known.items() if kind != "file" for id_ in ids)])

    def _edit(self, client: TestClient, edit: Any) -> bool:
        """True if an edit was taken."""
        body = {"revision": self.studio.projects.revision(self._project), "edit": edit}
        begun = time.monotonic()
        answer = client.post(f"/api/projects/{self._project}/edits", json=body)
        self._judge(answer, edit, time.monotonic() - begun)
        return answer.status_code == 200

    def _judge(self, answer: Any, edit: Any, took: float) -> None:
        outcome, said = self.outcome, json.dumps(edit)[:600]
        outcome.answers[answer.status_code] += 1
        outcome.slowest = max(outcome.slowest, (took, said))
        if took > SLOW:
            outcome.faults.append(f"{took:.1f} s: {said}")
        if answer.status_code >= 400:
            message = answer.json().get("message", "")
            outcome.sentences[message] += 1
            if answer.status_code >= 500 or not clear(message) or "could not be shown" in message:
                outcome.faults.append(f"{answer.status_code} “{message}”: {said}")

    def _looked_at(self, client: TestClient, edit: Any) -> None:
        """Asks for all that a page asks for after an edit."""
        for view in VIEWS:
            answer = client.get(f"/api/projects/{self._project}{view}")
            if answer.status_code not in (200, 404):
                told = f"afterwards {view or 'the project'} is {answer.status_code}: {answer.text[:200]}"
                self.outcome.faults.append(f"{told}: {json.dumps(edit)[:600]}")

    def _there_and_back(self, client: TestClient) -> None:
        """Undoes everything and does it again: the document is what it was."""
        last, steps = self.studio.state(self._project), 0
        while self.studio.state(self._project).undo is not None:
            self.studio.projects.undo(self._project)
            steps += 1
            if steps % 25 == 0:
                self._looked_at(client, f"undone {steps}")
        while self.studio.state(self._project).redo is not None:
            self.studio.projects.redo(self._project)
        if self.studio.state(self._project).document != last.document:
            self.outcome.faults.append(f"{steps} edits undone and done again make another document")


def _described() -> dict[str, Any]:
    """A description of all kinds of edits, each as what is sent to an address of its own."""
    paths: dict[str, Any] = {}
    parts: dict[str, Any] = {}
    for kind in KINDS:
        schema = kind.model_json_schema(ref_template="#/components/schemas/{model}")
        parts |= schema.pop("$defs", {})
        schema["required"] = sorted({*schema.get("required", []), "kind"})
        body = {"required": True, "content": {"application/json": {"schema": schema}}}
        answers = {"responses": {"200": {"description": "It was made."}}}
        paths[f"/{kind.__name__}"] = {"post": {"requestBody": body, **answers}}
    about = {"title": "Edits", "version": "1"}
    return {"openapi": "3.1.0", "info": about, "paths": paths, "components": {"schemas": parts}}


def edits(count: int, seed: int = 1) -> Outcome:
    """Makes so many edits in a project of its own, see `Edits`."""
    with TemporaryDirectory() as folder:
        return Edits(Path(folder), seed).run(count)
