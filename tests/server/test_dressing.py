"""What the page is shown of dressing: each finish on the thing itself, and the colours of clothes."""

import cv2
import numpy as np
import pytest

from ..views import whole
from .api import edit, upload
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
        # On a plain box there is nothing to sharpen, and the shelf is empty.
        assert set(same) <= {"sharpen", "flip", "letterbox", "colour-table", "pattern"}

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


class TestGiven:
    """What finishes are given: files of the shelf, tones of other things."""

    @pytest.fixture
    def shelf(self, client, dressed, tmp_path):
        """The same project with a table that turns colours round, and a black tile on its shelf."""
        view, layer = dressed
        corners = [f"{1 - r} {1 - g} {1 - b}" for b in (0, 1) for g in (0, 1) for r in (0, 1)]
        (tmp_path / "round.cube").write_text("\n".join(["LUT_3D_SIZE 2", *corners]))
        cv2.imwrite(str(tmp_path / "tile.png"), np.zeros((8, 8, 3), np.uint8))
        for name in ("round.cube", "tile.png"):
            assert upload(client, view["project"]["id"], tmp_path / name)["state"] == "done"
        return whole(client.get(f"/api/projects/{view['project']['id']}").json()), layer

    def test_a_finish_begins_with_what_the_shelf_has(self, client, shelf):
        view, layer = shelf
        files = {a["kind"]: a for a in view["assets"].values()}
        assert files["table"]["name"] == "round"
        assert (files["table"]["width"], files["table"]["height"]) == (2, 2)
        base = f"/api/projects/{view['project']['id']}/fitting/{layer}"
        assert client.get(f"{base}/colour-table/beginning").json() == {"table": files["table"]["file"]}
        assert client.get(f"{base}/pattern/beginning").json() == {"picture": files["picture"]["file"]}
        assert client.get(f"{base}/tone/beginning").json() == {}
        plain, table, pattern, turned = (
            shown(client, view, layer, k) for k in ("tone", "colour-table", "pattern", "invert")
        )
        assert np.abs(table - turned).mean() < 1.5
        assert np.abs(pattern - plain).mean() > 3

    def test_what_is_worn_stays_on_the_shelf(self, client, shelf):
        view, layer = shelf
        table = next(a for a in view["assets"].values() if a["kind"] == "table")
        worn = {"kind": "colour-table", "settings": {"table": table["file"]}}
        view = edit(client, view, kind="change layer", layer=layer, finishes=[worn])
        url = f"/api/projects/{view['project']['id']}/edits"
        body = {"revision": view["revision"], "edit": {"kind": "remove asset", "asset": table["id"]}}
        assert "is in use" in client.post(url, json=body).json()["message"]
        view = edit(client, view, kind="change layer", layer=layer, finishes=[])
        edit(client, view, kind="remove asset", asset=table["id"])

    def test_tones_are_a_table_to_keep(self, client, shelf):
        view, layer = shelf
        url = f"/api/projects/{view['project']['id']}/tones/{layer}.cube"
        assert "no finish of tone" in client.get(url).json()["message"]
        table = next(a for a in view["assets"].values() if a["kind"] == "table")
        worn = {"kind": "colour-table", "settings": {"table": table["file"]}}
        edit(client, view, kind="change layer", layer=layer, finishes=[worn])
        answer = client.get(url)
        assert answer.headers["content-disposition"].endswith(".cube")
        lines = answer.text.splitlines()
        assert lines[4] == "1.000000 1.000000 1.000000"
        assert lines[-1] == "0.000000 0.000000 0.000000"

    def test_a_file_that_is_on_no_shelf_is_refused(self, client, dressed):
        view, layer = dressed
        worn = {"kind": "pattern", "settings": {"picture": "0" * 64}}
        body = {
            "revision": view["revision"],
            "edit": {"kind": "change layer", "layer": layer, "finishes": [worn]},
        }
        answer = client.post(f"/api/projects/{view['project']['id']}/edits", json=body)
        assert "not on the shelf" in answer.json()["message"]

    def test_a_table_that_is_cut_short_is_refused(self, client, dressed, tmp_path):
        view, _ = dressed
        (tmp_path / "short.cube").write_text("LUT_3D_SIZE 2\n0 0 0\n")
        job = upload(client, view["project"]["id"], tmp_path / "short.cube")
        assert job["state"] == "failed"
        assert "there should be 8" in job["message"]

    def test_tones_of_the_ground_a_layer_and_a_picture(self, client, shelf):
        view, layer = shelf
        base = f"/api/projects/{view['project']['id']}"
        tile = next(a["id"] for a in view["assets"].values() if a["kind"] == "picture")
        ground, own, black = (
            client.get(f"{base}/tones", params=q).json() for q in ({"frame": 6}, {"layer": layer}, {"asset": tile})
        )
        assert ground != own
        assert black == [0.0] * 9
        item = view["project"]["ground"][0]["id"]
        begins = "match-tones/beginning?frame=6"
        # A cutout is matched to the ground, the ground to what flies over it.
        assert client.get(f"{base}/fitting/{layer}/{begins}").json() == {"like": ground}
        assert client.get(f"{base}/fitting/{item}/{begins}").json() == {"like": own}
        assert client.get(f"{base}/tones", params={"layer": "f" * 16}).status_code == 404
