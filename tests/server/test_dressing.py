"""What the page is shown of dressing: each finish on the thing itself, and the colours of clothes."""

import cv2
import numpy as np
import pytest

from .api import edit
from .test_server import carved


@pytest.fixture
def dressed(client, project):
    """A project with a carved cutout; its view and the layer's id."""
    view = carved(client, project)
    return view, view["project"]["layers"][0]["id"]


def shown(client, view, owner: str, kind: str, **query) -> np.ndarray:
    answer = client.get(f"/api/projects/{view['project']['id']}/fitting/{owner}/{kind}.jpg", params=query)
    assert answer.status_code == 200, answer.text
    return cv2.imdecode(np.frombuffer(answer.content, np.uint8), 1).astype(int)


class TestFitting:
    def test_each_finish_on_the_thing_itself(self, client, dressed):
        view, layer = dressed
        kinds = [f["kind"] for f in client.get("/api/catalog").json()["finishes"] if "cutout" in f["on"]]
        assert len(kinds) > 40
        plain = shown(client, view, layer, "tone")
        same = [k for k in kinds if k != "tone" and np.abs(shown(client, view, layer, k) - plain).mean() < 0.2]
        # On a plain box there is nothing to sharpen.
        assert set(same) <= {"sharpen", "flip", "letterbox"}

    def test_after_those_that_it_has(self, client, dressed):
        view, layer = dressed
        before = shown(client, view, layer, "outline")
        red = {"kind": "flat-colour", "settings": {"colour": "#FF0000"}}
        view = edit(client, view, kind="change layer", layer=layer, finishes=[red])
        after = shown(client, view, layer, "outline")
        assert (after[..., 2] - after[..., 1]).max() > 200 > (before[..., 2] - before[..., 1]).max()

    def test_of_the_ground_the_frame_that_is_seen(self, client, dressed):
        view, _ = dressed
        item = view["project"]["ground"][0]["id"]
        one, two = (shown(client, view, item, "invert", frame=f) for f in (2, 21))
        assert np.abs(one - two).max() > 60

    def test_what_is_not_there_gets_a_sentence(self, client, dressed):
        view, layer = dressed
        base = f"/api/projects/{view['project']['id']}"
        assert client.get(f"{base}/fitting/{layer}/nonsense.jpg").json()["message"] == "There is no such finish."
        assert client.get(f"{base}/fitting/{'f' * 16}/tone.jpg").status_code == 404
        assert client.get(f"{base}/layers/{'f' * 16}/clothes").status_code == 404

    def test_colours_of_what_it_shows(self, client, dressed):
        view, layer = dressed
        found = client.get(f"/api/projects/{view['project']['id']}/layers/{layer}/clothes").json()
        assert 1 <= len(found) <= 5
        assert all(len(c) == 7 and c.startswith("#") for c in found)

    def test_palette_and_sets_are_told(self, client, dressed):
        view, layer = dressed
        view = edit(client, view, kind="set palette", colours=["#d63f22"])
        assert view["project"]["palette"] == ["#D63F22"]
        view = edit(client, view, kind="change layer", layer=layer, finishes=[{"kind": "ink"}])
        view = edit(client, view, kind="keep set", layer=layer, called="Poster")
        (kept,) = view["project"]["sets"]
        view = edit(client, view, kind="put set", layer=layer, set=kept["id"])
        assert [f["kind"] for f in view["project"]["layers"][0]["finishes"]] == ["ink", "ink"]

    def test_a_wash_is_added_and_seen(self, client, dressed):
        view, layer = dressed
        view = edit(client, view, kind="add layer", source={"kind": "wash"}, at=0, layer="a" * 16)
        view = edit(client, view, kind="change layer", layer="a" * 16, finishes=[{"kind": "invert"}])
        assert view["layers"]["a" * 16]["waits"] is None
        assert shown(client, view, "a" * 16, "soft-blur", frame=3).shape == (168, 220, 3)
