"""The camera followed as a job, layers pinned to it, and the pictures that come of it."""

import json

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Shot
from nervykite.core.see.footage import loose
from nervykite.studio.track_files import as_json, read_track
from tools.bench.cameras import errors, shot

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


def test_a_place_and_a_patch_are_followed_and_kept_apart(client, tmp_path):
    view, _ = pan(client, tmp_path)
    id_, item = view["project"]["id"], view["project"]["ground"][0]["id"]
    for n, frame in enumerate((10, 12)):
        view = edit(client, view, kind="hold", item=item, frame=frame, layer=f"{n}" * 16)
    url = f"/api/projects/{id_}/track"
    asked = (
        {"layers": ["0" * 16], "at": 12, "touched": [60, 90]},
        {"layers": ["1" * 16], "at": 14, "patch": [40, 300, 110, 370], "how": "turn"},
    )
    for body in asked:
        done = wait_for(client, client.post(url, json=body).json())
        assert done["state"] == "done", done
    view = whole(client.get(f"/api/projects/{id_}").json())
    place, patch = (view["tracks"][x["pin"]["track"]] for x in view["project"]["layers"])
    assert (place["ref"], place["touched"], place["patch"], place["seen"]) == (12, [60, 90], None, [])
    assert (patch["ref"], patch["patch"], patch["model"]) == (14, [40, 300, 110, 370], "similarity")
    assert patch["seen"][14] == [40.5, 300.5, 110.5, 300.5, 110.5, 370.5, 40.5, 370.5]
    # Followed again, by what is asked for, in its place.
    body = {"layers": ["0" * 16], "at": 12, "touched": [60, 90], "model": "affine", "replaces": place["id"]}
    assert wait_for(client, client.post(url, json=body).json())["state"] == "done"
    view = whole(client.get(f"/api/projects/{id_}").json())
    assert view["tracks"][place["id"]]["model"] == "affine"
    assert set(view["tracks"]) == {place["id"], patch["id"]}
    # Put right on the page's word.
    view = edit(client, view, kind="fix track", track=patch["id"], frame=20, by=[3, 4])
    moved = view["tracks"][patch["id"]]
    assert moved["fixed"] == [20]
    assert np.subtract(moved["seen"][20], patch["seen"][20]).tolist() == pytest.approx([3, 4] * 4, abs=0.02)


def test_a_track_is_written_and_read(client, tmp_path):
    view, made = pan(client, tmp_path)
    id_, item = view["project"]["id"], view["project"]["ground"][0]["id"]
    view = edit(client, view, kind="hold", item=item, frame=12, layer="a" * 16)
    wait_for(client, client.post(f"/api/projects/{id_}/track", json={"layers": ["a" * 16]}).json())
    view = whole(client.get(f"/api/projects/{id_}").json())
    (track,) = view["tracks"].values()
    answer = client.get(f"/api/projects/{id_}/tracks/{track['id']}.json")
    assert "attachment" in answer.headers["content-disposition"]
    written = answer.json()
    assert (written["ref"], len(written["frames"])) == (12, 24)
    assert errors([np.array(f["h"]) for f in written["frames"]], made.to_ref, SIZE).max() < 0.5
    read = client.post(f"/api/projects/{id_}/tracks", json={"at": 3, "name": "By hand.json", "text": answer.text})
    assert read.status_code == 200
    given = read.json()
    assert given["name"] == "By hand"
    view = edit(client, view, kind="add track", track=given)
    assert view["tracks"][given["id"]]["confidence"] == track["confidence"]
    again = client.get(f"/api/projects/{id_}/tracks/{given['id']}.json").json()
    for one, other in zip(again["frames"], written["frames"], strict=True):
        assert np.allclose(one["h"], other["h"], rtol=1e-6, atol=1e-6)


@pytest.mark.parametrize(
    ("broken", "said"),
    [
        (lambda t: "no json", "not a track: its text"),
        (lambda t: json.dumps(t | {"frames": []}), "not a track: frames"),
        (lambda t: json.dumps(t | {"frames": [t["frames"][0] | {"h": [[1, 0], [0, 1]]}]}), "not a track: frames.0.h"),
        (lambda t: json.dumps(t | {"frames": t["frames"][:3] + t["frames"][4:]}), "leaves frames out"),
        (lambda t: json.dumps(t | {"ref": 99}), "no such frame"),
        (lambda t: json.dumps(t | {"frames": [f | {"frame": f["frame"] + 9} for f in t["frames"]]}), "last one of"),
        (
            lambda t: json.dumps(t | {"frames": [f | {"h": [[1, 0, 0], [2, 0, 0], [0, 0, 1]]} for f in t["frames"]]}),
            "lies on a line",
        ),
    ],
)
def test_a_broken_track_gets_a_sentence(broken, said):
    taken = Shot.model_construct(id="a" * 16, name="Pan", ticks=list(range(25)))
    whole_ = as_json(12, 0, "homography", [np.eye(3)] * 24, [1.0] * 24)
    with pytest.raises(Refusal, match=said):
        read_track(broken(whole_), "Track.json", taken)


def test_a_shaken_copy_of_a_still_shot_stands_still_again(client, tmp_path):
    made = shot("hand", frames=30, size=SIZE, large=0.0, noise=1.0)
    path = make_video(
        tmp_path / "hand.mp4", frames=30, size=SIZE,
        picture=lambda n, w, h: cv2.cvtColor(made.frames[n], cv2.COLOR_GRAY2RGB),
    )  # fmt: skip
    id_ = client.post("/api/projects", json={"name": "Hand"}).json()["project"]["id"]
    assert upload(client, id_, path)["state"] == "done"
    view = whole(client.get(f"/api/projects/{id_}").json())
    item = view["project"]["ground"][0]["id"]
    view = edit(client, view, kind="set canvas", width=270, height=480, rate="30", background="#000000")

    def sent() -> list[np.ndarray]:
        job = wait_for(client, client.post(f"/api/projects/{id_}/exports", json={}).json())
        assert job["state"] == "done", job
        file = tmp_path / "sent.mp4"
        file.write_bytes(client.get(f"/api/jobs/{job['id']}/file").content)
        return [loose.shrunk(f, SIZE).astype(float).mean(2) for f in loose.frames(file)]

    def restless(frames: list[np.ndarray]) -> float:
        inner = [f[60:-60, 40:-40] for f in frames]
        return float(np.mean([np.abs(a - inner[15]).mean() for a in inner]))

    before = restless(sent())
    done = wait_for(client, client.post(f"/api/projects/{id_}/track", json={"item": item, "at": 15}).json())
    assert done["state"] == "done", done
    view = whole(client.get(f"/api/projects/{id_}").json())
    steady = view["project"]["ground"][0]["steady"]
    view = edit(client, view, kind="steady ground", item=item, steady=steady | {"how": "still"})
    assert restless(sent()) < 0.2 * before
    (info,) = view["items"]
    assert 1.02 < info["steadied"]["larger"] < 1.4
    assert info["steadied"]["edges"] == 0


def test_only_footage_is_steadied(client, tmp_path):
    view, _ = pan(client, tmp_path)
    id_ = view["project"]["id"]
    view = edit(client, view, kind="add colour")
    item = view["project"]["ground"][1]["id"]
    answer = client.post(f"/api/projects/{id_}/track", json={"item": item})
    assert answer.status_code == 400
    assert "Only footage can be steadied" in answer.json()["message"]
    body = {"layers": [], "item": None}
    assert client.post(f"/api/projects/{id_}/track", json=body).status_code == 400


def test_followed_again_what_was_not_held_stays_where_it_was_pinned(client, tmp_path):
    view, _ = pan(client, tmp_path)
    id_ = view["project"]["id"]
    edit(client, view, kind="add layer", source={"kind": "box"}, at=0, frames=24, layer="b" * 16)
    url = f"/api/projects/{id_}/track"
    assert wait_for(client, client.post(url, json={"layers": ["b" * 16], "at": 9}).json())["state"] == "done"
    view = whole(client.get(f"/api/projects/{id_}").json())
    (before,) = view["project"]["layers"]
    body = {"layers": ["b" * 16], "at": 20, "model": "homography", "replaces": before["pin"]["track"]}
    assert wait_for(client, client.post(url, json=body).json())["state"] == "done"
    view = whole(client.get(f"/api/projects/{id_}").json())
    assert view["project"]["layers"][0]["pin"] == before["pin"]
    assert view["tracks"][before["pin"]["track"]]["model"] == "homography"
