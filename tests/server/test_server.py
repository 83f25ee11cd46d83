"""The API: documents, footage, the preview stream, jobs, and who may talk to it."""

import time
from fractions import Fraction

import cv2
import numpy as np
import pytest
from starlette.websockets import WebSocketDisconnect

from ..media import decode_luma, make_video, number_of
from ..views import whole
from .api import BASE, HOST, carved, drawn, edit, listening, sound, upload, wait_for


class TestDocuments:
    def test_from_import_to_keys(self, client, project):
        assert project["length"] == 24
        assert project["items"][0]["frames"] == list(range(24))
        view = carved(client, project)
        layer = view["project"]["layers"][0]["id"]
        info = view["layers"][layer]
        assert (info["start"], info["landing"], info["end"], info["carved"]) == (6, 6, 24, True)
        assert view["undo"] == "draw Body"
        before = client.get(f"/api/projects/{view['project']['id']}/keys").json()["keys"]
        view = edit(client, view, kind="set value", layer=layer, channel="position", frame=6, value=[9, 9])
        after = client.get(f"/api/projects/{view['project']['id']}/keys").json()["keys"]
        assert [a == b for a, b in zip(before, after, strict=True)] == [True] * 6 + [False] * 18

    def test_undo_redo_and_stale(self, client, project):
        url = f"/api/projects/{project['project']['id']}"
        view = edit(client, project, kind="rename project", name="Other")
        answer = client.post(f"{url}/edits", json={"revision": 0, "edit": {"kind": "rename project", "name": "Third"}})
        assert answer.status_code == 409
        assert answer.json()["revision"] == view["revision"]
        undone = client.post(f"{url}/undo", json={"revision": view["revision"]}).json()
        assert undone["project"]["name"] == "Relay"
        assert undone["redo"] == "rename project to Other"
        assert client.post(f"{url}/redo", json={"revision": undone["revision"]}).json()["project"]["name"] == "Other"

    def test_the_list(self, client, project):
        url = f"/api/projects/{project['project']['id']}"
        copy = client.post(f"{url}/duplicate").json()
        assert copy["project"]["name"] == "Relay 2"
        assert client.delete(url).status_code == 204
        assert [e["name"] for e in client.get("/api/projects").json()] == ["Relay 2"]
        client.post(f"{url}/restore")
        assert len(client.get("/api/projects").json()) == 2

    @pytest.mark.parametrize(
        ("body", "sentence"),
        [
            ({"kind": "rename project", "name": " "}, "a name needs at least one letter"),
            ({"kind": "set loop", "loop": [4, 400]}, "The loop has to lie within the ground"),
            ({"kind": "hold", "item": "0" * 16, "frame": 1}, "no longer in the ground"),
            ({"kind": "dance"}, "tag"),
        ],
    )
    def test_bad_edits_get_a_sentence(self, client, project, body, sentence):
        url = f"/api/projects/{project['project']['id']}"
        answer = client.post(f"{url}/edits", json={"revision": project["revision"], "edit": body})
        assert answer.status_code == 400
        assert sentence in answer.json()["message"]
        assert client.get(url).json()["revision"] == project["revision"]

    def test_unknown_places(self, client, project):
        url = f"/api/projects/{project['project']['id']}"
        for path in ("/api/projects/nobody", f"{url}/shots/x/frames/0.jpg", f"{url}/layers/x/thumbnail.png"):
            answer = client.get(path)
            assert answer.status_code == 404
            assert answer.json()["message"].startswith("There is no")


class TestFootage:
    def test_frames_are_exact(self, client, project):
        shot = next(iter(project["shots"]))
        url = f"/api/projects/{project['project']['id']}/shots/{shot}"
        for frame in (0, 7, 23):
            for query in ("", "?width=80"):
                data = client.get(f"{url}/frames/{frame}.jpg{query}").content
                assert number_of(cv2.imdecode(np.frombuffer(data, np.uint8), 1)) == frame
        assert client.get(f"{url}/frames/24.jpg").status_code == 404

    def test_strip_thumbnail_poster_sound_and_peaks(self, client, project, tmp_path):
        shot, url = next(iter(project["shots"])), f"/api/projects/{project['project']['id']}"
        strip = client.get(f"{url}/shots/{shot}/strip.jpg?first=0&past=24&count=6&height=48").content
        picture = cv2.imdecode(np.frombuffer(strip, np.uint8), 1)
        assert picture.shape[:2] == (48, 6 * 64)
        assert [number_of(picture[:, i * 64 : (i + 1) * 64]) for i in range(6)] == [2, 6, 10, 14, 18, 22]
        view = carved(client, project)
        layer = view["project"]["layers"][0]["id"]
        png = client.get(f"{url}/layers/{layer}/thumbnail.png?side=100").content
        cutout = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_UNCHANGED)
        assert cutout.shape == (80, 100, 4)
        gone = f"{url}/layers/{'a' * 16}/thumbnail.png?r="  # by what was there a moment ago
        assert client.get(f"{gone}{view['revision'] - 1}").status_code == 204
        assert client.get(f"{gone}{view['revision']}").status_code == 404
        assert client.get(f"{url}/poster.jpg").headers["content-type"] == "image/jpeg"
        heard = sound(client, project["project"]["id"])
        assert len(heard) == round(24 * 48000 / Fraction(project["project"]["rate"]))
        peaks = client.get(f"{url}/peaks?points=40").json()
        assert len(peaks) == 40
        assert 0.1 < max(peaks) < 0.9

    @pytest.mark.parametrize(
        ("name", "content", "sentence"),
        [
            ("nothing.mp4", b"", "nothing.mp4 is empty"),
            ("letter.mov", b"Dear Juno" * 300, "letter.mov cannot be read as video"),
            ("../../sly\x00name.mp4", b"\x00" * 900, "sly"),
        ],
    )
    def test_bad_files_end_with_a_sentence_and_leave_nothing(self, client, studio, name, content, sentence):
        project = client.post("/api/projects", json={}).json()["project"]["id"]
        answer = client.post(f"/api/projects/{project}/shots", params={"name": name}, content=content)
        job = wait_for(client, answer.json())
        assert job["state"] == "failed"
        assert sentence in job["message"]
        assert client.get(f"/api/projects/{project}").json()["shots"] == {}
        deadline = time.monotonic() + 20
        while files := [p for p in (studio.folder / "files").rglob("*") if p.is_file()]:
            assert time.monotonic() < deadline, files
            time.sleep(0.1)

    def test_too_large(self, client, monkeypatch):
        from nervykite.server.routes import shots_routes

        monkeypatch.setattr(shots_routes, "MAX_UPLOAD", 100)
        project = client.post("/api/projects", json={}).json()["project"]["id"]
        answer = client.post(f"/api/projects/{project}/shots", params={"name": "huge.mp4"}, content=b"x" * 101)
        assert answer.status_code == 413
        assert "huge.mp4 is larger than" in answer.json()["message"]


def told(socket) -> dict:
    """The next thing that is told, but for how far a shot has been looked through."""
    while (message := socket.receive_json())["type"] == "watched":
        pass
    return message


class TestPreview:
    def test_frames_mattes_and_drafts(self, client, project):
        view = carved(client, project)
        layer, hold = view["project"]["layers"][0]["id"], view["project"]["layers"][0]["source"]["hold"]
        with listening(client, view) as socket:
            ask = {"type": "frame", "seq": 1, "frame": 4, "width": 160, "height": 120}
            socket.send_json(ask)
            header, data = drawn(socket)
            assert (header["seq"], header["frame"], header["source"]["frame"], header["layers"]) == (1, 4, 4, [])
            assert number_of(cv2.imdecode(np.frombuffer(data, np.uint8), 1)) == 4
            draft = {"kind": "set value", "layer": layer, "channel": "position", "frame": 12, "value": [20, 0]}
            socket.send_json(ask | {"seq": 2, "frame": 12, "draft": draft})
            header, drafted = drawn(socket)
            assert header["layers"][0]["corners"][0] == [50, 20]
            socket.send_json(ask | {"seq": 3, "frame": 12})
            header, plain = drawn(socket)
            assert header["layers"][0]["corners"][0] == [30, 20]
            assert drafted != plain
            assert header["revision"] == view["revision"]
            socket.send_json({"type": "matte", "seq": 4, "hold": hold, "width": 160, "height": 120})
            header, png = drawn(socket)
            alpha = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_UNCHANGED)[..., 3]
            assert (alpha > 127).sum() == 100 * 80
            left, top, width, height = header["box"]
            assert alpha.shape == (height, width)  # only the part in which there is something
            assert (header["size"], left, top, width * height) == ([160, 120], 30, 20, 100 * 80)
            bad = draft | {"value": [1]}
            socket.send_json(ask | {"seq": 5, "draft": bad})
            header, data = drawn(socket)
            assert data == b""
            assert "Position" in header["trouble"]
            socket.send_text("{")
            assert "not understood" in told(socket)["message"]

    def test_another_tab_hears_of_changes(self, client, project):
        with listening(client, project) as socket:
            view = edit(client, project, kind="rename project", name="Other")
            assert told(socket) == {"type": "changed", "revision": view["revision"]}


class TestSending:
    def test_export_and_download(self, client, project, tmp_path):
        view = carved(client, project)
        url = f"/api/projects/{view['project']['id']}"
        body = {"writer": {"kind": "mp4", "quality": "fine"}, "sending": {"span": [3, 20]}}
        job = wait_for(client, client.post(f"{url}/exports", json=body).json())
        assert job["state"] == "done"
        answer = client.get(f"/api/jobs/{job['id']}/file")
        (tmp_path / "x.mp4").write_bytes(answer.content)
        assert "Relay.mp4" in answer.headers["content-disposition"]
        # Outside the cutout the footage goes on.
        frames = decode_luma(tmp_path / "x.mp4")
        assert len(frames) == 17
        assert number_of(frames[0]) == 3

    def test_cancel(self, client, tmp_path, studio):
        project = client.post("/api/projects", json={"name": "Long"}).json()["project"]["id"]
        upload(client, project, make_video(tmp_path / "long.mp4", frames=240, size=(320, 240)))
        job = client.post(f"/api/projects/{project}/exports", json={}).json()
        while client.get(f"/api/projects/{project}/jobs").json()[0]["progress"] == 0:
            time.sleep(0.01)
        client.post(f"/api/jobs/{job['id']}/cancel")
        ended = wait_for(client, job)
        assert ended["state"] == "cancelled"
        assert list(studio.exports.iterdir()) == []
        assert client.get(f"/api/jobs/{job['id']}/file").status_code == 404

    def test_refusals(self, client, project):
        empty = client.post("/api/projects", json={"name": "Empty"}).json()["project"]["id"]
        job = wait_for(client, client.post(f"/api/projects/{empty}/exports", json={}).json())
        assert "Import a shot first" in job["message"]
        answer = client.post(f"/api/projects/{empty}/exports", json={"writer": {"kind": "mp4", "quality": "best"}})
        assert "MP4: quality" in answer.json()["message"]


class TestSafety:
    @pytest.mark.parametrize(
        "headers",
        [
            {"host": "evil.example"},
            {"origin": "http://evil.example"},
            {"origin": "http://127.0.0.1:9"},
            {"origin": "null"},
        ],
    )
    def test_strangers_are_refused(self, client, headers):
        answer = client.get("/api/projects", headers=headers)
        assert answer.status_code == 403
        assert "only its own page" in answer.json()["message"]

    def test_a_strange_page_gets_no_socket(self, client, project):
        url = f"/api/projects/{project['project']['id']}/live"
        with (
            pytest.raises(WebSocketDisconnect),
            client.websocket_connect(url, headers={"host": HOST, "origin": "http://evil.example"}),
        ):
            pass

    def test_own_page_is_let_in_under_a_strict_policy(self, client):
        answer = client.get("/api/projects", headers={"origin": BASE})
        assert answer.status_code == 200
        assert "default-src 'none'" in answer.headers["content-security-policy"]


def test_sound_of_a_silent_piece_is_silence(client):
    project = client.post("/api/projects", json={"name": "Still"}).json()["project"]["id"]
    assert client.get(f"/api/projects/{project}/sound").json() | {"key": ""} == {
        "key": "",
        "samples": 0,
        "silent": True,
        "blocks": [],
    }
    assert client.get(f"/api/projects/{project}/loudness").json()["loudness"] is None


class TestMore:
    def test_of_many_drafts_each_is_answered_and_the_newest_is_drawn(self, client, project):
        view = carved(client, project)
        layer = view["project"]["layers"][0]["id"]
        with listening(client, view) as socket:
            for n in range(12):
                draft = {"kind": "set value", "layer": layer, "channel": "position", "frame": 9, "value": [n, 0]}
                ask = {"type": "frame", "seq": n, "frame": 9, "width": 160, "height": 120, "draft": draft}
                socket.send_json(ask)
            answers = dict(sorted((h["seq"], (h, d)) for h, d in (drawn(socket) for _ in range(12))))
        assert list(answers) == list(range(12))
        header, data = answers[11]
        assert not header["skipped"]
        assert header["layers"][0]["corners"][0] == [41, 20]
        assert data[:2] == b"\xff\xd8"
        assert all(d == b"" for h, d in answers.values() if h.get("skipped"))

    def test_two_pages_take_turns(self, client, project, monkeypatch):
        """One that wants a lot ahead does not keep the other waiting for its frame."""
        from nervykite.server import pictures

        real, order = pictures.jpeg, []

        def slowly(planes, *rest):
            order.append(planes.size[0])
            time.sleep(0.02)
            return real(planes, *rest)

        monkeypatch.setattr(pictures, "jpeg", slowly)
        ask = {"type": "frame", "width": 160, "height": 120}
        with listening(client, project) as greedy, listening(client, project) as other:
            for n in range(60):
                greedy.send_json(ask | {"seq": n, "frame": n % 24, "width": 100 + 2 * n})
            drawn(greedy)
            other.send_json(ask | {"seq": 0, "frame": 5, "width": 16})
            drawn(other)
        assert order.index(16) < 30

    def test_a_frame_that_cannot_be_drawn_does_not_end_the_stream(self, client, project, monkeypatch):
        from nervykite.server import pictures

        real, calls = pictures.jpeg, []
        monkeypatch.setattr(pictures, "jpeg", lambda *a: calls.append(1) or (1 / 0 if len(calls) == 1 else real(*a)))
        with listening(client, project) as socket:
            for seq in range(3):
                socket.send_json({"type": "frame", "seq": seq, "frame": seq, "width": 160, "height": 120})
                header, data = drawn(socket)
                assert (header["trouble"] is not None) == (seq == 0) == (data == b"")

    def test_a_cancelled_import_leaves_nothing(self, client, studio, tmp_path):
        made = client.post("/api/projects", json={"name": "Long"}).json()["project"]["id"]
        path = make_video(tmp_path / "long.mp4", frames=400, size=(320, 240))
        url = f"/api/projects/{made}/shots"
        job = client.post(url, params={"name": "long.mp4"}, content=path.read_bytes()).json()
        client.post(f"/api/jobs/{job['id']}/cancel")
        assert wait_for(client, job)["state"] == "cancelled"
        assert client.get(f"/api/projects/{made}").json()["shots"] == {}

    def test_the_same_file_twice_is_two_shots_and_one_file(self, client, studio, tmp_path):
        made = client.post("/api/projects", json={"name": "Twice"}).json()["project"]["id"]
        path = make_video(tmp_path / "clip.mp4", frames=6)
        for _ in range(2):
            assert upload(client, made, path)["state"] == "done"
        view = whole(client.get(f"/api/projects/{made}").json())
        assert (len(view["shots"]), view["length"]) == (2, 12)
        with studio.database.reading() as connection:
            assert connection.execute("SELECT count(*) FROM files").fetchone()[0] == 2  # the file and its proxy

    def test_a_piece_without_footage_has_no_poster_and_no_frames(self, client):
        made = client.post("/api/projects", json={"name": "Bare"}).json()["project"]["id"]
        assert client.get(f"/api/projects/{made}/keys").json()["keys"] == []
        answer = client.get(f"/api/projects/{made}/poster.jpg")
        assert answer.status_code == 404
        assert "nothing in this piece yet" in answer.json()["message"]


def test_the_page_needs_no_script_or_style_from_elsewhere(client):
    """What is served stands alone: no address of another machine, no script within the page itself."""
    index = client.get("/").text
    assert '<div id="root">' in index
    assert "http" not in index
    assert all(" src=" in tag for tag in index.split("<script")[1:])
    policy = client.get("/").headers["content-security-policy"]
    assert "script-src 'self';" in policy
    assert "connect-src 'self'" in policy
    assert client.get("/nothing-here.js").status_code == 404


def test_the_catalog_says_what_the_page_builds_controls_from(client):
    catalog = client.get("/api/catalog").json()
    finishes = {f["kind"]: f for f in catalog["finishes"]}
    assert finishes["outline"]["on"] == ["cutout"]
    width = finishes["outline"]["settings"]["properties"]["width"]
    assert (width["unit"], width["minimum"], width["maximum"]) == ("px", 0, 80)
    assert finishes["soft-blur"]["on"] == ["cutout", "ground"]
    assert catalog["easings"]["ease-in-out"] == [0.42, 0, 0.58, 1]


class TestAttacked:
    @pytest.mark.parametrize("headers", [{"host": "[::1"}, {"host": "]"}, {"origin": "http://[bad"}])
    def test_what_is_no_address_is_refused_with_a_sentence(self, client, headers):
        answer = client.get("/api/projects", headers=headers)
        assert answer.status_code == 403
        assert "only its own page" in answer.json()["message"]

    @pytest.mark.parametrize("body", [b"\xff\xfe{", b"{", b"[]", b"null", b'{"revision": 1e99}'])
    def test_a_body_that_cannot_be_read_gets_a_sentence(self, client, project, body):
        url = f"/api/projects/{project['project']['id']}/edits"
        answer = client.post(url, content=body, headers={"content-type": "application/json"})
        assert answer.status_code == 400
        assert answer.json()["message"]

    def test_a_binary_message_does_not_end_the_stream(self, client, project):
        with listening(client, project) as socket:
            socket.send_bytes(b"\x00\xff\x80")
            assert "not understood" in told(socket)["message"]
            socket.send_json({"type": "frame", "seq": 1, "frame": 4, "width": 160, "height": 120})
            header, _ = drawn(socket)
            assert header["frame"] == 4

    def test_jobs_of_a_project_that_is_not_there(self, client):
        answer = client.get("/api/projects/0123456789abcdef/jobs")
        assert answer.status_code == 404
        assert answer.json()["message"].startswith("There is no such project")


def test_what_goes_over_the_stream_is_described_with_the_routes(client, project):
    described = client.get("/api/openapi.json").json()["components"]["schemas"]
    with listening(client, project) as socket:
        socket.send_json({"type": "frame", "seq": 1, "frame": 4, "width": 160, "height": 120})
        header, _ = drawn(socket)
    assert set(described["FrameHeader"]["required"]) == set(described["FrameHeader"]["properties"]) == set(header)
    assert {"FrameRequest", "MatteHeader", "ClingHeader", "JobNews", "WatchedNews"} <= set(described)


def test_strips_of_the_ground_say_what_they_are(client, project):
    view = edit(client, project, kind="add colour")
    footage, colour = view["items"]
    assert (footage["tag"], footage["shade"], "filmed" in footage["can"]) == ("", None, True)
    assert (colour["tag"], colour["shade"], "filmed" in colour["can"]) == ("Colour", "#1E2530", False)
    first = view["project"]["ground"][0]
    view = edit(client, view, kind="change ground", item=first["id"], source={**first["source"], "speed": 50})
    assert view["items"][0]["tag"] == "50 %"
