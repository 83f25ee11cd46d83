"""A new kind is one file: put beside the others, it is found everywhere without any other change."""

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

import nervykite
from nervykite.core.model import Arrangement, FinishKind, Recipe, Source
from nervykite.core.model.kinds import Family, Kind, name_of

from .media import make_video

FINISH = '''
"""A finish that turns everything one colour."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..model.finish import FinishKind, Target


class Flood(FinishKind):
    """Flat red, as strong as wanted."""

    kind: Literal["flood"] = "flood"
    title: ClassVar[str] = "Flood"
    on: ClassVar[tuple[Target, ...]] = ("cutout",)

    strength: Annotated[float, Field(ge=0, le=1, title="Strength")] = 1.0
    upside: bool = False

    def dress(self, rgba, stage):
        out = rgba.copy()
        out[..., 1:3] *= 1 - self.strength
        out[..., 0] = rgba[..., 3] * self.strength + rgba[..., 0] * (1 - self.strength)
        return out
'''
SOURCE = '''
"""A square of one grey."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..model.source import On, Source
from .picture import Patch, Picture


class Square(Picture):
    size = (80, 80)

    def __init__(self, level):
        self.level, self.digest = level, f"square {level}"

    def cut(self, material, grid, margin):
        side = 2 * round(20 * grid.scale)
        rgba = np.zeros((side + 8, side + 8, 4), np.float32)
        rgba[4:-4, 4:-4] = self.level, self.level, self.level, 1
        return Patch(40, 40, rgba=rgba)


class SquareSource(Source):
    """Stands there."""

    kind: Literal["square"] = "square"
    title: ClassVar[str] = "Square"
    on: ClassVar[tuple[On, ...]] = ("sky",)
    worded: ClassVar[bool] = True

    level: Annotated[float, Field(ge=0, le=1)] = 0.5

    def size(self, document):
        return 80, 80

    def moment(self, document):
        return next(iter(document.shots)), 5

    def travel(self, document):
        return None

    def picture(self, document, frame, landed=False):
        return Square(self.level)
'''
ARRANGEMENT = '''
"""A blink: a few frames from the landing on."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...model.arrangement import Arrangement
from ..timeline import Place


class Blink(Arrangement):
    """As many frames as wanted."""

    kind: Literal["blink"] = "blink"
    title: ClassVar[str] = "Blink"
    doing: ClassVar[str] = "blink"

    frames: Annotated[int, Field(ge=1, le=99)] = 3

    def span(self, place):
        landing = place.landing
        return None if landing is None else (landing, landing + self.frames, landing)
'''
MOVE = '''
"""Hop: comes up from a little below."""

from typing import ClassVar, Literal

from ...model import MoveKind
from ...model.move import Touch
from ..recipe import Beat


class Hop(MoveKind):
    """It comes up, and down on its place."""

    kind: Literal["hop"] = "hop"
    title: ClassVar[str] = "Hop"
    heard: ClassVar[Literal["air", "pop"] | None] = "pop"

    def touches(self):
        return [Touch(1.0)]

    def beats(self, scene):
        return [Beat("position", 0, (0, 40)), Beat("position", 1, (0, 0))]
'''
USE = """
import json, sqlite3, sys
from pathlib import Path

from starlette.testclient import TestClient

from nervykite.core.edits import ChangeLayer, HoldFrame
from nervykite.core.model import Arrangement, Finish, Source
from nervykite.core.picture.evaluate import Evaluation
from nervykite.core.send.export import Output
from nervykite.core.send.writers.mp4 import Mp4
from nervykite.server.app import create_app
from nervykite.studio import Studio

folder, clip = map(Path, sys.argv[1:])
studio = Studio(folder, watches=False)
project = studio.projects.new("Kinds").document.project.id
from nervykite.studio.importing import import_shot
import_shot(studio, project, studio.keep_file(clip), "clip.mp4")
document = studio.state(project).document
edit = HoldFrame(item=document.project.ground[0].id, frame=5)
studio.edit(project, edit, None)
with TestClient(create_app(studio), base_url="http://127.0.0.1") as client:
    catalog = client.get("/api/catalog").json()
    body = {"kind": "change layer", "layer": edit.layer, "source": {"kind": "square", "level": 0.75},
            "arrangement": {"kind": "blink", "frames": 4},
            "finishes": [{"kind": "flood", "settings": {"strength": 0.5}}]}
    revision = studio.state(project).revision
    answer = client.post(f"/api/projects/{project}/edits", json={"revision": revision, "edit": body}).json()
    hop = {"kind": "put move", "layers": [edit.layer], "side": "in", "move": {"kind": "hop", "settings": {"lasts": 2}}}
    for body in (hop, {"kind": "sound move", "layer": edit.layer}):
        revision = studio.state(project).revision
        told = client.post(f"/api/projects/{project}/edits", json={"revision": revision, "edit": body}).json()
    heard = [c["sound"]["kind"] for c in told["project"]["cues"]]
for _ in range(2):
    studio.projects.undo(project)
out = folder / "sent.mp4"
studio.export(studio.state(project).document, Output(out, Mp4()))
studio.close()
again = Studio(folder, watches=False)
layer = again.state(project).document.project.layers[0]
row = dict(sqlite3.connect(folder / "nervykite.sqlite").execute(
    "SELECT 'kind', kind || ' ' || arrangement || ' ' || settings || ' ' || arranging FROM layers").fetchall())
undone = again.projects.undo(project).document.project.layers[0]
again.close()
print(json.dumps({
    "catalog": [[k["kind"] for k in catalog[n]] for n in ("finishes", "sources", "arrangements", "moves")],
    "heard": heard, "answer": answer["layers"][edit.layer], "place": answer["places"][edit.layer], "row": row["kind"],
    "layer": layer.model_dump(mode="json"), "undone": [undone.source.kind, undone.arrangement.kind],
}))
"""


def test_a_finish_a_source_an_arrangement_and_a_move_are_one_file_each(tmp_path):
    home = Path(nervykite.__file__).parent
    left_out = shutil.ignore_patterns("__pycache__", "page", "world", "*.mp4")
    copy = shutil.copytree(home, tmp_path / "program" / "nervykite", ignore=left_out)
    (copy / "core" / "finishes" / "flood.py").write_text(FINISH)
    (copy / "core" / "sources" / "square.py").write_text(SOURCE)
    (copy / "core" / "timeline" / "arrangements" / "blink.py").write_text(ARRANGEMENT)
    (copy / "core" / "motion" / "moves" / "hop.py").write_text(MOVE)
    clip = make_video(tmp_path / "clip.mp4", size=(160, 120))
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "-c", USE, str(tmp_path / "data"), str(clip)],
        capture_output=True, text=True, cwd=tmp_path / "program", env={"PATH": "/usr/bin:/bin", "PYTHONPATH": "."},
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-3000:]
    told = json.loads(done.stdout)
    finishes, sources, arrangements, moves = told["catalog"]
    assert "flood" in finishes
    assert "square" in sources
    assert "blink" in arrangements
    assert "hop" in moves
    # Each says itself what can be done with it, and how it sounds.
    assert told["place"]["can"] == ["worded", "located"]
    assert told["heard"] == ["shutter", "pop", "thud"]
    assert told["answer"]["source"] == {"kind": "square", "level": 0.75}
    assert (told["place"]["start"], told["place"]["end"], told["place"]["carved"]) == (5, 9, True)
    assert told["row"] == 'square blink {"level":0.75} {"frames":4}'
    assert told["layer"]["finishes"][0]["settings"] == {"strength": 0.5, "upside": False}
    assert told["undone"] == ["hold", "trail"]
    import av

    with av.open(str(tmp_path / "data" / "sent.mp4")) as file:
        frames = [f.to_ndarray(format="rgb24") for f in file.decode(video=0)]
    shown = [bool(abs(int(f[60, 60, 0]) - 223) < 12 and abs(int(f[60, 60, 1]) - 96) < 12) for f in frames]
    assert [n for n, s in enumerate(shown) if s] == [5, 6, 7, 8]


class Dish(Kind):
    """A family made for these tests."""

    family = Family("dish", "tests.dishes")


class TestFamilies:
    def test_kinds_are_found_by_name_and_parsed_with_their_settings(self):
        assert {"trail", "ahead", "along"} <= set(Arrangement.family.all())
        assert Source.family.parse({"kind": "hold", "hold": "0" * 16}).hold == "0" * 16
        assert Arrangement.family.parse("ahead") == Arrangement.family["ahead"]()

    @pytest.mark.parametrize(
        ("value", "sentence"),
        [
            ({"kind": "sideways"}, "there is no arrangement “sideways”"),
            ({}, "has to say its kind"),
            (7, "has to say its kind"),
            ({"kind": "trail", "more": 1}, "Trail: more"),
        ],
    )
    def test_what_is_none_gets_a_sentence(self, value, sentence):
        with pytest.raises(ValueError, match=sentence):
            Arrangement.family.parse(value)

    def test_a_kind_of_another_family_is_refused(self):
        with pytest.raises(ValueError, match="no arrangement"):
            Arrangement.family.parse(FinishKind.family["outline"]())

    def test_a_name_is_taken_once(self):
        from typing import Literal

        class Soup(Dish):
            kind: Literal["soup"] = "soup"

        assert name_of(Soup) == "soup"
        with pytest.raises(ValueError, match="two kinds of dish"):

            class Broth(Dish):
                kind: Literal["soup"] = "soup"


def test_every_recipe_has_its_page_with_a_picture():
    docs = Path(__file__).parents[1] / "docs"
    text = (docs / "RECIPES.md").read_text()
    for name, kind in Recipe.family.all().items():
        if not kind.listed:
            continue
        assert f"\n## {kind.title}\n" in text
        assert all(said in text for said in (f"`{name}`", kind.when, kind.film, kind.missed)), name
        assert (docs / f"recipes/{name}.jpg").stat().st_size > 10_000
