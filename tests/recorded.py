"""What the real server answers, for the tests of the page alone: `python -m tests.recorded` writes it anew.

The demo's first scene is asked for all that the page asks for on its way through the steps. Ids, hashes and times are
numbered in the order in which they occur, so that two recordings of the same program are the same.
"""

import json
import re
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field
from starlette.testclient import TestClient

from nervykite.core.piece.model.base import Colour
from nervykite.core.piece.model.keys import Bezier, Easing
from nervykite.core.piece.model.kinds import Family, Kind
from nervykite.demo.demo_project import add_demo
from nervykite.server.app import create_app
from nervykite.studio import Studio

from .server.api import BASE, drawn, listening

KEPT = Path(__file__).parents[1] / "web/tests/recorded/leaps.json"
FRAMES = (0, 30, 58, 70, 80)
"""Frames of the piece whose layers' places are recorded."""
NAMED = re.compile(r"\b[0-9a-f]{10,64}\b|\b\d{4}-\d\d-\d\dT[0-9:.]+(?:Z|\+00:00)")


class Everything(Kind):
    """What a finish could be that has a setting of every sort; one of a family of its own, which nobody else sees."""

    family = Family("everything", "tests.recorded")
    kind: Literal["everything"] = "everything"
    title: ClassVar[str] = "Everything"

    width: Annotated[float, Field(ge=0, le=50, title="Width", json_schema_extra={"unit": "px"})] = 5.0
    copies: Annotated[int, Field(ge=1, le=9, title="Copies")] = 3
    double: Annotated[bool, Field(title="Double")] = False
    side: Annotated[Literal["inside", "outside"], Field(title="Side")] = "outside"
    ink: Annotated[Colour, Field(title="Ink")] = "#102030"
    centre: Annotated[tuple[float, float], Field(title="Centre", json_schema_extra={"format": "point"})] = (0.0, 0.0)
    tilt: Annotated[float, Field(title="Tilt", json_schema_extra={"unit": "°"})] = 0.0
    curve: Annotated[Easing, Field(title="Curve")] = Bezier()
    seed: Annotated[int, Field(ge=0, le=99999, title="Seed", json_schema_extra={"format": "seed"})] = 1


def recorded(client: TestClient) -> dict[str, Any]:
    """The answers by what was asked, and what was said of some frames."""
    answers: dict[str, Any] = {}

    def ask(path: str) -> Any:
        answers[f"GET {path}"] = client.get(path).json()
        return answers[f"GET {path}"]

    (entry,) = ask("/api/projects")
    ask("/api/deleted-projects")
    ask("/api/catalog")
    ask("/api/hits")
    ask("/api/mattes")
    project = f"/api/projects/{entry['id']}"
    view = ask(project)
    for what in ("jobs", "faces", "recipes", "room", "snags", "sound", "keys?first=0&past=132", "steps", "loudness"):
        ask(f"{project}/{what}")
    for layer in view["layer_order"]:
        ask(f"{project}/tones?owner={layer}&frame=58")
    for shot in view["shots"]:
        ask(f"{project}/shots/{shot}/watched")
    places = {}
    with listening(client, {"project": {"id": entry["id"]}}) as socket:
        for seq, frame in enumerate(FRAMES):
            socket.send_json({"type": "frame", "seq": seq, "frame": frame, "width": 36, "height": 64, "exact": False})
            header, _ = drawn(socket)
            places[str(frame)] = header
    new = {
        "kind": "everything", "title": Everything.title, "hint": "", "on": ["cutout"], "looks": "tone",
        "settings": Everything.settings_schema(),
    }  # fmt: skip
    return numbered({"answers": answers, "frames": places, "new_finish": new})


def numbered(found: Any) -> Any:
    """The same with ids, hashes and times that are the same in each recording."""
    known: dict[str, str] = {}

    def name(match: re.Match[str]) -> str:
        old = match[0]
        if "T" in old:
            return "2026-11-28T12:00:00Z"
        return known.setdefault(old, f"{len(known) + 1:0{len(old)}x}")

    def walk(one: Any) -> Any:
        if isinstance(one, str):
            return NAMED.sub(name, one)
        if isinstance(one, list):
            return [walk(x) for x in one]
        return {walk(k): walk(v) for k, v in one.items()} if isinstance(one, dict) else one

    return walk(found)


def record() -> dict[str, Any]:
    """Records the program as it is."""
    with TemporaryDirectory() as folder:
        studio = Studio(Path(folder) / "data", watches=False)
        add_demo(studio, scenes=1)
        with TestClient(create_app(studio), base_url=BASE) as client:
            found = recorded(client)
        studio.close()
    return found


if __name__ == "__main__":
    KEPT.parent.mkdir(parents=True, exist_ok=True)
    parts = {name: [f"{json.dumps(k)}: {json.dumps(v)}" for k, v in part.items()] for name, part in record().items()}
    KEPT.write_text(
        "{" + ",".join(f'\n"{name}": {{\n' + ",\n".join(lines) + "\n}" for name, lines in parts.items()) + "\n}\n"
    )
    print(f"{KEPT} written", file=sys.stderr)
