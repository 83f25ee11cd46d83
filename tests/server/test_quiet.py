"""Who comes first: what can wait gives way to a hand on the page, to playing and to what is being made."""

import threading
import time

import pytest

from nervykite.core.common.errors import Cancelled
from nervykite.server.pictures import Pictures
from nervykite.server.quiet import HELD, Quiet
from nervykite.server.warming import STEP, Warming
from nervykite.studio import watching
from nervykite.studio.watching import unwatched, watch_shot

from ..media import make_video
from .api import HOST, upload


def goes_on(quiet: Quiet, over=lambda: False) -> threading.Event:
    """Waits in a thread for a quiet time; set once it has come."""
    done = threading.Event()

    def wait() -> None:
        quiet.wait(over)
        done.set()

    threading.Thread(target=wait, daemon=True).start()
    return done


def test_what_can_wait_does_while_somebody_is_at_work():
    quiet = Quiet(lambda: False)
    assert goes_on(quiet).wait(2)
    quiet.hold()
    begun = time.monotonic()
    held = goes_on(quiet)
    assert not held.wait(HELD / 2)
    assert held.wait(5)
    assert time.monotonic() - begun >= HELD * 0.9


def test_it_waits_for_what_is_made_and_for_frames_and_not_at_the_end():
    busy = [True]
    quiet = Quiet(lambda: busy[0])
    held = goes_on(quiet)
    assert not held.wait(0.2)
    assert goes_on(quiet, lambda: True).wait(2)
    with quiet.frame():
        busy[0] = False
        assert not held.wait(0.2)
    assert held.wait(2)


def test_small_pictures_are_made_one_at_a_time_after_frames():
    quiet = Quiet(lambda: False)
    at_once, most = 0, 0
    made = list[float]()

    def make() -> None:
        nonlocal at_once, most
        with quiet.small():
            at_once += 1
            most = max(most, at_once)
            time.sleep(0.01)
            at_once -= 1
            made.append(time.monotonic())

    threads = [threading.Thread(target=make) for _ in range(6)]
    with quiet.frame():
        for thread in threads:
            thread.start()
        time.sleep(0.15)
        assert not made
    for thread in threads:
        thread.join(10)
    assert most == 1
    assert len(made) == 6


@pytest.fixture
def shot(client, studio, tmp_path):
    id_ = client.post("/api/projects", json={"name": "Watched"}).json()["project"]["id"]
    upload(client, id_, make_video(tmp_path / "runner.mp4", frames=40))
    return next(iter(studio.state(id_).document.shots.values()))


def test_looking_through_footage_asks_often_whether_it_may_go_on_and_goes_on_where_it_was(studio, shot, monkeypatch):
    monkeypatch.setattr(watching, "STRETCH", 6)
    asked = 0

    def stop() -> None:
        nonlocal asked
        asked += 1
        if asked == 90:
            raise Cancelled

    with pytest.raises(Cancelled):
        watch_shot(studio, shot, give_way=stop)
    assert 0 < sum(map(len, unwatched(studio, shot))) < shot.frames
    watch_shot(studio, shot)
    assert unwatched(studio, shot) == []


def test_a_page_that_says_so_holds_it_up(client, studio):
    id_ = client.post("/api/projects", json={"name": "Held"}).json()["project"]["id"]
    with client.websocket_connect(f"/api/projects/{id_}/live", headers={"host": HOST}) as socket:
        socket.send_json({"type": "at work"})
        # It is not answered: the next answer is that to the next request.
        socket.send_json({"type": "frame", "seq": 1, "frame": 0, "width": 90, "height": 160})
        assert b'"seq":1,' in socket.receive_bytes()


def test_the_newest_project_is_made_ready_and_one_that_is_opened(client, studio, shot):
    pictures, quiet = Pictures(studio), Quiet(lambda: False)
    (entry,) = studio.projects.list()
    drawn, viewed = list[int](), list[str]()
    original = pictures.frame

    def frame(document, draws, size, exact=False):
        drawn.append(size[1])
        return original(document, draws, size, exact)

    pictures.frame = frame
    warming = Warming(studio, pictures, lambda state: viewed.append(state.document.project.id), quiet)
    warming.start()
    try:
        until = time.monotonic() + 60
        while len(drawn) < 40 // STEP and time.monotonic() < until:
            time.sleep(0.02)
        assert viewed == [entry.id]
        assert len(drawn) == 40 // STEP
        warming.opened(entry.id)
        while len(drawn) < 80 // STEP and time.monotonic() < until:
            time.sleep(0.02)
        assert viewed == [entry.id] * 2
    finally:
        warming.close()
