"""The time of edits of the ground on the server in a large piece: 200 items, 300 layers, 3000 keys, five minutes."""

from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter

import numpy as np
from starlette.testclient import TestClient

from nervykite.core.change.edits import AddShot, ChangeMatte, HoldFrame, SetKeys, SplitGround
from nervykite.core.piece.model import Document, Key, Matte, Project
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.server.app import create_app
from nervykite.studio import Studio

from . import Result
from .edit_scaling import FRAMES, long_shot
from .material import oval

ITEMS, LAYERS, KEYS = 200, 300, 10
ROUNDS = 6


def measure() -> Result:
    """Milliseconds an edit of the ground, answered; the ratio is the slowest kind over a change of one value."""
    with TemporaryDirectory() as folder:
        studio = Studio(Path(folder))
        document = piece(studio)
        project = studio.projects.create(document).document.project.id
        with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
            took = _edits(client, studio, project)
        studio.close()
    medians = {kind: float(np.median(times) * 1e3) for kind, times in took.items()}
    figures = {f"{kind}, ms": ms for kind, ms in medians.items()}
    ratio = max(medians.values()) / medians["set value"]
    return Result("ground", ratio, "every kind under 50 ms", figures)


def piece(studio: Studio) -> Document:
    """Five minutes of one long shot, cut into many parts, with layers over them; there is no footage behind it."""
    document = AddShot(shot=long_shot(studio)).apply(Document(project=Project(name="Ground")))
    for n in range(1, ITEMS):
        document = SplitGround(at=n * FRAMES // ITEMS).apply(document)
    timeline = Timeline(document)
    for n in range(LAYERS):
        frame = (n + 1) * FRAMES // (LAYERS + 1)
        shown = timeline.item_at(frame)
        assert shown is not None
        held = HoldFrame(item=shown.item.id, frame=frame)
        document = held.apply(document)
        hold = next(reversed(document.holds))
        document = ChangeMatte(hold=hold, matte=Matte(pieces=[oval(540, 900, 200, 500)])).apply(document)
        keys = [Key(channel="position", tie="start", offset=3 * k, value=[k, -k]) for k in range(KEYS)]
        document = SetKeys(layer=held.layer, keys=keys).apply(document)
    return document


def _within(timeline: Timeline, number: int) -> int:
    """A frame in the middle of one of the takes, which nothing of this round has touched before."""
    takes = [
        g for g in timeline.document.project.ground if not g.source.stands and g.source.lasts(timeline.document) > 9
    ]
    take = takes[number % len(takes)]
    return timeline.starts[take.id] + 4


def _edits(client: TestClient, studio: Studio, project: str) -> dict[str, list[float]]:
    """Seconds each kind of edit takes to be answered, again and again, all over the piece."""
    url = f"/api/projects/{project}"
    revision = client.get(url).json()["revision"]
    took: dict[str, list[float]] = {}
    for n in range(ROUNDS):
        timeline = Timeline(studio.state(project).document)
        items, layers = timeline.document.project.ground, timeline.document.project.layers
        item, layer = items[(31 * n + 7) % len(items)], layers[(47 * n + 3) % len(layers)]
        source = item.source
        first, past = source.range or (0, 2)
        kinds: list[dict] = [
            {"kind": "set value", "layer": layer.id, "channel": "opacity", "frame": 40, "value": [0.5]},
            {"kind": "split ground", "at": _within(timeline, 29 * n + 60)},
            {"kind": "stand still", "at": _within(timeline, 23 * n + 9), "frames": 20, "hold": True},
            {"kind": "change ground", "item": item.id, "past": max(first + 1, past - 3)},
            {"kind": "move ground", "item": item.id, "to": (17 * n) % len(items)},
            {"kind": "duplicate ground", "item": item.id},
            {"kind": "remove ground", "items": [items[-1 - n].id]},
        ]
        for edit in kinds:
            begun = perf_counter()
            answer = client.post(f"{url}/edits", json={"revision": revision, "edit": edit})
            took.setdefault(edit["kind"], []).append(perf_counter() - begun)
            if answer.status_code != 200:
                raise RuntimeError(f"{edit['kind']} was refused: {answer.text}")
            revision = answer.json()["revision"]
    return took
