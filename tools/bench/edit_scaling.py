"""The time of an edit on the server as a piece grows: 300 layers over five minutes, and a tenth of that."""

import itertools
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter

import numpy as np
from starlette.testclient import TestClient

from nervykite.core.change.edits import ChangeMatte, HoldFrame, SetKeys
from nervykite.core.kinds.sources.shot_source import ShotSource
from nervykite.core.piece.model import Document, GroundItem, Key, Matte, Project, Shot
from nervykite.server.app import create_app
from nervykite.store.rows import write_shot
from nervykite.studio import Studio

from . import Result
from .material import oval

FRAMES, ITEM = 9000, 300
"""How long the shot is, in frames, and each piece of it in the ground."""
EDITS = 24


def measure() -> Result:
    """Milliseconds an edit, answered, and with the keys of frames near the playhead; the ratio is large over small."""
    large, small = (_median(layers) for layers in (300, 30))
    figures = {
        "300 layers over five minutes, ms an edit": large[0],
        "30 layers over half a minute, ms an edit": small[0],
        "300 layers, ms with the keys near the playhead": large[1],
        "30 layers, ms with the keys near the playhead": small[1],
        "300 layers, bytes an answer": large[2],
        "30 layers, bytes an answer": small[2],
    }
    return Result("edit --scaling", large[0] / small[0], "under 50 ms, at most 1.5 times a tenth of it", figures)


def long_shot(studio: Studio) -> Shot:
    """A shot of five minutes in a studio, with nothing behind it."""
    file = "f" * 64
    shot = Shot(
        name="Long", file=file, proxy_file=file, width=1080, height=1920, rate=Fraction(30), variable=False,
        tick="1/30", ticks=list(range(FRAMES + 1)),
    )  # fmt: skip
    with studio.database.writing() as connection:
        connection.execute("INSERT OR IGNORE INTO files (hash, size) VALUES (?, 1)", [file])
        write_shot(connection, shot)
    return shot


def piece(studio: Studio, layers: int) -> tuple[str, list[str]]:
    """Puts a piece of so many layers, ten to a stretch of the ground, into a studio; its id and those of its layers.

    There is no footage behind it: nothing is drawn.
    """
    shot = long_shot(studio)
    starts = range(0, layers * ITEM // 10, ITEM)
    ground = [GroundItem(source=ShotSource(shot=shot.id, first=a, past=a + ITEM)) for a in starts]
    document = Document(project=Project(name=f"{layers} layers", ground=ground), shots={shot.id: shot})
    for item, n in itertools.product(ground, range(10)):
        edit = HoldFrame(item=item.id, frame=starts[ground.index(item)] + 20 * n)
        document = edit.apply(document)
        matte = Matte(pieces=[oval(540, 900, 200 + n, 500)])
        document = ChangeMatte(hold=document.layer(edit.layer).source.hold, matte=matte).apply(document)
        document = SetKeys(layer=edit.layer, keys=_move()).apply(document)
    return studio.projects.create(document).document.project.id, [x.id for x in document.project.layers]


def _move() -> list[Key]:
    values = (("position", [0.0, -900.0], [0.0, 0.0]), ("scale", [0.4], [1.0]))
    return [
        Key(channel=channel, tie="start", offset=at, value=value)
        for channel, *ends in values
        for at, value in zip((0, 12), ends, strict=True)
    ]


def _median(layers: int) -> tuple[float, float, int]:
    with TemporaryDirectory() as folder:
        studio = Studio(Path(folder))
        project, ids = piece(studio, layers)
        alone, both, sizes = [], [], []
        with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
            url = f"/api/projects/{project}"
            view = client.get(url).json()
            client.get(f"{url}/keys", params={"first": 0, "past": 180})
            for n in range(EDITS):
                layer = ids[n * 7 % len(ids)]
                start = view["places"].get(layer, {}).get("start", 0) or 0
                kinds = (
                    {"kind": "set value", "layer": layer, "channel": "position", "frame": start + 12, "value": [n, n]},
                    {"kind": "change layer", "layer": layer, "until": start + 20 + n},
                    {"kind": "change layer", "layer": layer, "finishes": [{"kind": "outline"}]},
                )
                body = {"revision": view["revision"], "edit": kinds[n % 3]}
                begun = perf_counter()
                answer = client.post(f"{url}/edits", json=body)
                alone.append(perf_counter() - begun)
                client.get(f"{url}/keys", params={"first": max(0, start - 30), "past": start + 150})
                both.append(perf_counter() - begun)
                sizes.append(len(answer.content))
                view = {"places": view["places"], "revision": answer.json()["revision"]}
        studio.close()
    return float(np.median(alone) * 1e3), float(np.median(both) * 1e3), int(np.median(sizes))
