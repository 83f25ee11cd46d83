"""A new kind is one file: put beside the others, it is found everywhere without any other change.

The kinds are the examples of CONTRIBUTING.md, word for word.
"""

import json
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

import nervykite
from nervykite.core.piece.model import Arrangement, FinishKind, Recipe, Source
from nervykite.core.piece.model.kinds import Family, Kind, name_of

from .media import make_video

ROOT = Path(__file__).parents[1]
EXAMPLE = re.compile(r"```python\n# nervykite/(\S+)\n(.*?)```", re.DOTALL)

USE = """
import json, sqlite3, sys
from pathlib import Path

from starlette.testclient import TestClient

from nervykite.core.change.edits import ChangeLayer, HoldFrame
from nervykite.core.piece.model import Arrangement, Finish, Source
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.send.export import Output
from nervykite.core.draw.send.writer import writer_for
from nervykite.core.draw.send.writers.mp4 import Mp4
from nervykite.core.change.snags.snag import Inspection, snags_of
from nervykite.server.app import create_app
from nervykite.studio import Studio

FAMILIES = ("finishes", "sources", "arrangements", "moves", "behaviours", "sounds", "cards", "recipes", "formats")
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
    nod = {"kind": "change layer", "layer": edit.layer, "behaviours": [{"kind": "nod", "settings": {"far": 20}}]}
    card = {"kind": "add card", "card": {"kind": "bare"}, "name": "JUNO", "at": 0, "x": 0, "y": 0, "wide": 90}
    item = document.project.ground[0].id
    winks = {"kind": "put recipe", "recipe": {"kind": "winks", "lasts": 2}, "caught": [{"item": item, "frame": 3}]}
    knock = {"kind": "add cue", "sound": {"kind": "knock"}, "tie": {"to": "start", "offset": 2}}
    others = []
    for body in (nod, card, winks, knock):
        revision = studio.state(project).revision
        told = client.post(f"/api/projects/{project}/edits", json={"revision": revision, "edit": body})
        others.append(told.status_code if told.status_code == 200 else told.json()["message"])
    added = studio.state(project).document
    found = [s.check for s in snags_of(Inspection(Evaluation(added)))]
    for _ in range(others.count(200)):
        studio.projects.undo(project)
    hop = {"kind": "put move", "layers": [edit.layer], "side": "in", "move": {"kind": "hop", "settings": {"lasts": 2}}}
    for body in (hop, {"kind": "sound move", "layer": edit.layer}):
        revision = studio.state(project).revision
        told = client.post(f"/api/projects/{project}/edits", json={"revision": revision, "edit": body}).json()
    heard = [c["sound"]["kind"] for c in told["project"]["cues"]]
for _ in range(2):
    studio.projects.undo(project)
out = folder / "sent.mp4"
raw = folder / "sent.rgb"
studio.export(studio.state(project).document, Output(out, Mp4()), Output(raw, writer_for("sent.rgb")))
studio.close()
again = Studio(folder, watches=False)
layer = again.state(project).document.project.layers[0]
row = dict(sqlite3.connect(folder / "nervykite.sqlite").execute(
    "SELECT 'kind', kind || ' ' || arrangement || ' ' || settings || ' ' || arranging FROM layers").fetchall())
undone = again.projects.undo(project).document.project.layers[0]
again.close()
print(json.dumps({
    "catalog": [k["kind"] for family in FAMILIES for k in catalog[family]],
    "others": others, "found": found, "raw": raw.stat().st_size,
    "layers": [x.name for x in added.project.layers], "made": [m.recipe.kind for m in added.project.made],
    "cues": [c.sound.kind for c in added.project.cues],
    "heard": heard, "answer": answer["layers"][edit.layer], "place": answer["places"][edit.layer], "row": row["kind"],
    "layer": layer.model_dump(mode="json"), "undone": [undone.source.kind, undone.arrangement.kind],
}))
"""


def test_every_sort_of_kind_is_one_file(tmp_path):
    home = Path(nervykite.__file__).parent
    left_out = shutil.ignore_patterns("__pycache__", "page", "world", "*.mp4")
    copy = shutil.copytree(home, tmp_path / "program" / "nervykite", ignore=left_out)
    examples = EXAMPLE.findall((ROOT / "CONTRIBUTING.md").read_text())
    assert len(examples) == 10
    for path, text in examples:
        assert not (copy / path).exists()
        (copy / path).write_text(text)
    (tmp_path / "program" / "web").symlink_to(home.parent / "web")  # its faces
    clip = make_video(tmp_path / "clip.mp4", size=(160, 120))
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "-c", USE, str(tmp_path / "data"), str(clip)],
        capture_output=True, text=True, cwd=tmp_path / "program", env={"PATH": "/usr/bin:/bin", "PYTHONPATH": "."},
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-3000:]
    told = json.loads(done.stdout)
    assert {"flood", "square", "blink", "hop", "nod", "knock", "bare", "winks", "raw"} <= set(told["catalog"])
    assert told["others"] == [200] * 4
    assert "unnamed" in told["found"]
    assert "JUNO" in told["layers"]
    assert (told["made"], "knock" in told["cues"]) == (["winks"], True)
    assert told["raw"] % (160 * 120 * 3) == 0
    assert told["raw"] > 0
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
