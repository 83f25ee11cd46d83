"""Recipes over the API: which can be made, how they would look, made in one job that can be stopped, and refused."""

import io
import time

import numpy as np
import pytest
from PIL import Image

from nervykite.core.edits import RemoveMade
from nervykite.core.errors import Refusal
from nervykite.core.model import Recipe
from nervykite.core.timeline.timeline import Timeline
from nervykite.studio.cooking import cook
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
    assert [r["kind"] for r in catalog] == list(told)
    assert all(r["when"] and r["film"] and r["missed"] for r in catalog)


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


@pytest.mark.parametrize("name", ODD)
def test_any_recipe_on_odd_footage_ends_in_a_piece_or_in_a_sentence(studio, tmp_path, name):
    project = studio.projects.new("Odd").document.project.id
    path = make_video(tmp_path / "odd.mp4", **ODD[name])
    for number in range(2):
        import_shot(studio, project, studio.keep_file(path), f"odd {number}.mp4")
    before = studio.state(project).document.project.ground
    made = None
    for kind in Recipe.family.all().values():
        try:
            made = cook(studio, project, kind(), instead=made).made
        except Refusal as refusal:
            said = str(refusal)
            assert said.endswith(".")
            assert "cannot be done:" not in said
        document = studio.state(project).document
        timeline = Timeline(document)
        assert all(timeline.span(x) is not None for x in document.project.layers)
    if made is not None:
        document = studio.edit(project, RemoveMade(made=made), None).document
        assert document.project.ground == before
