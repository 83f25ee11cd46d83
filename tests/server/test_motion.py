"""What the page is told of motion: curves, paths, moves as they would be; frames as they are sent."""

import cv2
import numpy as np
import pytest

from .api import edit
from .test_server import carved, drawn, listening


@pytest.fixture
def flown(client, project):
    """A project with a carved cutout that drops in; its view and the layer's id."""
    view = carved(client, project)
    layer = view["project"]["layers"][0]["id"]
    move = {"kind": "drop", "settings": {"lasts": 8}}
    return edit(client, view, kind="put move", layers=[layer], side="in", move=move), layer


def asked(client, view, path: str, body: dict):
    return client.post(f"/api/projects/{view['project']['id']}/{path}", json=body)


class TestMotion:
    def test_curves_keys_and_path(self, client, flown):
        view, layer = flown
        (told,) = asked(client, view, "motion", {"owners": [layer, "f" * 16]}).json()["owners"]
        keys = {k["id"]: k for k in view["project"]["layers"][0]["keys"]}
        assert {told["keys"][k] for k in keys} <= set(range(told["start"], told["start"] + 9))
        curves = {c["channel"]: c for c in told["motion"]["curves"]}
        assert set(curves) == {"position", "width", "height"}
        downs = [v[1] for v in curves["position"]["amount"]]
        assert downs[0] == min(downs) < -50
        assert downs[-1] == 0
        assert len(told["motion"]["path"]) == 9
        assert told["motion"]["path_keys"][0]["leave"] is not None

    def test_as_it_would_be_with_a_draft(self, client, flown):
        view, layer = flown
        draft = {"kind": "put move", "layers": [layer], "side": "in", "move": None}
        (told,) = asked(client, view, "motion", {"owners": [layer], "draft": draft}).json()["owners"]
        assert told["motion"]["curves"] == []
        bad = {"kind": "set value", "layer": layer, "channel": "opacity", "frame": 1, "value": [7]}
        answer = asked(client, view, "motion", {"owners": [layer], "draft": bad})
        assert (answer.status_code, answer.json()["message"]) == (400, "Opacity goes from 0 to 1.")

    def test_moments_and_cuts_within_reach(self, client, flown):
        view, layer = flown
        shot = next(iter(view["shots"]))
        view = edit(client, view, kind="add moment", shot=shot, frame=15, name="Turn")
        view = edit(client, view, kind="split ground", at=18)
        (told,) = asked(client, view, "motion", {"owners": [layer]}).json()["owners"]
        assert [(m["tie"], m["frame"]) for m in told["marks"] if m["frame"] > 12] == [("cut", 18), ("moment", 15)]

    def test_of_the_ground_and_of_the_piece(self, client, flown):
        view, _ = flown
        item = view["project"]["ground"][0]["id"]
        drift = [{"kind": "drift", "settings": {"amplitude": 20}}]
        view = edit(client, view, kind="change ground", item=item, behaviours=drift)
        view = edit(client, view, kind="change piece", behaviours=drift, blur={"shutter": 90, "phase": 0})
        assert view["project"]["blur"] == {"shutter": 90, "phase": 0}
        told = asked(client, view, "motion", {"owners": [item]}).json()
        assert told["larger"] > 1.1
        assert told["owners"][0]["motion"]["larger"] > 1.1


class TestRehearsals:
    def test_every_move_and_behaviour(self, client, flown):
        view, layer = flown
        catalog = client.get("/api/catalog").json()
        for side in ("in", "out"):
            shown = asked(client, view, f"layers/{layer}/rehearsal", {"side": side}).json()["shown"]
            assert {s["kind"] for s in shown} == {m["kind"] for m in catalog["moves"] if side in m["on"]}
            assert all(len(s["matrices"]) == len(s["opacities"]) > 5 for s in shown)
        always = asked(client, view, f"layers/{layer}/rehearsal", {"side": "always"}).json()["shown"]
        assert {s["kind"] for s in always} == {b["kind"] for b in catalog["behaviours"]}
        shaking = asked(client, view, "shaking", {"item": None}).json()["shown"]
        assert {s["kind"] for s in shaking} == {b["kind"] for b in catalog["behaviours"] if "piece" in b["on"]}

    def test_with_settings_of_its_own(self, client, flown):
        view, layer = flown
        put = {"kind": "fade", "settings": {"lasts": 3}}
        shown = asked(client, view, f"layers/{layer}/rehearsal", {"side": "out", "put": put}).json()["shown"]
        assert len(next(s for s in shown if s["kind"] == "fade")["opacities"]) == 3 + 7

    def test_of_what_is_not_there(self, client, flown):
        view, _ = flown
        answer = asked(client, view, f"layers/{'f' * 16}/rehearsal", {"side": "in"})
        assert (answer.status_code, answer.json()["message"]) == (404, "That layer is no longer there. Choose another.")
        answer = asked(client, view, "shaking", {"item": "f" * 16})
        assert answer.status_code == 404
        assert asked(client, view, f"layers/{'f' * 16}/rehearsal", {"side": "up"}).status_code == 400


def test_a_frame_as_it_is_sent(client, project):
    """It is made of the footage itself, not of the smaller copies that previews are made of."""
    view = carved(client, project)
    with listening(client, view) as socket:
        ask = {"type": "frame", "seq": 1, "frame": 3, "width": 160, "height": 120}
        pictures = []
        for exact in (False, True):
            socket.send_json(ask | {"exact": exact})
            header, data = drawn(socket)
            assert header["frame"] == 3
            pictures.append(cv2.imdecode(np.frombuffer(data, np.uint8), 1).astype(int))
    assert np.abs(pictures[0] - pictures[1]).max() > 0
    assert np.abs(pictures[0] - pictures[1]).mean() < 4


def test_a_draft_tells_which_keys_it_lays_elsewhere_in_time(client, flown):
    view, layer = flown
    keys = view["layers"][layer]["keys"]
    (last, frame) = max(keys.items(), key=lambda k: k[1])
    with listening(client, view) as socket:
        ask = {"type": "frame", "seq": 1, "frame": 9, "width": 160, "height": 120}

        def laid(draft: dict) -> dict:
            socket.send_json(ask | {"draft": draft})
            return drawn(socket)[0]["keys"]

        later = {"kind": "move keys", "of": [{"layer": layer, "keys": [last]}], "frames": 2}
        assert laid(later) == {last: frame + 2}
        assert laid(later | {"frames": 0, "add": {"opacity": [0.0]}}) == {}
        # A cut before it moves all of it.
        item = view["project"]["ground"][0]["id"]
        trimmed = laid({"kind": "change ground", "item": item, "first": 2})
        assert trimmed == {k: f - 2 for k, f in keys.items()}
        socket.send_json(ask)
        assert drawn(socket)[0]["keys"] == {}
