"""Bundles, opened elsewhere to the same pixels or refused in words; stills; and a queue that outlives a restart."""

import contextlib
import json
import random
import shutil
import time
import zipfile

import cv2
import numpy as np
import pytest
from starlette.testclient import TestClient

from nervykite.cli import main
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.piece.model import Document
from nervykite.core.see.footage.planes import to_bgr
from nervykite.core.tell import bundled
from nervykite.demo.demo_project import NAME
from nervykite.server.app import create_app
from nervykite.studio import Studio
from nervykite.studio.bundle import read_bundle, without_unused, write_bundle

from ..media import make_video
from ..views import whole
from .api import BASE, carved, edit, upload, wait_for


@pytest.fixture(scope="module")
def demo(tmp_path_factory, relay):
    """A studio with part of the demo piece, and a bundle of it."""
    folder = tmp_path_factory.mktemp("bundle")
    studio = Studio(shutil.copytree(relay, folder / "one"))
    document = studio.state(studio.projects.find(NAME)).document
    out = folder / "relay.kite.zip"
    write_bundle(studio, document, out)
    yield studio, document, out
    studio.close()


def opened(tmp_path, path) -> tuple[Studio, Document]:
    studio = Studio(tmp_path / "other")
    state = read_bundle(studio, path, path.name)
    return studio, studio.state(state.document.project.id).document


def test_it_opens_elsewhere_to_the_same_pixels_and_sound(demo, tmp_path):
    studio, document, out = demo
    other, again = opened(tmp_path, out)
    try:
        assert again.project.name == NAME
        assert len(again.project.layers) == len(document.project.layers)
        assert len(again.tracks) == len(document.tracks)
        assert not set(again.shots) & set(document.shots)
        evaluations = Evaluation(document), Evaluation(again)
        for frame in (10, 60, 130, 185, 290):
            one, two = (
                s.renderer.render(Canvas.of(d), e.at(frame))
                for s, d, e in zip((studio, other), (document, again), evaluations, strict=True)
            )
            for a, b in ((one.y, two.y), (one.u, two.u), (one.v, two.v)):
                assert (a == b).all(), frame
        heard = [s.master(e.timeline).samples(0, 48000) for s, e in zip((studio, other), evaluations, strict=True)]
        assert (heard[0] == heard[1]).all()
        # Opened once more it lies beside the first, under a name of its own, and edits of one leave the other alone.
        third = read_bundle(other, out, out.name)
        assert third.document.project.name != NAME
        assert len(other.projects.list()) == 2
    finally:
        other.close()


def test_what_it_says_of_itself_is_by_its_schema(demo):
    _, _, out = demo
    with zipfile.ZipFile(out) as archive:
        assert archive.testzip() is None
        told = json.loads(archive.read("piece.json"))
        schema = json.loads(archive.read("schema.json"))
    assert (told["format"], told["version"]) == ("nervykite bundle", 1)
    assert set(told["document"]) <= set(schema["properties"])
    assert schema == Document.model_json_schema()


def test_what_is_not_used_can_be_left_out(studio, client, tmp_path):
    project = client.post("/api/projects", json={"name": "Two takes"}).json()["project"]["id"]
    for name in ("one", "two"):
        upload(client, project, make_video(tmp_path / f"{name}.mp4", frames=12))
    view = whole(client.get(f"/api/projects/{project}").json())
    view = carved(client, view)
    item = view["project"]["ground"][1]["id"]
    body = {"revision": view["revision"], "edit": {"kind": "remove ground", "items": [item]}}
    assert client.post(f"/api/projects/{project}/edits", json=body).status_code == 200
    document = studio.state(project).document
    assert len(document.shots) == 2
    slim = without_unused(document)
    assert list(slim.shots) == [document.project.ground[0].source.shot]
    assert slim.holds == document.holds
    sizes = []
    for unused in (True, False):
        job = wait_for(client, client.post(f"/api/projects/{project}/bundle", json={"unused": unused}).json())
        assert job["state"] == "done", job
        assert job["result"]["file"].endswith(".kite.zip")
        sizes.append(job["result"]["size"])
        data = client.get(f"/api/jobs/{job['id']}/file").content
        answer = client.post("/api/bundles", params={"name": "Two.kite.zip"}, content=data)
        assert answer.status_code == 200, answer.text
        again = whole(client.get(f"/api/projects/{answer.json()['project']}").json())
        assert len(again["shots"]) == (2 if unused else 1)
        assert len(again["project"]["layers"]) == 1
    assert sizes[1] < sizes[0]


def spoiled(source, out, change) -> None:
    """A bundle with one of its entries changed: by name and data to data, None leaves it out."""
    with zipfile.ZipFile(source) as one, zipfile.ZipFile(out, "w") as other:
        for entry in one.infolist():
            data = change(entry.filename, one.read(entry))
            if data is not None:
                other.writestr(entry.filename, data)


def said(**changes):
    def change(name, data):
        return json.dumps(json.loads(data) | changes).encode() if name == "piece.json" else data

    return change


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        (said(version=99), "made by a newer version"),
        (said(version=0), "of version 0, which cannot be read any more"),
        (said(version="new"), "does not say of which version"),
        (said(format="something else"), "not a bundle of a piece"),
        (said(document={"project": {"name": ""}}), "makes no sense"),
        (lambda name, data: None if name == "piece.json" else data, "not a bundle of a piece"),
        (lambda name, data: b"{" if name == "piece.json" else data, "damaged, or only half of it is there"),
        (lambda name, data: data[:-1] + b"x" if name.startswith("files/") else data, "is not what it was"),
        (lambda name, data: None if name.startswith("files/") else data, "footage of"),
    ],
)
def test_a_broken_one_gets_a_sentence_and_leaves_nothing(demo, tmp_path, change, sentence):
    _, _, out = demo
    bad = tmp_path / "bad.kite.zip"
    spoiled(out, bad, change)
    studio = Studio(tmp_path / "other")
    with pytest.raises(Refusal, match=sentence):
        read_bundle(studio, bad, bad.name)
    assert studio.projects.list() == []
    studio.close()


def piece(change):
    """Changes the document that a bundle tells."""

    def changed(name, data):
        if name != "piece.json":
            return data
        said = json.loads(data)
        change(said["document"])
        return json.dumps(said).encode()

    return changed


def first(things: dict) -> dict:
    return next(iter(things.values()))


def swapped(document: dict) -> None:
    """The sound of a shot is the shot itself."""
    shot = next(s for s in document["shots"].values() if s["sound_file"])
    shot["sound_file"] = shot["file"]


def filmed_matte(document: dict) -> None:
    """A matte is a film."""
    raster = {"file": first(document["shots"])["file"], "box": [0, 0, 20, 20]}
    first(document["holds"])["matte"]["pieces"] = [{"kind": "marks", "raster": raster}]


def twice(document: dict) -> None:
    document["project"]["layers"].append(document["project"]["layers"][0])


def into_itself(document: dict) -> None:
    groups = [x for x in document["project"]["layers"] if x["source"]["kind"] == "group"]
    groups[0]["group"] = groups[0]["id"]


DAMAGED = {
    "no tick": (lambda d: first(d["shots"]).update(tick="0"), "a tick is a fraction"),
    "a tick by nothing": (lambda d: first(d["shots"]).update(tick="1/0"), "a tick is a fraction"),
    "too few ticks": (lambda d: first(d["shots"]).update(ticks=[0, 512, 1024]), "other frames than it has"),
    "ticks that fall": (lambda d: first(d["shots"]).update(ticks=[0, 512, 300]), "begin at 0 and rise"),
    "a take of nothing": (lambda d: first(d["shots"]).update(cuts=[10**6]), "frames that there are"),
    "a sound that is a film": (swapped, "the sound of .* is none"),
    "a matte that is a film": (filmed_matte, "given as a matte"),
    "a group in itself": (into_itself, "does not hang together|itself"),
    "one layer twice": (twice, "does not hang together|of one id"),
    "a hold of no shot": (lambda d: first(d["holds"]).update(shot="f" * 16), "does not hang together"),
    "a film of no hash": (lambda d: first(d["shots"]).update(file="../../x"), "which file is that"),
}


def test_documents_that_no_edit_would_make_are_refused_and_leave_nothing(demo, tmp_path):
    _, _, out = demo
    bad, studio = tmp_path / "bad.kite.zip", Studio(tmp_path / "other")
    for what, (change, sentence) in DAMAGED.items():
        spoiled(out, bad, piece(change))
        with pytest.raises(Refusal, match=sentence):
            read_bundle(studio, bad, bad.name)
        assert studio.projects.list() == [], what
    studio.close()


def packed(tmp_path, files: dict[str, bytes], way: int = zipfile.ZIP_DEFLATED):
    path = tmp_path / "bad.kite.zip"
    with zipfile.ZipFile(path, "w", way) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return path


def locked(data: bytes) -> bytes:
    """An archive whose files are said to be encrypted: bit 0 of the flags of local and central headers."""
    for sign, at in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        place = data.find(sign)
        data = data[: place + at] + bytes([data[place + at] | 1]) + data[place + at + 1 :]
    return data


def test_archives_that_harm_are_refused_before_they_are_unpacked(studio, tmp_path):
    begun = time.monotonic()
    for data, sentence in (
        (b"{}," * 20_000_000, "more than it can mean"),
        (b"[" * 2_000_000, "more than it can mean|only half"),
        (b'{"a": ' * 20_000, "more than it can mean|only half"),
        (b"9" * 5000, "only half"),
    ):
        with pytest.raises(Refusal, match=sentence):
            read_bundle(studio, packed(tmp_path, {"piece.json": data}), "bad.kite.zip")
    # As tightly packed as it may be, and yet too much.
    loosely = packed(tmp_path, {"piece.json": b"{}," * 4_000_000}, zipfile.ZIP_STORED)
    with pytest.raises(Refusal, match="more than it can mean"):
        read_bundle(studio, loosely, "bad.kite.zip")
    many = packed(tmp_path, {f"files/{n}": b"" for n in range(21_000)})
    with pytest.raises(Refusal, match="more than 20000 files"):
        read_bundle(studio, many, "bad.kite.zip")
    assert time.monotonic() - begun < 60
    assert studio.projects.list() == []


def test_archives_packed_in_ways_that_are_not_read_get_a_sentence(studio, tmp_path):
    piece = {"piece.json": json.dumps({"format": "nervykite bundle"}).encode() * 100}
    with pytest.raises(Refusal, match="packed in a way that is not read here"):
        read_bundle(studio, packed(tmp_path, piece, zipfile.ZIP_LZMA), "bad.kite.zip")
    path = packed(tmp_path, piece)
    path.write_bytes(locked(path.read_bytes()))
    with pytest.raises(Refusal, match="locked with a password"):
        read_bundle(studio, path, "bad.kite.zip")


def test_bytes_turned_over_anywhere_in_a_bundle_are_a_sentence(demo, studio, tmp_path):
    _, _, out = demo
    data, chance = out.read_bytes(), random.Random(5)
    with zipfile.ZipFile(out) as archive:
        texts = [i for i in archive.infolist() if i.filename == "piece.json"]
    tail = len(data) - 6000
    places = [chance.randrange(tail, len(data)) for _ in range(30)]
    places += [texts[0].header_offset + chance.randrange(40 + texts[0].compress_size) for _ in range(30)]
    for place in places:
        spoilt = bytearray(data)
        spoilt[place] ^= 1 << chance.randrange(8)
        bad = tmp_path / "bad.kite.zip"
        bad.write_bytes(spoilt)
        with contextlib.suppress(Refusal):  # anything else that is raised would be answered as a fault
            assert bundled.contents(bad, bad.name).document.project.layers


def test_half_of_one_gets_a_sentence(demo, tmp_path, capsys):
    _, _, out = demo
    half = tmp_path / "half.kite.zip"
    half.write_bytes(out.read_bytes()[: out.stat().st_size // 2])
    assert main(["import", str(half), "--data", str(tmp_path / "data")]) == 1
    assert "only half of one" in capsys.readouterr().err


def test_an_older_one_is_brought_up_to_date(demo, tmp_path, monkeypatch):
    _, _, out = demo

    def older(name, data):
        if name != "piece.json":
            return data
        told = json.loads(data)
        told["document"]["project"]["called"] = told["document"]["project"].pop("name")
        return json.dumps(told | {"version": 1}).encode()

    spoiled(out, tmp_path / "old.kite.zip", older)

    def upgrade(given):
        given["project"]["name"] = given["project"].pop("called")
        return given

    monkeypatch.setattr(bundled, "VERSION", 2)
    monkeypatch.setitem(bundled.UPGRADES, 1, upgrade)
    found = bundled.contents(tmp_path / "old.kite.zip", "old.kite.zip")
    assert found.document.project.name == NAME
    assert len(found.sizes) > 3


def test_the_command_line_writes_and_opens_them(demo, tmp_path, capsys):
    studio, _, _ = demo
    out = tmp_path / "relay.kite.zip"
    assert main(["export", NAME, "--data", str(studio.folder), "--to", str(out), "--used"]) == 0
    assert main(["import", str(out), "--data", str(tmp_path / "data"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out.splitlines()[-1])["name"] == NAME


def test_what_was_being_sent_goes_on_after_a_restart(client, studio, tmp_path):
    project = client.post("/api/projects", json={"name": "Again"}).json()["project"]["id"]
    upload(client, project, make_video(tmp_path / "one.mp4", frames=12))
    asked = {"what": "export", "writer": {"kind": "gif", "colours": 16}, "sending": {"span": [2, 8]}}
    jobs = [
        studio.jobs.add("export", project, "Send", asked),
        studio.jobs.add("export", project, "Bundle", {"what": "bundle", "unused": False}),
        studio.jobs.add("export", project, "Gone", asked | {"writer": {"kind": "hologram"}}),
        studio.jobs.add("plate", project, "Plate"),
    ]
    with TestClient(create_app(studio), base_url=BASE) as again:
        sent, bundle = (wait_for(again, {"project": project, "id": j.id}) for j in jobs[:2])
        assert sent["state"] == bundle["state"] == "done", (sent, bundle)
        assert (sent["result"]["type"], sent["result"]["first"]) == ("image/gif", 2)
        assert bundle["result"]["file"].endswith(".kite.zip")
        deadline = time.monotonic() + 20
        while studio.jobs.get(jobs[2].id).state in ("waiting", "running") and time.monotonic() < deadline:
            time.sleep(0.05)
        assert studio.jobs.get(jobs[2].id).state == "failed"
        assert "stopped before this was done" in studio.jobs.get(jobs[3].id).message
        held = again.post("/api/sending", json={"held": True})
        assert held.status_code == 200
        waits = again.post(f"/api/projects/{project}/exports", json={}).json()
        later = again.post(f"/api/projects/{project}/exports", json={}).json()
        assert later["held"]
        assert again.post(f"/api/jobs/{later['id']}/first").json()["state"] == "waiting"
        assert again.post("/api/jobs/nobody/first").status_code == 404
        again.post("/api/sending", json={"held": False})
        assert [wait_for(again, j)["state"] for j in (waits, later)] == ["done", "done"]


def test_all_cutouts_and_all_moments_are_written(client, project, studio, tmp_path):
    url = f"/api/projects/{project['project']['id']}"
    for which, said in (("moments", "No frame is flagged yet"), ("cutouts", "Nothing is cut out yet")):
        job = wait_for(client, client.post(f"{url}/stills", json={"which": which}).json())
        assert said in job["message"]
    view = carved(client, project)
    (shot,) = view["shots"]
    for frame, name in ((3, "Take off"), (17, "Land/ing")):
        view = edit(client, view, kind="add moment", shot=shot, frame=frame, name=name)
    found = {}
    for which in ("moments", "cutouts"):
        job = wait_for(client, client.post(f"{url}/stills", json={"which": which}).json())
        assert job["state"] == "done", job
        path = tmp_path / "stills.zip"
        path.write_bytes(client.get(f"/api/jobs/{job['id']}/file").content)
        with zipfile.ZipFile(path) as archive:
            found[which] = {
                n: cv2.imdecode(np.frombuffer(archive.read(n), np.uint8), cv2.IMREAD_UNCHANGED)
                for n in archive.namelist()
            }
    # What was held is flagged as well.
    three = ["clip 00-00-03 Take off.png", "clip 00-00-06 Moment 1.png", "clip 00-00-17 Land-ing.png"]
    assert list(found["moments"]) == three
    known = studio.state(project["project"]["id"]).document.shots[shot]
    exact = to_bgr(studio.library.exact(known, 17))
    assert np.array_equal(found["moments"]["clip 00-00-17 Land-ing.png"], exact)
    ((name, cutout),) = found["cutouts"].items()
    assert name.startswith("clip 00-00-06 ")
    assert cutout.shape == (120, 160, 4)
    assert (cutout[30:90, 50:110, 3] == 255).all()
    assert cutout[5, 5, 3] == 0
    inner = np.abs(cutout[40:80, 60:100, :3].astype(int) - to_bgr(studio.library.exact(known, 6))[40:80, 60:100])
    assert inner.max() <= 1
