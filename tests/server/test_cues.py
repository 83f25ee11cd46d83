"""Cues over the API: kept, told with their places, heard, undone, and gone with what they were tied to."""

import io
import wave

import numpy as np
import pytest

from ..views import whole
from .api import carved, edit, sound, upload


def test_a_hit_is_put_on_a_layer_heard_moved_and_undone(client, project):
    view = carved(client, project, 10)
    id_, layer = view["project"]["id"], view["project"]["layers"][-1]["id"]
    view = edit(client, view, kind="change mix", changes={"loudness": None, "footage": {"muted": True}})
    before = sound(client, id_)
    tie = {"to": "landing", "layer": layer, "offset": 2}
    view = edit(client, view, kind="add cue", sound={"kind": "tick"}, tie=tie, cue="a" * 16)
    (cue,) = view["project"]["cues"]
    assert (cue["name"], cue["sound"]["kind"]) == ("Tick", "tick")
    place = view["cue_places"][cue["id"]]
    assert place["frame"] == 12
    assert place["start"] == pytest.approx(12, abs=0.01)
    more = np.abs(sound(client, id_) - before).max(1) > 0.02
    rate = 30
    assert np.argmax(more) / 48_000 * rate == pytest.approx(12, abs=0.2)
    view = edit(client, view, kind="change cue", cue=cue["id"], changes={"gain": -12.0, "muted": True})
    assert np.abs(sound(client, id_) - before).max() < 1e-3
    undone = client.post(f"/api/projects/{id_}/undo", json={"revision": view["revision"]})
    assert undone.status_code == 200
    more = np.abs(sound(client, id_) - before).max(1) > 0.02
    assert more.any()


def test_it_is_read_back_as_it_was_written(client, project):
    view = carved(client, project, 10)
    id_, layer = view["project"]["id"], view["project"]["layers"][-1]["id"]
    view = edit(
        client, view, kind="add cue", sound={"kind": "whoosh", "lasts": 0.8, "towards": "left"}, tie={"layer": layer},
        cue="b" * 16,
    )  # fmt: skip
    changes = {"pan": 0.25, "fade_in": 3, "skip": 0.1, "lasts": 0.5, "loops": True, "reversed": True}
    view = edit(client, view, kind="change cue", cue="b" * 16, changes=changes)

    read = whole(client.get(f"/api/projects/{id_}").json())
    assert read["project"]["cues"] == view["project"]["cues"]
    (cue,) = read["project"]["cues"]
    assert {k: cue[k] for k in changes} == changes
    # With its layer it loses what it was tied to, and stays where it is heard.
    frame = view["cue_places"]["b" * 16]["frame"]
    view = edit(client, view, kind="remove layer", layer=layer)
    (cue,) = view["project"]["cues"]
    assert cue["tie"]["layer"] is None
    assert view["cue_places"]["b" * 16]["frame"] == frame
    view = edit(client, view, kind="remove cues", cues=["b" * 16])
    assert view["project"]["cues"] == []


def test_a_sound_of_the_shelf_is_a_cue(client, project, tmp_path):
    path = tmp_path / "bell.wav"
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(44_100)
        file.writeframes((np.sin(np.arange(22_050) / 9) * 12_000).astype("<i2").tobytes())
    id_ = project["project"]["id"]
    assert upload(client, id_, path)["state"] == "done"

    view = whole(client.get(f"/api/projects/{id_}").json())
    (asset,) = view["assets"].values()
    heard = client.get(f"/api/projects/{id_}/assets/{asset['id']}.wav")
    assert heard.headers["content-type"] == "audio/wav"
    shelved = {"kind": "shelved", "asset": asset["id"], "stored": asset["file"]}
    view = edit(client, view, kind="change mix", changes={"loudness": None, "footage": {"muted": True}})
    before = sound(client, id_)
    view = edit(client, view, kind="add cue", sound=shelved, tie={"offset": 6})
    place = view["cue_places"][view["project"]["cues"][0]["id"]]
    assert place["end"] - place["start"] == pytest.approx(0.5 * 30, abs=0.2)
    part = sound(client, id_)[int(0.25 * 48_000) : int(0.6 * 48_000)] - before[int(0.25 * 48_000) : int(0.6 * 48_000)]
    # One channel is shared out to both ears.
    assert np.sqrt((part**2).mean()) == pytest.approx(12_000 / 32_767 / 2, rel=0.1)


def test_a_copy_of_the_project_sounds_the_same_by_itself(client, project, tmp_path):
    view = carved(client, project, 10)
    id_, layer = view["project"]["id"], view["project"]["layers"][-1]["id"]
    path = tmp_path / "bell.wav"
    with wave.open(str(path), "wb") as file:
        file.setparams((1, 2, 48_000, 0, "NONE", ""))
        file.writeframes((np.sin(np.arange(24_000) / 9) * 12_000).astype("<i2").tobytes())
    assert upload(client, id_, path)["state"] == "done"
    view = whole(client.get(f"/api/projects/{id_}").json())
    (asset,) = view["assets"].values()
    shelved = {"kind": "shelved", "asset": asset["id"], "stored": asset["file"]}
    view = edit(client, view, kind="add cue", sound=shelved, tie={"layer": layer})
    view = edit(client, view, kind="add cue", sound={"kind": "tick"}, tie={"item": view["project"]["ground"][0]["id"]})
    copy = whole(client.post(f"/api/projects/{id_}/duplicate").json())
    other = copy["project"]["id"]
    assert np.array_equal(sound(client, other), sound(client, id_))
    bell, tick = copy["project"]["cues"]
    assert not {bell["id"], tick["id"]} & {c["id"] for c in view["project"]["cues"]}
    assert bell["tie"]["layer"] == copy["project"]["layers"][-1]["id"]
    assert bell["sound"]["asset"] in copy["assets"]
    assert tick["tie"]["item"] == copy["project"]["ground"][0]["id"]


def test_every_hit_can_be_heard_and_what_there_is_not_is_missing(client):
    kinds = [s["kind"] for s in client.get("/api/catalog").json()["sounds"]]
    assert len(kinds) == 16
    for kind in (k for k in kinds if k != "shelved"):
        answer = client.get(f"/api/hits/{kind}.wav")
        with wave.open(io.BytesIO(answer.content)) as file:
            assert file.getframerate() == 48_000
            assert file.getnframes() > 4000
    assert client.get("/api/hits/shelved.wav").status_code == 404
    assert client.get("/api/hits/nonsense.wav").status_code == 404


def test_wrong_ones_get_a_sentence(client, project):
    view = carved(client, project, 10)
    url = f"/api/projects/{view['project']['id']}/edits"
    wrong = (
        {"kind": "add cue", "sound": {"kind": "nothing"}},
        {"kind": "add cue", "sound": {"kind": "tick"}, "tie": {"layer": "f" * 16}},
        {"kind": "add cue", "sound": {"kind": "tick"}, "tie": {"to": "landing"}},
        {"kind": "change cue", "cue": "f" * 16, "changes": {"gain": 1}},
        {"kind": "sound move", "layer": "f" * 16},
    )
    for body in wrong:
        answer = client.post(url, json={"revision": view["revision"], "edit": body})
        assert answer.status_code == 400, body
        assert answer.json()["message"].endswith(".")
