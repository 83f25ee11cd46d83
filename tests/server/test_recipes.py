"""Recipes over the API: which can be made, how they would look, made in one job that can be stopped, and refused."""

import io
import json
import re
import time
from urllib.parse import unquote

import numpy as np
import pytest
from PIL import Image

from nervykite.core.change.edits import RemoveMade
from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Recipe
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.studio import Studio
from nervykite.studio.bundle import read_bundle, write_bundle
from nervykite.studio.cooking import cook, project_for, recipe_from
from nervykite.studio.importing import import_shot

from ..core.scenes import walking
from ..media import make_video
from ..views import whole
from .api import upload, wait_for
from .test_catching import watched

WIDE, HIGH = 240, 300


@pytest.fixture
def walk(client, tmp_path):
    """A project in which somebody walks through the picture."""
    frames, _ = walking(24, HIGH, WIDE)
    made = client.post("/api/projects", json={"name": "Walk"}).json()["project"]["id"]
    path = make_video(tmp_path / "walk.mp4", 24, (WIDE, HIGH), picture=lambda n, w, h: frames[n])
    assert upload(client, made, path)["state"] == "done"
    return made


def view_of(client, project):
    return whole(client.get(f"/api/projects/{project}").json())


def test_what_is_missing_is_told_for_each(client, walk):
    empty = client.post("/api/projects", json={"name": "Empty"}).json()["project"]["id"]
    told = {r["kind"]: r["missing"] for r in client.get(f"/api/projects/{empty}/recipes").json()}
    assert len(told) >= 12
    assert set(told.values()) == {"There is no footage yet to make anything of. Import a video first."}
    told = {r["kind"]: r["missing"] for r in client.get(f"/api/projects/{walk}/recipes").json()}
    assert told["trail"] is None
    assert told["drop-on-the-cut"] == "Drop on the cut needs 2 takes, one after the other. Import one more."
    catalog = client.get("/api/catalog").json()["recipes"]
    assert [r["kind"] for r in catalog if r["listed"]] == list(told)
    assert all(r["when"] and r["film"] and r["missed"] for r in catalog if r["listed"])


def test_no_loop_is_no_error_and_says_why_if_there_will_never_be_one(client, walk):
    early = client.get(f"/api/projects/{walk}/recipes/trail.webp")
    assert (early.status_code, early.content, early.headers.get("Cannot")) == (204, b"", None)
    never = client.get(f"/api/projects/{walk}/recipes/drop-on-the-cut.webp")
    assert never.status_code == 204
    assert unquote(never.headers["Cannot"]).startswith("Drop on the cut needs 2 takes")


@pytest.mark.watches
def test_a_loop_shows_it_with_that_footage_once_it_was_looked_through(client, walk):
    watched(client, view_of(client, walk))
    answer = client.get(f"/api/projects/{walk}/recipes/trail.webp")
    assert answer.status_code == 200
    with Image.open(io.BytesIO(answer.content)) as loop:
        assert loop.n_frames > 3
        assert max(loop.size) == 320
    assert view_of(client, walk)["project"]["layers"] == []
    assert client.get(f"/api/projects/{walk}/recipes/nonsense.webp").json()["message"] == "There is no such recipe."


def test_it_is_made_in_one_job_and_another_takes_its_place(client, walk):
    body = {"recipe": {"kind": "trail", "many": 2, "every": 6}}
    job = wait_for(client, client.post(f"/api/projects/{walk}/recipes", json=body).json())
    assert job["state"] == "done", job["message"]
    view = view_of(client, walk)
    assert [x["arrangement"]["kind"] for x in view["project"]["layers"]] == ["trail", "trail"]
    (made,) = view["project"]["made"]
    assert made["id"] == job["result"]["made"]
    body = {"recipe": {"kind": "pops", "many": 1}, "instead": made["id"]}
    job = wait_for(client, client.post(f"/api/projects/{walk}/recipes", json=body).json())
    assert job["state"] == "done", job["message"]
    view = view_of(client, walk)
    assert [x["arrangement"]["kind"] for x in view["project"]["layers"]] == ["standstill"]
    assert view["undo"] == "make “Pop, pop, pop”"


def test_stopped_it_leaves_what_it_has_and_says_what_it_does(client, walk):
    job = client.post(f"/api/projects/{walk}/recipes", json={"recipe": {"kind": "even-trail"}}).json()
    said = set()
    until = time.monotonic() + 60
    while time.monotonic() < until:
        (now,) = (j for j in client.get(f"/api/projects/{walk}/jobs").json() if j["id"] == job["id"])
        said.add(now["message"])
        if (now["message"] or "").startswith("Cuts"):
            break
        time.sleep(0.01)
    client.post(f"/api/jobs/{job['id']}/cancel")
    ended = wait_for(client, job)
    assert ended["state"] in ("cancelled", "done")
    assert any((s or "").startswith("Cuts out of") for s in said)
    view = view_of(client, walk)
    assert len(view["holds"]) == 5
    if ended["state"] == "cancelled":
        assert view["project"]["made"] == []


@pytest.mark.parametrize(
    ("recipe", "says"),
    [({"kind": "nonsense"}, "cannot be made so"), ({"kind": "trail", "many": 99}, "cannot be made so"), ({}, "cannot")],
)
def test_what_is_no_recipe_is_refused(client, walk, recipe, says):
    answer = client.post(f"/api/projects/{walk}/recipes", json={"recipe": recipe})
    assert answer.status_code in (400, 409, 422)
    assert says in answer.json()["message"]


ODD = {
    "one frame": {"frames": 1},
    "two frames": {"frames": 2},
    "nobody in it": {"frames": 24, "picture": lambda n, w, h: np.full((h, w, 3), 120, np.uint8)},
    "rotated": {"frames": 20, "rotation": 90},
    "at a variable rate": {"frames": 12, "times": [0, 20, 90, 100, 180, 260, 270, 400, 430, 500, 610, 640]},
    "at 60": {"frames": 40, "rate": 60},
    "silent and wide": {"frames": 16, "size": (320, 96)},
}


FIT = {"one frame": {"quick-trail"}, "two frames": {"quick-trail", "window"}, "nobody in it": {"quick-trail", "window"}}
"""What can be made where nobody is found to be cut out; of all other footage everything can."""


@pytest.mark.parametrize("name", ODD)
def test_any_recipe_on_odd_footage_ends_in_a_piece_or_in_a_sentence(studio, tmp_path, name):
    project = studio.projects.new("Odd").document.project.id
    path = make_video(tmp_path / "odd.mp4", **ODD[name])
    for number in range(2):
        import_shot(studio, project, studio.keep_file(path), f"odd {number}.mp4")
    before = studio.state(project).document.project.ground
    made, fit = None, set()
    listed = {name: kind for name, kind in Recipe.family.all().items() if kind.listed}
    for recipe, kind in listed.items():
        try:
            made = cook(studio, project, kind(), instead=made).made
            fit.add(recipe)
        except Refusal as refusal:
            said = str(refusal)
            assert said.endswith(".")
            assert "cannot be done:" not in said
        document = studio.state(project).document
        timeline = Timeline(document)
        assert all(timeline.span(x) is not None for x in document.project.layers)
    assert fit == FIT.get(name, set(listed))
    document = studio.edit(project, RemoveMade(made=made), None).document
    assert document.project.ground == before


def cooked(client, project, **body):
    """Makes it, and gives the project's view afterwards."""
    job = wait_for(client, client.post(f"/api/projects/{project}/recipes", json=body).json())
    assert job["state"] == "done", job["message"]
    return view_of(client, project)


@pytest.fixture
def kept(client, walk):
    """A card that was made in a project and is kept there as a recipe: the recipe on the shelf."""
    view = cooked(client, walk, recipe={"kind": "name-strips", "name": "Juno", "lasts": 0.4})
    body = {"name": "My card", "layers": view["project"]["made"][0]["layers"]}
    answer = client.post(f"/api/projects/{walk}/recipes/saved", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def another(client, tmp_path, name="Another"):
    """A project with other footage."""
    frames, _ = walking(20, HIGH, WIDE)
    made = client.post("/api/projects", json={"name": name}).json()["project"]["id"]
    path = make_video(tmp_path / f"{name}.mp4", 20, (WIDE, HIGH), picture=lambda n, w, h: frames[n])
    assert upload(client, made, path)["state"] == "done"
    return made


@pytest.mark.watches
def test_what_is_kept_is_offered_everywhere_and_made_of_other_footage(client, walk, kept, tmp_path):
    assert view_of(client, walk)["assets"][kept["id"]]["kind"] == "recipe"
    other = another(client, tmp_path)
    offered = client.get(f"/api/projects/{other}/recipes").json()[0]
    assert (offered["file"], offered["name"], offered["missing"]) == (kept["file"], "My card", None)
    assert [a["words"] for a in offered["asks"]] == ["Juno"]
    with Image.open(io.BytesIO(client.get(f"/api/recipes/{kept['file']}.webp").content)) as picture:
        assert max(picture.size) == 320
    watched(client, view_of(client, other))
    loop = client.get(f"/api/projects/{other}/recipes/own.webp", params={"file": kept["file"]})
    assert loop.status_code == 200, loop.text
    view = cooked(client, other, recipe={"kind": "own", "file": kept["file"], "texts": ["Ida Holm"]})
    words = [x["source"]["words"] for x in view["project"]["layers"] if x["source"]["kind"] == "lettering"]
    assert words == ["Ida Holm"]
    assert view["undo"] == "make “My card”"
    # Ours takes the place of one's own, and leaves nothing of it.
    view = cooked(client, other, recipe={"kind": "pops", "many": 1}, instead=view["project"]["made"][0]["id"])
    assert not any(x["source"]["kind"] == "lettering" for x in view["project"]["layers"])


def test_it_is_made_of_the_cutouts_that_are_chosen(client, walk, kept):
    view = view_of(client, walk)
    item = view["project"]["ground"][0]["id"]
    edit = {"kind": "hold", "item": item, "frame": 3, "layer": "ab" * 8}
    body = {"revision": view["revision"], "edit": edit}
    assert client.post(f"/api/projects/{walk}/edits", json=body).status_code == 200
    view = cooked(client, walk, recipe={"kind": "own", "file": kept["file"]}, layers=["ab" * 8])
    assert [c["frame"] for c in view["project"]["made"][-1]["caught"]] == [3]
    # What an earlier recipe made can be chosen for the one in its place.
    made = view["project"]["made"][-1]
    body = {"recipe": {"kind": "pops"}, "layers": made["layers"], "instead": made["id"]}
    view = cooked(client, walk, **body)
    assert [c["frame"] for c in view["project"]["made"][-1]["caught"]] == [3]
    answer = client.post(
        f"/api/projects/{walk}/recipes", json={"recipe": {"kind": "trail"}, "layers": ["0" * 16]}
    ).json()
    assert "cutout of the footage" in wait_for(client, answer)["message"]


def test_a_file_of_it_goes_out_and_comes_in_elsewhere(client, walk, kept, tmp_path):
    answer = client.get(f"/api/projects/{walk}/assets/{kept['id']}.json")
    assert "My%20card.recipe.json" in answer.headers["content-disposition"]
    path = tmp_path / "My card.recipe.json"
    path.write_bytes(answer.content)
    other = another(client, tmp_path)
    assert upload(client, other, path)["state"] == "done"
    (asset,) = view_of(client, other)["assets"].values()
    assert (asset["kind"], asset["name"]) == ("recipe", "My card")


BROKEN = {
    "newer version": lambda told: {**told, "version": 2},
    "does not say of which version": lambda told: {**told, "version": None},
    "is no recipe": lambda told: {**told, "format": "something"},
    "is damaged: what it says makes no sense": lambda told: {**told, "recipe": {**told["recipe"], "layers": []}},
    "is damaged": lambda told: {**told, "recipe": None},
    "cannot be read: it is damaged, or only half": lambda told: json.dumps(told)[: len(json.dumps(told)) // 2],
    "holds a list or a single value": lambda told: [told],
    "says more than it can mean": lambda told: {**told, "more": [[]] * 450_000},
}
"""What is said of a recipe's file that is none, broken or newer."""


def test_a_file_that_is_none_or_broken_or_newer_is_refused_with_a_sentence(client, walk, kept, tmp_path):
    told = client.get(f"/api/projects/{walk}/assets/{kept['id']}.json").json()
    for says, change in BROKEN.items():
        made = change(told)
        path = tmp_path / "theirs.recipe.json"
        path.write_text(made if isinstance(made, str) else json.dumps(made))
        job = upload(client, walk, path)
        assert job["state"] == "failed", says
        assert re.match(f"theirs.recipe.json .*{says}", job["message"])


def test_it_goes_with_the_bundle_and_takes_its_pictures_along(client, studio, walk, tmp_path):
    picture = Image.new("RGBA", (40, 40), (200, 40, 30, 255))
    picture.save(tmp_path / "badge.png")
    assert upload(client, walk, tmp_path / "badge.png")["state"] == "done"
    view = cooked(client, walk, recipe={"kind": "pops", "many": 1})
    (asset,) = view["assets"].values()
    source = {"kind": "image", "asset": asset["id"], "file": asset["file"], "width": 40, "height": 40}
    edit = {"kind": "add layer", "source": source, "at": 0, "layer": "cd" * 8}
    answer = client.post(f"/api/projects/{walk}/edits", json={"revision": view["revision"], "edit": edit})
    assert answer.status_code == 200, answer.text
    layers = [*view["project"]["made"][0]["layers"], "cd" * 8]
    kept = client.post(f"/api/projects/{walk}/recipes/saved", json={"name": "Badged", "layers": layers}).json()
    assert "message" not in kept, kept
    write_bundle(studio, studio.state(walk).document, tmp_path / "walk.kite.zip")
    elsewhere = Studio(tmp_path / "elsewhere")
    try:
        state = read_bundle(elsewhere, tmp_path / "walk.kite.zip", "walk.kite.zip")
        (again,) = (a for a in state.document.assets.values() if a.kind == "recipe")
        assert again.file == kept["file"]
        # Its own file has the picture as well: another project needs nothing of this one.
        alone = Studio(tmp_path / "alone")
        path = tmp_path / "badged.json"
        path.write_bytes(elsewhere.files.path(again.file).read_bytes())
        recipe = recipe_from(alone, path)
        assert all(alone.files.path(a.file).is_file() for a in recipe.what.assets)
        frames, _ = walking(20, HIGH, WIDE)
        video = make_video(tmp_path / "other.mp4", 20, (WIDE, HIGH), picture=lambda n, w, h: frames[n])
        project = project_for(alone, "Alone", [video])
        cook(alone, project, recipe)
        document = alone.state(project).document
        assert {x.source.kind for x in document.project.layers} == {"hold", "image"}
        assert [a.kind for a in document.assets.values()] == ["picture"]
        alone.close()
    finally:
        elsewhere.close()


def test_the_footage_is_emptied_of_who_became_the_copy_and_filled_again(client, studio, walk):
    before = studio.state(walk).document.project.ground
    view = cooked(client, walk, recipe={"kind": "become-the-copy", "lasts": 0.3, "before": 0.2})
    (emptied,) = (g for g in view["project"]["ground"] if g["source"].get("emptied"))
    made = view["project"]["made"][0]
    assert made["emptied"] == [emptied["id"]]
    document = studio.state(walk).document
    hold = document.holds[emptied["source"]["emptied"]]
    assert hold.plate is not None
    assert {s.frame for s in hold.travel.stops} >= set(range(hold.frame + 1, hold.frame + 5))
    assert studio.edit(walk, RemoveMade(made=made["id"]), None).document.project.ground == before


def test_its_colours_can_be_those_of_the_clothes(client, studio, walk):
    recipe = {"kind": "ink-panel"}
    view = cooked(client, walk, recipe=recipe)
    papers = []
    for colours in ("project", "clothes"):
        view = cooked(client, walk, recipe={**recipe, "colours": colours}, instead=view["project"]["made"][0]["id"])
        world = next(x for x in view["project"]["layers"] if x["source"]["kind"] == "wash")
        papers.append([f["settings"] for f in world["finishes"] if f["kind"] == "tritone"])
    assert papers[0] != papers[1]
    assert view["project"]["palette"] == []
