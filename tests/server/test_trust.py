"""Bad luck and bad will: uploads that stall, projects that cannot be read, requests that ask too much."""

import http.client
import json
import socket
import threading
import time

import numpy as np
import pytest
import uvicorn
from starlette.testclient import TestClient

from nervykite.core.change.edits import HoldFrame, RenameProject, SetPlate
from nervykite.server import answers
from nervykite.server.app import create_app
from nervykite.server.live import MOST_WAITING
from nervykite.studio import Studio, importing
from nervykite.studio.importing import import_shot

from ..media import make_video
from .api import BASE, upload, wait_for


@pytest.fixture
def served(studio):
    """The program over a real socket: its port."""
    config = uvicorn.Config(create_app(studio), host="127.0.0.1", port=0, log_level="warning")
    server = uvicorn.Server(config)
    bound = config.bind_socket()
    thread = threading.Thread(target=server.run, kwargs={"sockets": [bound]})
    thread.start()
    while not server.started:
        time.sleep(0.01)
    yield bound.getsockname()[1]
    server.should_exit = True
    thread.join()


def files_of(studio) -> set[str]:
    return {p.name for p in (studio.folder / "files").glob("??/*")}


def until(condition, seconds: float = 20.0) -> None:
    deadline = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < deadline
        time.sleep(0.05)


class TestUploads:
    def test_one_that_stops_coming_is_given_up(self, studio, served, monkeypatch):
        monkeypatch.setattr(answers, "PATIENCE", 0.3)
        made = studio.projects.new("Relay").document.project.id
        connection = http.client.HTTPConnection("127.0.0.1", served, timeout=20)
        connection.putrequest("POST", f"/api/projects/{made}/shots?name=slow.mp4")
        connection.putheader("Content-Length", "1000")
        connection.endheaders(b"only this much")
        answer = connection.getresponse()
        assert answer.status == 408
        assert json.load(answer)["message"] == "slow.mp4 stopped arriving. Send it again."
        assert list((studio.folder / "files" / "new").iterdir()) == []

    def test_one_that_breaks_off_leaves_nothing(self, studio, served):
        made = studio.projects.new("Relay").document.project.id
        with socket.create_connection(("127.0.0.1", served)) as wire:
            head = f"POST /api/projects/{made}/shots?name=a.mp4 HTTP/1.1\r\nHost: 127.0.0.1:{served}\r\n"
            wire.sendall(head.encode() + b"Content-Length: 3000000\r\n\r\n" + b"x" * 2_000_000)
            until(lambda: list((studio.folder / "files" / "new").iterdir()))
        until(lambda: not list((studio.folder / "files" / "new").iterdir()))
        assert files_of(studio) == set()

    def test_one_too_large_is_refused_before_it_comes(self, client, project):
        url = f"/api/projects/{project['project']['id']}/shots?name=huge.mov"
        answer = client.post(url, content=b"", headers={"Content-Length": str(9 << 30)})
        assert (answer.status_code, answer.json()["message"]) == (
            413, "huge.mov is larger than 8 GB, too large for a shot.",
        )  # fmt: skip

    def test_a_full_disk_says_so(self, client, project, monkeypatch):
        usage = type("Usage", (), {"free": 1_000_000})
        monkeypatch.setattr("shutil.disk_usage", lambda path: usage)
        url = f"/api/projects/{project['project']['id']}/shots?name=clip.mp4"
        answer = client.post(url, content=b"abc")
        assert answer.status_code == 400
        assert "the disk has 0.0 GB left. Make room" in answer.json()["message"]

    def test_while_one_comes_in_others_are_answered(self, studio, served):
        made = studio.projects.new("Relay").document.project.id
        connection = http.client.HTTPConnection("127.0.0.1", served, timeout=60)
        connection.putrequest("POST", f"/api/projects/{made}/shots?name=long.mp4")
        connection.putheader("Content-Length", str(8 << 20))
        connection.endheaders(b"x" * (7 << 20))  # it is not whole yet
        for _ in range(3):
            other = http.client.HTTPConnection("127.0.0.1", served, timeout=20)
            other.request("GET", "/api/projects")
            assert other.getresponse().status == 200
        connection.send(b"x" * (1 << 20))
        assert connection.getresponse().status == 200

    def test_a_waiting_import_that_is_cancelled_takes_nothing_with_it_that_others_need(
        self,
        client,
        studio,
        project,
        tmp_path,
        monkeypatch,
    ):
        made = project["project"]["id"]
        gate, real = threading.Event(), importing.import_file
        monkeypatch.setattr(importing, "import_file", lambda *given: gate.wait(30) and real(*given))
        plate = studio.keep_picture(np.full((120, 160, 3), 90, np.uint8))
        state = studio.edit(made, HoldFrame(item=project["project"]["ground"][0]["id"], frame=6), None)
        studio.edit(made, SetPlate(hold=next(iter(state.document.holds)), plate=plate), None)
        needed = files_of(studio)
        url = f"/api/projects/{made}/shots"
        bodies = [
            make_video(tmp_path / "a.mp4", frames=9).read_bytes(),
            studio.files.path(plate).read_bytes(),
            b"x" * 99,
        ]
        jobs = [client.post(url, params={"name": f"{n}.mp4"}, content=body).json() for n, body in enumerate(bodies)]
        for job in jobs[1:]:
            cancelled = client.post(f"/api/jobs/{job['id']}/cancel").json()
            assert (cancelled["state"], cancelled["message"]) == ("cancelled", "Cancelled before it began.")
        gate.set()
        assert wait_for(client, jobs[0])["state"] == "done"
        until(lambda: len(files_of(studio)) == len(needed) + 2)  # the first file and its proxy
        assert needed < files_of(studio)
        assert client.get(f"/api/projects/{made}/holds/{next(iter(state.document.holds))}/plate.png").status_code == 200


class TestTooMuch:
    def test_json_has_a_limit(self, client, project):
        body = b'{"revision": 1, "edit": "' + b"x" * (17 << 20) + b'"}'
        url = f"/api/projects/{project['project']['id']}/edits"
        answer = client.post(url, content=body, headers={"Content-Type": "application/json"})
        assert answer.status_code == 413
        assert "larger than 16 MB" in answer.json()["message"]

    @pytest.mark.parametrize("body", [b"[" * 200_000, b'{"revision": ' + b"9" * 5000 + b"}", b"\xff\xfe"])
    def test_json_that_cannot_be_read(self, client, project, body):
        url = f"/api/projects/{project['project']['id']}/edits"
        answer = client.post(url, content=body, headers={"Content-Type": "application/json"})
        assert answer.status_code == 400
        assert answer.json()["message"].endswith(".")

    @pytest.mark.parametrize("number", [10**30, -(10**30), 2**63, 2**31, -1])
    def test_numbers_out_of_all_proportion(self, client, project, number):
        url, shot = f"/api/projects/{project['project']['id']}", next(iter(project["shots"]))
        asked = ("?since={}", "/keys?first={}", "/keys?past={}", f"/shots/{shot}/frames/{{}}.jpg",
                 f"/shots/{shot}/strip.jpg?first={{}}&past=9&count=3")  # fmt: skip
        for path in asked:
            answer = client.get(url + path.format(number))
            assert answer.status_code == 200 or answer.json()["message"].endswith(".")
        for path, body in (("/undo", {"revision": number}), ("/rescue", {"step": number})):
            answer = client.post(url + path, json=body)
            assert answer.status_code in (400, 409)
            assert answer.json()["message"].endswith(".")
        job = wait_for(client, client.post(f"{url}/exports", json={"sending": {"span": [0, number]}}).json())
        assert "lies outside the piece" in job["message"]

    def test_a_line_of_very_many_turns_is_refused(self, client):
        turns = np.random.default_rng(4).uniform(0, 2000, (40_000, 2)).round(1).tolist()
        answer = client.post("/api/path", json={"points": turns})
        assert answer.status_code == 400
        assert "turns too often" in answer.json()["message"]

    def test_work_is_stopped_when_it_takes_too_long(self, client, monkeypatch):
        monkeypatch.setattr(answers, "LONGEST", 0.2)
        stopped = threading.Event()

        def endless(line, tolerance, report):
            try:
                while True:
                    report(0.5)
                    time.sleep(0.01)
            finally:
                stopped.set()

        monkeypatch.setattr("nervykite.server.routes.holds_routes.fitted", endless)
        answer = client.post("/api/path", json={"points": [[0, 0], [50, 0], [50, 50]]})
        assert answer.status_code == 400
        assert "Ask for less" in answer.json()["message"]
        assert stopped.is_set()

    def test_a_flood_of_socket_messages_is_answered_in_turn(self, client, project):
        with client.websocket_connect(
            f"/api/projects/{project['project']['id']}/live", headers={"host": BASE.removeprefix("http://")}
        ) as page:
            count = 3 * MOST_WAITING
            for seq in range(count):
                page.send_json({"type": "frame", "seq": seq, "frame": seq % 24, "width": 16, "height": 16})
            page.send_text("[" * 100_000)
            seen, troubles = set(), 0
            while len(seen) < count or not troubles:
                message = page.receive()
                if message.get("bytes"):
                    length = int.from_bytes(message["bytes"][:4], "little")
                    seen.add(json.loads(message["bytes"][4 : 4 + length])["seq"])
                else:
                    troubles += json.loads(message["text"])["type"] == "trouble"
            assert seen == set(range(count))

    def test_very_thin_footage_makes_small_pictures(self, client, tmp_path):
        made = client.post("/api/projects", json={"name": "Thin"}).json()["project"]["id"]
        clip = make_video(tmp_path / "thin.mkv", size=(2048, 16), codec="ffv1")
        assert upload(client, made, clip)["state"] == "done"
        url = f"/api/projects/{made}"
        shot = next(iter(client.get(url).json()["shots"]))
        strip = "strip.jpg?first=0&past=9&count=120&height=240"
        for path in (f"/shots/{shot}/frames/3.jpg?width=8192", f"/shots/{shot}/{strip}", "/poster.jpg?height=960"):
            answer = client.get(url + path)
            assert answer.status_code == 200
            assert len(answer.content) < 2_000_000

    def test_a_name_of_long_letters_can_be_sent(self, client, project):
        made = project["project"]["id"]
        edit = {"kind": "rename project", "name": "𝕂" * 120}
        revision = client.get(f"/api/projects/{made}").json()["revision"]
        assert client.post(f"/api/projects/{made}/edits", json={"revision": revision, "edit": edit}).status_code == 200
        job = wait_for(client, client.post(f"/api/projects/{made}/exports", json={}).json())
        assert job["state"] == "done", job["message"]
        assert client.get(f"/api/jobs/{job['id']}/file").status_code == 200


class TestRescue:
    @pytest.fixture
    def broken(self, studio, tmp_path):
        """A project whose last step left what this program cannot read, as one of an other version might."""
        made = studio.projects.new("Relay").document.project.id
        state = import_shot(studio, made, studio.keep_file(make_video(tmp_path / "clip.mp4")), "clip.mp4")[1]
        studio.edit(made, HoldFrame(item=state.document.project.ground[0].id, frame=6), None)
        with studio.database.writing() as connection:
            connection.execute("UPDATE layers SET arrangement = 'sideways'")
            connection.execute(
                "UPDATE edits SET changes = replace(changes, '\"trail\"', '\"sideways\"') WHERE number = 2"
            )
        studio.close()
        return made

    def test_its_steps_can_be_taken_back_until_it_can_be_shown(self, broken, studio):
        studio = Studio(studio.folder)
        with TestClient(create_app(studio), base_url=BASE) as client:
            url = f"/api/projects/{broken}"
            answer = client.get(url)
            assert (answer.status_code, answer.json()["rescue"]) == (422, True)
            assert client.get(f"{url}/poster.jpg").status_code == 422
            assert [e["name"] for e in client.get("/api/projects").json()] == ["Relay"]
            steps = client.get(f"{url}/steps").json()
            assert [(s["title"], s["undone"]) for s in steps] == [("hold frame 6", False), ("import clip", False)]
            assert client.post(f"{url}/rescue", json={"step": 7}).status_code == 400
            view = client.post(f"{url}/rescue", json={"step": steps[0]["number"]})
            assert view.status_code == 200
            assert (view.json()["length"], view.json()["undo"], view.json()["redo"]) == (
                24,
                "import clip",
                "hold frame 6",
            )
            # To do it again would break it again, so that is refused, and nothing changes.
            redo = client.post(f"{url}/redo", json={"revision": view.json()["revision"]})
            assert redo.status_code == 422
            assert client.get(url).status_code == 200
        studio.close()

    def test_a_state_that_cannot_be_laid_out_is_rescued_too(self, client, studio, project, monkeypatch):
        made = project["project"]["id"]
        real = studio.evaluation

        def evaluation(state):
            if state.document.project.name == "Bad":
                raise ZeroDivisionError
            return real(state)

        studio.edit(made, RenameProject(name="Bad"), None)
        monkeypatch.setattr(studio, "evaluation", evaluation)
        assert client.get(f"/api/projects/{made}").status_code == 422
        number = client.get(f"/api/projects/{made}/steps").json()[0]["number"]
        assert client.post(f"/api/projects/{made}/rescue", json={"step": number}).json()["project"]["name"] == "Relay"


class TestRoom:
    def test_a_project_says_what_it_takes(self, client, studio, project):
        made = project["project"]["id"]
        room = client.get(f"/api/projects/{made}/room").json()
        size = sum(p.stat().st_size for p in (studio.folder / "files").glob("??/*"))
        assert room == {"bytes": size, "shots": {next(iter(project["shots"])): size}}
        assert client.get("/api/projects").json()[0]["bytes"] == size

    def test_deleted_ones_are_listed_restored_or_deleted_for_good(self, client, studio, project):
        made = project["project"]["id"]
        client.delete(f"/api/projects/{made}")
        assert [e["id"] for e in client.get("/api/deleted-projects").json()] == [made]
        client.post(f"/api/projects/{made}/restore")
        assert client.get("/api/deleted-projects").json() == []
        assert client.delete(f"/api/deleted-projects/{made}").status_code == 404
        client.delete(f"/api/projects/{made}")
        assert client.delete(f"/api/deleted-projects/{made}").status_code == 204
        assert client.get(f"/api/projects/{made}").status_code == 404
        until(lambda: files_of(studio) == set())


def test_an_error_that_nobody_foresaw_is_a_sentence_too(studio, monkeypatch):
    monkeypatch.setattr(studio.projects, "list", lambda: 1 / 0)
    with TestClient(create_app(studio), base_url=BASE, raise_server_exceptions=False) as client:
        answer = client.get("/api/projects")
    assert answer.status_code == 500
    assert "the log in the data folder" in answer.json()["message"]
