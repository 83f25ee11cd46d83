"""What the page is shown of cards, shapes, things in the air and own fonts; where there is room, and lines around."""

import io

import cv2
import numpy as np
import pytest
from fontTools.ttLib import TTFont

from nervykite.core.craft.lettering.faces import SHIPPED, home

from ..views import whole
from .api import edit, upload


def picture(client, url: str) -> np.ndarray:
    answer = client.get(url)
    assert answer.status_code == 200, answer.text
    return cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_COLOR).astype(int)


def test_every_kind_has_a_picture_of_its_own(client):
    sources = client.get("/api/catalog").json()["sources"]
    for looks, least in (("shape", 11), ("air", 10), ("backdrop", 10)):
        kinds = [s["kind"] for s in sources if s["looks"] == looks]
        assert len(kinds) >= least
        pictures = [picture(client, f"/api/samples/{k}.jpg") for k in kinds]
        assert all(p.std() > 4 for p in pictures), looks
        assert all(np.abs(a - b).mean() > 1 for n, a in enumerate(pictures) for b in pictures[:n])
    assert client.get("/api/samples/lettering.jpg").status_code == 404


def test_cards_are_shown_with_the_words_in_the_palettes_colours(client, project):
    view = edit(client, project, kind="set palette", colours=["#1133CC", "#FFE080"])
    base = f"/api/projects/{view['project']['id']}/cards"
    kinds = [k["kind"] for k in client.get("/api/catalog").json()["cards"]]
    assert len(kinds) >= 12
    for kind in kinds:
        one, other = (picture(client, f"{base}/{kind}.jpg?name={n}&line=Hares") for n in ("Mara", "Bartholomew"))
        assert np.abs(one - other).mean() > 1
        assert one[:6].std((0, 1)).max() < 6, kind  # nothing is cut off
    blue = picture(client, f"{base}/strips.jpg?name=Mara")
    assert (np.abs(blue - (0xCC, 0x33, 0x11)).max(-1) < 40).mean() > 0.05
    assert client.get(f"{base}/nonsense.jpg?name=Mara").status_code == 404
    assert client.get(f"{base}/strips.jpg?name={'x' * 200}").status_code == 400


@pytest.fixture
def carved(client, project):
    """A project with a cutout of the right half; its view and the layer's id."""
    item = project["project"]["ground"][0]["id"]
    view = edit(client, project, kind="hold", item=item, frame=10, layer="a" * 16)
    layer = view["project"]["layers"][0]
    size = view["project"]["width"], view["project"]["height"]
    corners = [(0.55, 0.1), (0.95, 0.1), (0.95, 0.95), (0.55, 0.95)]
    nodes = [{"x": size[0] * x, "y": size[1] * y} for x, y in corners]
    matte = {"pieces": [{"kind": "pen", "nodes": nodes}]}
    return edit(client, view, kind="change matte", hold=layer["source"]["hold"], matte=matte), layer["id"]


def test_there_is_room_beside_a_subject(client, carved):
    view, _ = carved
    base = f"/api/projects/{view['project']['id']}/cards/strips/room"
    room = client.get(f"{base}?frame=12&name=Mara").json()
    width = view["project"]["width"]
    assert room["x"] + room["wide"] / 2 <= 0.66 * width
    assert room["shared"] < 0.3
    behind = client.get(f"{base}?frame=12&name=Mara&behind=true").json()
    assert behind["shared"] <= room["shared"] + 0.01
    view = edit(
        client, view, kind="add card", card={"kind": "strips"}, name="Mara", at=10, frames=10,
        **{k: room[k] for k in ("x", "y", "wide", "tail")}, group="b" * 16,
    )  # fmt: skip
    assert next(x for x in view["project"]["layers"] if x["id"] == "b" * 16)["name"] == "Card Mara"
    # What lies there now is in the way of another one.
    again = client.get(f"{base}?frame=15&name=Mara").json()
    assert (again["x"], again["y"]) != (room["x"], room["y"])


def test_without_ground_there_is_no_room(client):
    made = client.post("/api/projects", json={"name": "Empty"}).json()
    answer = client.get(f"/api/projects/{made['project']['id']}/cards/strips/room?frame=0")
    assert answer.status_code == 400
    assert "no ground yet" in answer.json()["message"]


def test_the_line_around_a_layer_becomes_a_path(client, carved):
    view, layer = carved
    base = f"/api/projects/{view['project']['id']}/layers/{layer}/line"
    points = client.get(f"{base}?frame=12&away=10").json()
    width, height = view["project"]["width"], view["project"]["height"]
    xs, ys = zip(*points, strict=True)
    assert min(xs) == pytest.approx(0.05 * width - 10, abs=4)
    assert min(ys) == pytest.approx(-0.4 * height - 10, abs=4)
    source = {"kind": "pen-path", "points": points, "closed": True}
    view = edit(client, view, kind="add layer", source=source, at=10)
    assert view["project"]["layers"][-1]["name"] == "Pen path"
    away = client.get(f"{base}?frame=2&away=10")
    assert away.status_code == 400
    assert "covers nothing" in away.json()["message"]
    assert client.get(f"/api/projects/{view['project']['id']}/layers/{'f' * 16}/line?frame=2").status_code == 404


def test_a_font_is_imported_offered_and_refused_when_it_may_not_be_embedded(client, project, tmp_path):
    path = tmp_path / "mine.woff2"
    font = TTFont(home() / SHIPPED["bangers"].files[0])
    font.flavor = "woff2"
    font.save(path)
    id_ = project["project"]["id"]
    assert upload(client, id_, path)["state"] == "done"
    (face,) = client.get(f"/api/projects/{id_}/faces").json()
    assert face["title"].startswith("Bangers")
    assert face["sort"] == "own"
    view = whole(client.get(f"/api/projects/{id_}").json())
    source = {"kind": "lettering", "words": "Mara", "face": face["id"]}
    view = edit(client, view, kind="add layer", source=source, at=0)
    layer = view["project"]["layers"][-1]["id"]
    sample = client.get(f"/api/projects/{id_}/layers/{layer}/faces/{face['id']}.png")
    assert sample.status_code == 200
    font["OS/2"].fsType = 2
    out = io.BytesIO()
    font.save(out)
    path.write_bytes(out.getvalue())
    job = upload(client, id_, path)
    assert job["state"] == "failed"
    assert "forbid embedding" in str(job)
