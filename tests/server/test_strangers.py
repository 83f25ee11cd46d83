"""What comes from strangers: files that keep who reads them busy, requests of other sites, a folder that is held."""

import http.client
import json
import sqlite3
import struct
import threading
import time

import numpy as np
import pytest
from starlette.testclient import TestClient

from nervykite.core.common.errors import Refusal
from nervykite.core.craft.lettering.faces import SHIPPED, home
from nervykite.server.app import create_app
from nervykite.store import database
from nervykite.studio import Studio

from .api import BASE, upload, wait_for
from .test_trust import served  # noqa: F401

SVG = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 400">{}</svg>'
BLUR = '<defs><filter id="f"><feGaussianBlur stdDeviation="{}"/></filter></defs>'


def zigzag(points: int) -> str:
    chance = np.random.default_rng(3)
    return "M" + " ".join(f"{x:.1f} {y:.1f}" for x, y in chance.uniform(0, 400, (points, 2)))


HARMFUL = {
    "blurred": (
        BLUR.format(90) + '<g filter="url(#f)">' * 50 + '<rect width="400" height="400"/>' + "</g>" * 50,
        "filtered in more than 20 places",
    ),
    "pointed": (f'<path d="{zigzag(90_000)}"/>', "more than 50000 numbers"),
    "fills-itself": (
        '<defs><pattern id="p" width="1" height="1"><rect width="9" height="9" fill="url(#p)"/></pattern></defs>'
        '<rect width="400" height="400" fill="url(#p)"/>',
        "uses itself",
    ),
    "masked-by-itself": (
        '<mask id="m"><rect width="9" height="9" mask="url(#m)"/></mask><rect width="9" height="9" mask="url(#m)"/>',
        "uses itself",
    ),
    "many-patterns": (
        "".join(
            f'<pattern id="p{n}" width="2" height="2">{f"""<rect width="9" height="9" fill="url(#p{n + 1})"/>""" * 9}'
            "</pattern>"
            for n in range(12)
        )
        + '<pattern id="p12" width="2" height="2"><rect width="1" height="1"/></pattern>'
        + '<rect width="400" height="400" fill="url(#p0)"/>',
        "more than 5000 elements",
    ),
}


@pytest.mark.parametrize("what", HARMFUL)
def test_a_drawing_that_would_take_minutes_is_refused_before_it_is_drawn(client, project, tmp_path, what):
    inside, says = HARMFUL[what]
    path = tmp_path / f"{what}.svg"
    path.write_text(SVG.format(inside))
    begun = time.monotonic()
    job = upload(client, project["project"]["id"], path)
    assert job["state"] == "failed"
    assert says in job["message"]
    assert time.monotonic() - begun < 8


def test_while_a_drawing_takes_its_time_others_are_answered_at_once(studio, served, tmp_path):  # noqa: F811
    studio.apart.bounds = type(studio.apart.bounds)(seconds=3)
    made = studio.projects.new("Relay").document.project.id
    wide = "".join(f'<circle cx="{n}" cy="200" r="190" fill="none" stroke="#123" filter="url(#f)"/>' for n in range(20))
    wire = http.client.HTTPConnection("127.0.0.1", served, timeout=60)
    wire.request("POST", f"/api/projects/{made}/shots?name=slow.svg", SVG.format(BLUR.format(120) + wide).encode())
    assert wire.getresponse().status == 200
    took: list[float] = []
    while studio.jobs.of_project(made)[0].state in ("waiting", "running"):
        begun = time.monotonic()
        other = http.client.HTTPConnection("127.0.0.1", served, timeout=20)
        other.request("GET", f"/api/projects/{made}")
        assert other.getresponse().status == 200
        took.append(time.monotonic() - begun)
    assert len(took) > 5
    assert np.median(took) < 0.25


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("a.svg", SVG.format("<rect/>").encode("utf-16"), "written in UTF-16"),
        ("a.png", b"RIFF0000AVI nothing of the sort", "cannot be read as a picture"),
        ("a.jpeg", b"x" * 500, "cannot be read as a picture"),
        ("a.svg", SVG.format("").encode(), "nothing to see"),
        ("a.ttf", b"\0\1\0\0" + b"x" * 90, "is broken"),
        ("a.cube", b"LUT_3D_SIZE 9999999", "a.cube"),
    ],
)
def test_what_is_wrong_is_said_of_what_it_was_meant_to_be(client, project, tmp_path, name, data, says):
    (tmp_path / name).write_bytes(data)
    job = upload(client, project["project"]["id"], tmp_path / name)
    assert job["state"] == "failed"
    assert says in job["message"]


def test_footage_that_is_gone_is_named_where_it_is_sent(client, studio, project):
    at = f"/api/projects/{project['project']['id']}"
    shot = next(iter(studio.state(project["project"]["id"]).document.shots.values()))
    studio.files.path(shot.file).unlink()
    job = wait_for(client, client.post(f"{at}/exports", json={}).json())
    assert job["message"].startswith(f"The footage of {shot.name} is no longer in the data folder")


def spoilt(table: str) -> bytes:
    """A font, one of its tables emptied (OpenType 1.9, table directory)."""
    data = bytearray((home() / SHIPPED["anton"].files[0]).read_bytes())
    for n in range(struct.unpack(">H", data[4:6])[0]):
        at = 12 + 16 * n
        if data[at : at + 4] == table.encode():
            first, size = struct.unpack(">II", data[at + 8 : at + 16])
            data[first : first + size] = bytes(size)
    return bytes(data)


@pytest.mark.parametrize("table", ["loca", "glyf", "cmap"])
def test_a_font_whose_letters_cannot_be_drawn_is_refused(client, project, tmp_path, table):
    path = tmp_path / "theirs.ttf"
    path.write_bytes(spoilt(table))
    job = upload(client, project["project"]["id"], path)
    assert (job["state"], "theirs.ttf is broken" in job["message"]) == ("failed", True)


@pytest.mark.parametrize(
    "words", ["", " ", "\n\n \n", "\u200b", "\uffff", "\x03\x00", "a\u2066b\u2069", "\u3164", "\u0301", "\U0001f600"]
)
def test_words_that_nothing_draws_are_a_layer_like_others(client, project, words):
    at = f"/api/projects/{project['project']['id']}"
    edit = {
        "kind": "add layer",
        "layer": "a" * 16,
        "at": 2,
        "frames": 6,
        "source": {"kind": "lettering", "words": words},
    }
    answer = client.post(f"{at}/edits", json={"revision": project["revision"], "edit": edit})
    assert answer.status_code == 200, answer.text
    edits = [
        {"kind": "put move", "layers": ["a" * 16], "side": "in", "move": {"kind": "pop"}},
        {"kind": "align layers", "layers": ["a" * 16], "to": "left"},
        {"kind": "add card", "card": {"kind": "crate"}, "name": words or "x", "at": 2, "frames": 6, "x": 50, "y": 50,
         "wide": 90},
    ]  # fmt: skip
    for one in edits:
        revision = client.get(at).json()["revision"]
        assert client.post(f"{at}/edits", json={"revision": revision, "edit": one}).status_code in (200, 400)
    for view in (
        f"/layers/{'a' * 16}/thumbnail.png",
        f"/layers/{'a' * 16}/faces/anton.png",
        "/poster.jpg",
        "/keys",
        "/snags",
    ):
        assert client.get(at + view).status_code == 200, view


@pytest.mark.parametrize(
    "headers",
    [
        {"sec-fetch-site": "cross-site"},
        {"sec-fetch-site": "same-site", "sec-fetch-mode": "no-cors"},
        {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"},
        {"host": "somebody@127.0.0.1:8457"},
        {"host": "127.0.0.1:8457/x"},
        [("origin", BASE), ("origin", "http://evil.example")],
        [("origin", BASE), ("origin", BASE)],
    ],
)
def test_what_is_of_no_page_of_ours_is_turned_away(client, headers):
    assert client.get("/api/projects", headers=headers).status_code == 403


def test_a_person_may_come_from_another_page(client):
    coming = {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate", "sec-fetch-dest": "document"}
    assert client.get("/", headers=coming).status_code == 200
    assert client.get("/api/projects", headers={"sec-fetch-site": "same-origin"}).status_code == 200


def test_who_sends_what_is_not_taken_hears_why(studio, served, monkeypatch):  # noqa: F811
    """All of it has come when the sentence goes out: a connection that ends before that takes the sentence along."""
    made = studio.projects.new("Relay").document.project.id
    monkeypatch.setattr("shutil.disk_usage", lambda path: type("Usage", (), {"free": 1_000_000}))
    wire = http.client.HTTPConnection("127.0.0.1", served, timeout=30)
    wire.request("POST", f"/api/projects/{made}/shots?name=long.mp4", b"x" * (24 << 20))
    answer = wire.getresponse()
    assert (answer.status, "Make room first" in json.load(answer)["message"]) == (400, True)


def test_what_was_under_way_when_the_program_was_killed_goes_at_the_next_start(studio):
    for place in ("files/new", ""):
        (studio.folder / place / "tmpabcdefgh").mkdir()
        (studio.folder / place / "tmpabcdefgh" / "picture.mkv").write_bytes(b"half")
        (studio.folder / place / "tmp12345678.part").write_bytes(b"half")
    with studio.files.scratch() as folder:
        (folder / "some.mp4").write_bytes(b"half")
        assert folder.parent == studio.folder / "files" / "new"
    assert not folder.exists()
    studio.recover()
    assert not [*studio.folder.glob("tmp*"), *(studio.folder / "files/new").iterdir()]


class TestHeld:
    def test_a_writer_that_waits_too_long_is_told_and_readers_do_not_wait(self, client, studio, project, monkeypatch):
        monkeypatch.setattr(database, "PATIENCE", 0.6)
        at = f"/api/projects/{project['project']['id']}"
        other = sqlite3.connect(studio.folder / "nervykite.sqlite", isolation_level=None)
        other.execute("BEGIN IMMEDIATE")
        answers: list = []
        edit = {"revision": project["revision"], "edit": {"kind": "rename project", "name": "Other"}}
        threads = [
            threading.Thread(target=lambda: answers.append(client.post(f"{at}/edits", json=edit))) for _ in range(50)
        ]
        for thread in threads:
            thread.start()
        slowest = 0.0
        for _ in range(10):
            begun = time.monotonic()
            assert client.get(at).status_code == 200
            slowest = max(slowest, time.monotonic() - begun)
        for thread in threads:
            thread.join()
        other.close()
        assert {a.status_code for a in answers} == {503}
        assert all("writing to the database for a while" in a.json()["message"] for a in answers)
        assert slowest < 3
        assert client.post(f"{at}/edits", json=edit).status_code == 200

    def test_a_folder_of_a_newer_version_is_not_opened(self, studio):
        studio.close()
        with sqlite3.connect(studio.folder / "nervykite.sqlite") as connection:
            connection.execute("PRAGMA user_version = 999")
        connection.close()
        with pytest.raises(Refusal, match="newer version of this program"):
            Studio(studio.folder)

    def test_a_full_disk_can_be_read_and_says_so_to_who_writes(self, studio):
        made = studio.projects.new("Relay").document.project.id
        real = studio.database.connect

        def full(*patience: float) -> sqlite3.Connection:
            connection = real(*patience)
            pages = connection.execute("PRAGMA page_count").fetchone()[0]
            connection.execute(f"PRAGMA max_page_count = {pages}")
            return connection

        studio.database.connect = full
        with TestClient(create_app(studio), base_url=BASE, raise_server_exceptions=False) as client:
            edit = {"kind": "set palette", "colours": ["#123456"] * 24}
            for _ in range(400):
                revision = client.get(f"/api/projects/{made}").json()["revision"]
                answer = client.post(f"/api/projects/{made}/edits", json={"revision": revision, "edit": edit})
                edit["colours"] = [f"#{int(c[1:], 16) + 1:06x}" for c in edit["colours"]]
                if answer.status_code != 200:
                    break
            assert answer.status_code == 500
            assert "the disk is full. Make room on it, 200 MB at least" in answer.json()["message"]
            assert client.get(f"/api/projects/{made}").status_code == 200
            assert client.get("/api/projects").status_code == 200
