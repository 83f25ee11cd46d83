"""What the page is shown of lettering and backdrops: faces, the words in each, the letters that none has."""

import cv2
import numpy as np
import pytest

from .api import edit


@pytest.fixture
def named(client, project):
    """A project with words in its sky; its view and the layer's id."""
    source = {"kind": "lettering", "words": "Mara Dune"}
    view = edit(client, project, kind="add layer", source=source, at=0)
    return view, view["project"]["layers"][0]["id"]


def sample(client, view, layer: str, face: str) -> np.ndarray:
    answer = client.get(f"/api/projects/{view['project']['id']}/layers/{layer}/faces/{face}.png")
    assert answer.status_code == 200, answer.text
    return cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_UNCHANGED)


def test_faces_are_told_with_what_can_be_varied(client):
    catalog = client.get("/api/catalog").json()
    faces = {f["id"]: f for f in catalog["faces"]}
    assert len(faces) >= 14
    assert {a["title"] for a in faces["anybody"]["axes"]} == {"Weight", "Width"}
    assert faces["anton"]["axes"] == []
    kind = next(k for k in catalog["sources"] if k["kind"] == "lettering")
    assert kind["settings"]["properties"]["depth"]["group"] == "Depth"


def test_the_words_in_each_face(client, named):
    view, layer = named
    pictures = [sample(client, view, layer, f) for f in ("anton", "pacifico", "space-mono")]
    for picture in pictures:
        alpha = picture[..., 3]
        assert 0.05 < (alpha > 128).mean() < 0.6
        # Nothing is cut off.
        assert max(alpha[0].max(), alpha[-1].max(), alpha[:, 0].max(), alpha[:, -1].max()) == 0
    assert all(np.abs(a.astype(int) - b).mean() > 5 for a, b in zip(pictures, pictures[1:], strict=False))


def test_what_is_not_there_is_missing(client, named):
    view, layer = named
    base = f"/api/projects/{view['project']['id']}/layers"
    assert client.get(f"{base}/{layer}/faces/nonsense.png").status_code == 404
    assert client.get(f"{base}/{'f' * 16}/faces/anton.png").status_code == 404


def test_letters_that_no_face_has_are_said(client, named):
    view, layer = named
    assert view["layers"][layer]["missing"] == []
    source = view["project"]["layers"][0]["source"] | {"words": "Mara 漢"}
    view = edit(client, view, kind="change layer", layer=layer, source=source)
    assert view["layers"][layer]["missing"] == ["漢"]
    assert view["project"]["layers"][0]["name"] == "Mara 漢"


def test_backdrops_as_they_come(client):
    kinds = [k["kind"] for k in client.get("/api/catalog").json()["sources"] if k["looks"] == "backdrop"]
    assert len(kinds) >= 10
    pictures = []
    for kind in kinds:
        answer = client.get(f"/api/samples/{kind}.jpg")
        assert answer.status_code == 200
        pictures.append(cv2.imdecode(np.frombuffer(answer.content, np.uint8), 1).astype(int))
    assert all(p.std() > 8 for p in pictures)
    assert client.get("/api/samples/colour.jpg").status_code == 404
