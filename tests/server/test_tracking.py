"""The camera followed as a job, layers pinned to it, and the pictures that come of it."""

import cv2
import numpy as np

from nervykite.bench.cameras import shot

from ..media import make_video
from ..views import whole
from .api import edit, upload, wait_for

SIZE = (270, 480)


def pan(client, tmp_path):
    """A project with a shot that pans past somebody, and its frames."""
    made = shot("pan", frames=24, size=SIZE, large=0.05)
    path = make_video(
        tmp_path / "pan.mp4", frames=24, size=SIZE,
        picture=lambda n, w, h: cv2.cvtColor(made.frames[n], cv2.COLOR_GRAY2RGB),
    )  # fmt: skip
    id_ = client.post("/api/projects", json={"name": "Pan"}).json()["project"]["id"]
    assert upload(client, id_, path)["state"] == "done"
    return whole(client.get(f"/api/projects/{id_}").json()), made


def test_a_held_layer_is_pinned_by_itself(client, tmp_path):
    view, made = pan(client, tmp_path)
    id_, item = view["project"]["id"], view["project"]["ground"][0]["id"]
    view = edit(client, view, kind="hold", item=item, frame=12, layer="a" * 16)
    job = client.post(f"/api/projects/{id_}/track", json={"layers": ["a" * 16]}).json()
    done = wait_for(client, job)
    assert done["state"] == "done", done
    assert done["result"]["doubtful"] == 0
    view = whole(client.get(f"/api/projects/{id_}").json())
    (track,) = view["tracks"].values()
    assert (track["ref"], track["first"], len(track["confidence"])) == (12, 0, 24)
    assert "matrices" not in track
    (layer,) = view["project"]["layers"]
    assert layer["pin"] == {"track": track["id"], "frame": 12, "how": "full"}
    # Pinned otherwise by hand, taken back, and read again as it was.
    changed = edit(client, view, kind="pin layers", layers=["a" * 16], track=track["id"], how="place")
    assert changed["project"]["layers"][0]["pin"]["how"] == "place"
    undone = client.post(f"/api/projects/{id_}/undo", json={"revision": changed["revision"]})
    assert undone.status_code == 200
    again = whole(client.get(f"/api/projects/{id_}").json())
    assert again["project"]["layers"][0]["pin"]["how"] == "full"
    assert again["tracks"] == view["tracks"]
    # One more step back, and there is no track; forward, and it is there as it was.
    undone = client.post(f"/api/projects/{id_}/undo", json={"revision": again["revision"]}).json()
    assert undone["gone"]["tracks"] == [next(iter(view["tracks"]))]
    client.post(f"/api/projects/{id_}/redo", json={"revision": undone["revision"]})
    assert whole(client.get(f"/api/projects/{id_}").json())["tracks"] == view["tracks"]


def test_a_shape_is_pinned_where_it_lies_now(client, tmp_path):
    view, _ = pan(client, tmp_path)
    id_ = view["project"]["id"]
    view = edit(client, view, kind="add layer", source={"kind": "box"}, at=0, frames=24, layer="b" * 16)
    job = client.post(f"/api/projects/{id_}/track", json={"layers": ["b" * 16], "at": 9, "how": "turn"}).json()
    assert wait_for(client, job)["state"] == "done"
    view = whole(client.get(f"/api/projects/{id_}").json())
    (track,) = view["tracks"].values()
    assert view["project"]["layers"][0]["pin"] == {"track": track["id"], "frame": 9, "how": "turn"}


def test_what_cannot_be_followed_gets_a_sentence(client, tmp_path):
    path = make_video(
        tmp_path / "fog.mp4", frames=12, size=(160, 120), picture=lambda n, w, h: np.full((h, w, 3), 140, np.uint8)
    )
    id_ = client.post("/api/projects", json={"name": "Fog"}).json()["project"]["id"]
    assert upload(client, id_, path)["state"] == "done"
    view = whole(client.get(f"/api/projects/{id_}").json())
    edit(client, view, kind="hold", item=view["project"]["ground"][0]["id"], frame=5, layer="a" * 16)
    job = client.post(f"/api/projects/{id_}/track", json={"layers": ["a" * 16]}).json()
    done = wait_for(client, job)
    assert done["state"] == "failed"
    assert "nothing in that frame that could be followed" in done["message"]
    assert whole(client.get(f"/api/projects/{id_}").json())["project"]["layers"][0]["pin"] is None
    for layers in (["f" * 16], ["f" * 16, "a" * 16]):
        assert client.post(f"/api/projects/{id_}/track", json={"layers": layers}).status_code == 404
