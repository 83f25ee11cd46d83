"""Layers copied into another project: footage, mattes and pictures come along, and stay as long as they are needed."""

import cv2
import numpy as np
import pytest

from nervykite.core.change.edits import AddLayer, HoldFrame
from nervykite.core.kinds.sources.plain_colour import ColourSource
from nervykite.studio.importing import import_file, import_shot

from ..media import make_video
from ..views import whole
from .api import edit


@pytest.fixture
def two(client, studio, project, tmp_path):
    """Two projects, one with a cutout, a badge and a colour, one with other footage: their ids, and the layers'."""
    project = project["project"]["id"]
    cv2.imwrite(str(tmp_path / "badge.png"), np.full((30, 40, 4), 200, np.uint8))
    badge, _ = import_file(studio, project, studio.keep_file(tmp_path / "badge.png"), "badge.png")
    document = studio.state(project).document
    cutout = HoldFrame(item=document.project.ground[0].id, frame=5)
    colour = AddLayer(source=ColourSource(), at=3)
    for made in (cutout, colour):
        studio.edit(project, made, None)
    source = {"kind": "image", "asset": badge.id, "file": badge.file, "width": 40, "height": 30}
    view = edit(client, whole(client.get(f"/api/projects/{project}").json()), kind="add layer", source=source, at=2)
    other = client.post("/api/projects", json={"name": "Other"}).json()["project"]["id"]
    clip = make_video(tmp_path / "other.mp4", frames=20)
    import_shot(studio, other, studio.keep_file(clip), "other.mp4")
    return project, other, [x["id"] for x in view["project"]["layers"]]


def copied(client, project, layers) -> str:
    answer = client.post(f"/api/projects/{project}/copy", json={"layers": layers})
    assert answer.status_code == 200, answer.text
    return answer.json()["clip"]


def paste(client, project, clip, at=4):
    revision = client.get(f"/api/projects/{project}").json()["revision"]
    return client.post(f"/api/projects/{project}/paste", json={"clip": clip, "at": at, "revision": revision})


def test_they_are_there_with_all_they_are_made_of(client, studio, two):
    project, other, layers = two
    answer = paste(client, other, copied(client, project, layers))
    assert answer.status_code == 200, answer.text
    view = client.get(f"/api/projects/{other}").json()
    assert len(view["layers"]) == 3
    assert len(view["shots"]) == 2
    (hold,) = view["holds"].values()
    assert hold["hold"]["shot"] in view["shots"]
    assert [a["name"] for a in view["assets"].values()] == ["badge"]
    undone = client.post(f"/api/projects/{other}/undo", json={"revision": view["revision"]}).json()
    assert undone["layer_order"] == []
    assert client.post(f"/api/projects/{other}/redo", json={"revision": undone["revision"]}).status_code == 200


def test_what_they_need_stays_when_the_project_they_came_from_goes(client, studio, two):
    project, other, layers = two
    assert paste(client, other, copied(client, project, layers)).status_code == 200
    client.delete(f"/api/projects/{project}")
    client.delete(f"/api/deleted-projects/{project}")
    studio.tidy(0)
    view = client.get(f"/api/projects/{other}").json()
    for shot in studio.state(other).document.shots.values():
        assert studio.files.path(shot.file).is_file()
    (asset,) = view["assets"]
    assert client.get(f"/api/projects/{other}/assets/{asset}.png").status_code == 200


def test_a_clip_whose_footage_is_gone_says_so(client, studio, two):
    project, other, layers = two
    clip = copied(client, project, layers)
    client.delete(f"/api/projects/{project}")
    client.delete(f"/api/deleted-projects/{project}")
    studio.tidy(0)
    answer = paste(client, other, clip)
    assert answer.status_code == 400
    assert "Import it again" in answer.json()["message"]


def test_what_is_not_remembered_says_so(client, two):
    _, other, _ = two
    answer = paste(client, other, "0" * 16)
    assert answer.status_code == 400
    assert "Copy it again" in answer.json()["message"]
    missing = client.post(f"/api/projects/{other}/copy", json={"layers": ["0" * 16]})
    assert missing.status_code == 400
