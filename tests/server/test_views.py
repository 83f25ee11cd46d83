"""What the page is told: all of a project, or what an edit changed of it; frame keys; and what is heard."""

import numpy as np
import pytest
from starlette.testclient import TestClient

from nervykite.core.change.edits import PutCarried
from nervykite.core.kinds.sources.cutout import CutoutSource
from nervykite.core.piece.model import Found, Raster, Stop
from nervykite.server.app import create_app

from ..media import make_video
from ..views import whole
from .api import BASE, box_matte, carved, edit, upload


@pytest.fixture
def client(studio):
    with TestClient(create_app(studio), base_url=BASE) as client:
        yield client


def even(n: int, width: int, height: int) -> np.ndarray:
    """Frames that are all but alike, so that they are one take."""
    return np.full((height, width, 3), 90 + n, np.uint8)


@pytest.fixture
def project(client, tmp_path):
    """A project with one shot of 24 numbered frames, with sound."""
    made = client.post("/api/projects", json={"name": "Relay"}).json()["project"]["id"]
    assert upload(client, made, make_video(tmp_path / "clip.mp4", sound=True, picture=even))["state"] == "done"
    return whole(client.get(f"/api/projects/{made}").json())


def told(client, view, **body):
    url = f"/api/projects/{view['project']['id']}"
    answer = client.post(f"{url}/edits", json={"revision": view["revision"], "edit": body})
    assert answer.status_code == 200, answer.text
    return answer


def test_what_is_put_together_is_what_is_there(client, project):
    """After every edit, undo and redo the view that grew piece by piece equals the one that is asked for whole."""
    url = f"/api/projects/{project['project']['id']}"
    view, item = project, project["project"]["ground"][0]["id"]

    def same(view):
        fresh = whole(client.get(url).json())
        for name in (
            "project",
            "shots",
            "holds",
            "items",
            "layers",
            "strips",
            "takes",
            "sound",
            "length",
            "undo",
            "redo",
        ):
            assert view[name] == fresh[name], name
        return view

    view = same(carved(client, view))
    layer = view["project"]["layers"][0]["id"]
    view = same(edit(client, view, kind="duplicate layer", layer=layer))
    view = same(edit(client, view, kind="move layer", layers=[layer], to=1))
    view = same(edit(client, view, kind="change layer", layer=layer, until=15))
    view = same(edit(client, view, kind="set travel", hold=view["layers"][layer]["hold"], range=[2, 12]))
    view = same(edit(client, view, kind="add ground", shot=next(iter(view["shots"]))))
    view = same(edit(client, view, kind="change ground", item=item, first=3))
    view = same(edit(client, view, kind="remove layer", layer=layer))
    for step in ("undo", "undo", "undo", "redo", "undo", "undo", "undo"):
        answer = client.post(f"{url}/{step}", json={"revision": view["revision"]}).json()
        assert answer["base"] == view["revision"]
        view = same(whole(answer, view))
    view = same(edit(client, view, kind="remove ground", items=[item]))


def test_an_edit_is_answered_with_what_it_changed(client, project):
    view = carved(client, project)
    other = edit(client, view, kind="hold", item=view["project"]["ground"][0]["id"], frame=9)
    answer = told(
        client, other, kind="set value", layer=view["project"]["layers"][0]["id"], channel="scale", frame=0, value=[2]
    )
    body = answer.json()
    assert list(body["layers"]) == [view["project"]["layers"][0]["id"]]
    assert body["stale"] == [[6, 24]]
    assert not body["holds"]
    assert not body["items"]
    assert not body["shots"]
    assert body["layer_order"] is None
    assert len(answer.content) < 2500


def test_a_travelling_matte_is_not_sent_again_with_every_edit(client, project, studio):
    view = carved(client, project)
    layer = view["project"]["layers"][0]["id"]
    hold = view["layers"][layer]["hold"]
    view = edit(client, view, kind="set travel", hold=hold, range=[0, 24])
    raster = Raster(file=studio.keep_picture(np.full((120, 160), 255, np.uint8)), box=(0, 0, 9, 9))
    stops = [Stop(frame=f, pieces=[Found(kind="carried", raster=raster)]) for f in range(24) if f != 6]
    studio.edit(view["project"]["id"], PutCarried(hold=hold, stops=stops), None)
    view = whole(client.get(f"/api/projects/{view['project']['id']}").json())
    assert len(view["holds"][hold]["travel"]["stops"]) == 23
    # The edge of the whole matte changes: the hold is told, and none of its frames.
    answer = told(client, view, kind="change matte", hold=hold, matte=view["holds"][hold]["matte"] | {"grow": 2})
    assert list(answer.json()["holds"]) == [hold]
    assert answer.json()["stops"] == {}
    view = whole(answer.json(), view)
    assert len(view["holds"][hold]["travel"]["stops"]) == 23
    # One frame is corrected: it is told, and those that are out of date by that.
    answer = told(client, view, kind="change matte", hold=hold, frame=23, matte=box_matte(0, 0, 9, 9))
    changed = answer.json()["stops"]
    assert changed[f"{hold}:23"]["state"] == "fixed"
    assert {s["state"] for k, s in changed.items() if k != f"{hold}:23"} == {"stale"}


def test_a_layer_that_comes_to_depend_on_more_is_told_anew(client, project, monkeypatch):
    """A kind of source may follow from any number of things, and from more of them after an edit."""
    monkeypatch.setattr(CutoutSource, "depends", lambda self, document: tuple(document.holds.values()))
    view = carved(client, project)
    answer = told(client, view, kind="hold", item=view["project"]["ground"][0]["id"], frame=9).json()
    assert answer["stale"] == [[6, 24]]
    assert len(whole(answer, view)["layers"]) == 2


def test_a_page_that_has_been_away_is_told_what_it_missed(client, project):
    url = f"/api/projects/{project['project']['id']}"
    view = edit(client, project, kind="rename project", name="Other")
    carved(client, view)
    missed = client.get(url, params={"since": project["revision"]}).json()
    assert missed["base"] == project["revision"]
    assert whole(missed, project)["project"]["name"] == "Other"
    assert len(whole(missed, project)["layers"]) == 1
    assert client.get(url, params={"since": 99}).json()["base"] is None


def test_keys_are_told_by_range(client, project):
    url = f"/api/projects/{project['project']['id']}/keys"
    everything = client.get(url).json()["keys"]
    assert len(everything) == 24
    part = client.get(url, params={"first": 5, "past": 9}).json()
    assert (part["first"], part["keys"]) == (5, everything[5:9])
    assert client.get(url, params={"first": 20, "past": 90}).json()["keys"] == everything[20:]
    assert client.get(url, params={"first": 30, "past": 40}).json()["keys"] == []


def test_sound_says_what_it_is_the_sound_of(client, project):
    url = f"/api/projects/{project['project']['id']}"
    before = client.get(f"{url}/sound").json()
    assert before["key"] == project["sound"]
    moved = edit(client, carved(client, project), kind="rename project", name="Other")
    assert moved["sound"] == project["sound"]
    trimmed = edit(client, moved, kind="change ground", item=project["project"]["ground"][0]["id"], first=9)
    assert trimmed["sound"] != project["sound"]
    assert client.get(f"{url}/sound").json()["key"] == trimmed["sound"]
    assert client.get(f"{url}/peaks").headers["X-Sound"] == trimmed["sound"]
    undone = client.post(f"{url}/undo", json={"revision": trimmed["revision"]}).json()
    assert undone["sound"] == project["sound"]


def test_the_keys_near_the_frame_that_is_looked_at_come_with_the_answer(client, project):
    url = f"/api/projects/{project['project']['id']}"
    edit = {"kind": "change ground", "item": project["project"]["ground"][0]["id"], "framing": {"mode": "fit"}}
    for asked, body in (("edits", {"edit": edit}), ("undo", {}), ("redo", {})):
        revision = client.get(url).json()["revision"]
        answer = client.post(f"{url}/{asked}", json={"revision": revision, "at": 6, **body}).json()
        first, keys = answer["near"]
        known = client.get(f"{url}/keys", params={"first": first, "past": first + len(keys)}).json()
        assert (known["revision"], known["keys"]) == (answer["revision"], keys)
        assert first <= 6 < first + len(keys)
    # Whoever looks at no frame is told of none.
    assert told(client, client.get(url).json() | {}, **edit).json()["near"] is None
