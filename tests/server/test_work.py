"""Background work, the page's news, and the picture cache, without a server around them."""

import asyncio
import sqlite3
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import av
import pytest

from nervykite.core.change.edits import ChangeLayer, ChangeMatte, HoldFrame, SetKey, SetValue
from nervykite.core.common.errors import Refusal
from nervykite.core.common.kept import Kept
from nervykite.core.draw.picture.affected import FrameKeys
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.piece.model import Finish, Key, Matte
from nervykite.server.hub import Hub
from nervykite.server.line import Line
from nervykite.server.messages import ChangedNews
from nervykite.server.pictures import Pictures, outline_of
from nervykite.server.work import Lookahead, Work
from nervykite.store.projects import Missing
from nervykite.studio.importing import import_shot

from ..conftest import box
from ..media import make_video


@pytest.fixture
def work(studio):
    work = Work(studio.jobs, Hub())
    yield work
    work.close()


@pytest.fixture
def project(studio):
    return studio.projects.new("Relay").document.project.id


def ended(studio, job, seconds=10.0):
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        found = studio.jobs.get(job.id)
        if found.state not in ("waiting", "running"):
            return found
        time.sleep(0.01)
    raise TimeoutError


class TestLine:
    """Those that are sent wait in a line, which can be held up, put into another order, and taken up again."""

    def busy(self, work, project, gate: threading.Event, done: list[str]):
        """Jobs A, B and C, the first of which has begun and waits at a gate."""
        begun = threading.Event()

        def task(name: str):
            def run(report):
                if name == "A":
                    begun.set()
                    assert gate.wait(5)
                report(0.5)
                done.append(name)
                return {}

            return run

        jobs = [work.start("export", project, n, task(n), asked={"what": n}) for n in "ABC"]
        assert begun.wait(5)
        return jobs

    def test_what_waits_is_done_in_another_order(self, work, studio, project):
        gate, done = threading.Event(), []
        jobs = self.busy(work, project, gate, done)
        work.first(jobs[2].id)
        work.first(jobs[0].id)  # has begun, and stays as it is
        gate.set()
        for job in jobs:
            assert ended(studio, job).state == "done"
        assert done == ["A", "C", "B"]

    def test_a_fault_in_one_leaves_the_line_alone(self, caplog):
        line, done = Line("test"), threading.Event()
        line.submit("a", lambda: 1 / 0)
        line.submit("b", done.set)
        assert done.wait(5)
        assert not line.put_first("b")
        line.close()
        assert [r.exc_info[0] for r in caplog.records] == [ZeroDivisionError]

    def test_held_up_nothing_goes_on_until_it_may(self, work, studio, project):
        gate, done = threading.Event(), []
        jobs = self.busy(work, project, gate, done)
        assert work.running()
        work.hold("export", True)
        gate.set()
        time.sleep(0.15)
        assert done == []
        # Jobs are there, and none of them is at work: what gives way to work goes on.
        assert work.busy()
        assert not work.running()
        assert work.view(studio.jobs.get(jobs[1].id)).held
        # Others go on meanwhile, and one that is held up can be cancelled.
        beside = work.start("find", project, "Find", lambda report: {})
        assert ended(studio, beside).state == "done"
        work.cancel(jobs[0].id)
        assert ended(studio, jobs[0]).state == "cancelled"
        work.hold("export", False)
        for job in jobs[1:]:
            assert ended(studio, job).state == "done"
        assert done == ["B", "C"]

    def test_what_a_stop_broke_off_is_taken_up_again(self, studio, project):
        work, gate, done = Work(studio.jobs, Hub()), threading.Event(), []
        jobs = self.busy(work, project, gate, done)
        threading.Timer(0.1, gate.set).start()
        work.close()
        assert done == []
        studio.jobs.end_interrupted()
        left = studio.jobs.interrupted()
        assert [j.id for j in left] == [j.id for j in jobs]
        assert [j.asked for j in left] == [{"what": n} for n in "ABC"]
        again = Work(studio.jobs, Hub())
        for job in left:
            again.take_up(job, lambda report: {"done": True})
        for job in jobs:
            assert ended(studio, job).result == {"done": True}
        again.close()


class TestAhead:
    def test_of_what_waits_only_the_newest_is_done(self):
        ahead, done, begun, go_on = Lookahead(), [], threading.Event(), threading.Event()

        def first():
            begun.set()
            go_on.wait(5)
            done.append("first")

        ahead.start(first)
        assert begun.wait(5)
        ahead.start(lambda: done.append("second"))
        ahead.start(lambda: done.append("third"))
        go_on.set()
        ahead._pool.shutdown()
        assert done == ["first", "third"]

    def test_a_fault_in_one_does_not_keep_the_next_from_being_done(self, caplog):
        ahead, done = Lookahead(), []

        def refused():
            raise Refusal("The file is gone.")

        for task in (refused, lambda: 1 / 0, lambda: done.append("third")):
            ahead.start(task)
            ahead._next.exception(5)
        assert done == ["third"]
        assert [r.exc_info[0] for r in caplog.records] == [ZeroDivisionError]
        ahead.close()


class TestWork:
    def test_done_with_its_result(self, studio, work, project):
        job = work.start("export", project, "Send", lambda report: {"file": "x.mp4"})
        found = ended(studio, job)
        assert (found.state, found.progress, found.result) == ("done", 1.0, {"file": "x.mp4"})

    def test_a_refusal_is_what_the_person_reads(self, studio, work, project):
        def task(report):
            raise Refusal("The disk is full. Make room.")

        found = ended(studio, work.start("export", project, "Send", task))
        assert (found.state, found.message) == ("failed", "The disk is full. Make room.")

    def test_an_unforeseen_error_does_not_end_the_work(self, studio, work, project):
        def task(report):
            raise ZeroDivisionError

        found = ended(studio, work.start("export", project, "Send Relay", task))
        assert "Send Relay failed, and the program did not see that coming" in found.message
        assert ended(studio, work.start("export", project, "Send", lambda report: {})).state == "done"

    def test_one_after_the_other_and_a_waiting_one_is_cancelled_at_once(self, studio, work, project):
        gate, began = threading.Event(), []

        def slow(report):
            began.append("slow")
            gate.wait(10)
            return {}

        first = work.start("export", project, "First", slow)
        second = work.start("export", project, "Second", lambda report: began.append("second") or {})
        cancelled = work.cancel(second.id)
        assert (cancelled.state, cancelled.message) == ("cancelled", "Cancelled before it began.")
        gate.set()
        assert ended(studio, first).state == "done"
        assert ended(studio, work.start("export", project, "Third", lambda report: {})).state == "done"
        assert began == ["slow"]

    def test_whichever_way_a_job_ends_what_comes_afterwards_comes_once(self, studio, work, project):
        gate, over = threading.Event(), []

        def refused(report):
            raise Refusal("No.")

        jobs = [
            work.start("export", project, "Slow", lambda report: gate.wait(10) and {}, lambda: over.append("slow")),
            work.start("export", project, "Refused", refused, lambda: over.append("refused")),
            work.start("export", project, "Never", lambda report: {}, lambda: over.append("never")),
        ]
        assert work.busy(project)
        assert not work.busy("another")
        work.cancel(jobs[2].id)
        assert over == ["never"]
        gate.set()
        assert [ended(studio, job).state for job in jobs] == ["done", "failed", "cancelled"]
        assert over == ["never", "slow", "refused"]
        assert not work.busy()

    @pytest.mark.parametrize(
        ("error", "sentence"),
        [
            (OSError(28, "No space left on device"), "the disk is full. Make room"),
            (PermissionError(13, "Permission denied", "/home/juno/secret"), "Permission denied. Check the disk"),
            (MemoryError(), "more memory than there is"),
            (av.error.InvalidDataError(1, "x"), "Import it again"),
            (sqlite3.OperationalError("database is locked"), "“nervykite doctor”"),
        ],
    )
    def test_an_error_is_told_with_what_to_do(self, studio, work, project, error, sentence):
        def task(report):
            raise error

        message = ended(studio, work.start("export", project, "Send Relay", task)).message
        assert message.startswith("Send Relay failed")
        assert sentence in message
        assert "juno" not in message

    def test_cancel_in_the_middle(self, studio, work, project):
        reached = threading.Event()

        def task(report):
            for n in range(10_000):
                report(n / 10_000)
                reached.set()
                time.sleep(0.002)
            return {}

        job = work.start("export", project, "Send", task)
        assert reached.wait(5)
        work.cancel(job.id)
        assert ended(studio, job).state == "cancelled"
        assert work.cancel(job.id).state == "cancelled"
        with pytest.raises(KeyError):
            work.cancel("nobody")

    def test_progress_comes_with_an_estimate(self, studio, work, project):
        seen, took = [], []

        def task(report):
            begun = time.monotonic()
            for n in range(1, 6):
                time.sleep(0.2)
                report(n / 10)
                seen.append(work.view(studio.jobs.get(job.id)))
                took.append(time.monotonic() - begun)
            return {}

        job = work.start("export", project, "Send", task)
        ended(studio, job)
        estimates = [v.remaining for v in seen if v.remaining is not None]
        assert len(estimates) >= 3
        assert estimates[-1] == pytest.approx(took[-1], rel=0.4)  # half is done: as long again


def test_news_reach_only_those_who_listen():
    async def scene():
        hub = Hub()
        hub.tell("p", ChangedNews(revision=0))  # before it runs, nobody hears
        hub.start()
        mine, other = hub.listen("p"), hub.listen("q")
        threading.Thread(target=hub.tell, args=("p", ChangedNews(revision=1))).start()
        assert await asyncio.wait_for(mine.get(), 2) == ChangedNews(revision=1)
        assert other.empty()
        hub.leave("p", mine)
        hub.tell("p", ChangedNews(revision=2))
        await asyncio.sleep(0.05)
        assert mine.empty()

    # In a thread of its own: a browser's test may have left a loop running in this one.
    with ThreadPoolExecutor(1) as pool:
        pool.submit(asyncio.run, scene()).result()


def test_packed_pictures_are_made_once_and_the_oldest_go():
    cache, made = Kept(25, len), []

    def picture(name):
        return lambda: made.append(name) or bytes(10)

    for name in "abac":
        cache.get(name, picture(name))
    assert made == ["a", "b", "c"]
    cache.get("a", picture("a"))
    cache.get("b", picture("b"))
    assert made == ["a", "b", "c", "b"]


class TestPictures:
    @pytest.fixture
    def scene(self, studio, project, tmp_path):
        """A studio, a carved project of it, and its layer."""
        source = studio.keep_file(make_video(tmp_path / "clip.mp4", size=(320, 240)))
        _shot, state = import_shot(studio, project, source, "clip.mp4")
        item = state.document.project.ground[0].id
        state = studio.projects.edit(project, HoldFrame(item=item, frame=5), None)
        layer = state.document.project.layers[0]
        matte = Matte(pieces=[box(40, 20, 140, 220)])
        studio.projects.edit(project, ChangeMatte(hold=layer.source.hold, matte=matte), None)
        return studio, project, layer.id

    def test_a_cutout_is_outlined_where_it_is(self, scene):
        studio, project, layer = scene
        document = studio.state(project).document
        at_rest = outline_of(Evaluation(document), document.layer(layer), 9)
        assert at_rest.corners == [(40, 20), (140, 20), (140, 220), (40, 220)]
        assert at_rest.anchor == (90, 120)
        assert outline_of(Evaluation(document), document.layer(layer), 2) is None
        for channel, value in (("rotation", [90]), ("scale", [0.5]), ("position", [10, -5])):
            document = SetValue(layer=layer, channel=channel, frame=9, value=value).apply(document)
        turned = outline_of(Evaluation(document), document.layer(layer), 9)
        assert turned.anchor == (100, 115)
        assert turned.corners[0] == (150, 90)
        values = turned.values
        assert {k: v for k, v in values.items() if v != at_rest.values[k]} == {
            "position": [10, -5], "across": [10], "down": [-5], "scale": [0.5], "rotation": [90],
        }  # fmt: skip
        assert (values["opacity"], values["width"], values["shear"], values["anchor"]) == ([1], [1], [0], [90, 120])

    def test_keys_tell_frames_apart_that_look_different(self, scene):
        studio, project, layer = scene
        for tie, value in (("landing", 0.0), ("end", 90.0)):
            key = Key(channel="rotation", tie=tie, offset=0, value=[value])
            studio.projects.edit(project, SetKey(layer=layer, key=key), None)
        state = studio.state(project)
        before = FrameKeys(studio.evaluation(state))
        keys = before.of(0, 24)
        assert len(set(keys)) == 24
        dressed = studio.projects.edit(project, ChangeLayer(layer=layer, finishes=[Finish(kind="outline")]), None)
        known = FrameKeys(studio.evaluation(dressed), before)
        after = known.of(0, 24)
        assert known.stale == [(5, 24)]
        assert [a == b for a, b in zip(keys, after, strict=True)] == [True] * 5 + [False] * 19
        undone = studio.projects.undo(project)
        assert FrameKeys(studio.evaluation(undone), known).of(0, 24) == keys

    def test_the_same_frame_is_packed_once(self, scene, monkeypatch):
        from nervykite.server import pictures as module

        studio, project, _layer = scene
        packed = []
        real = module.jpeg
        monkeypatch.setattr(module, "jpeg", lambda *a: packed.append(1) or real(*a))
        pictures, state = Pictures(studio), studio.state(project)
        evaluation = studio.evaluation(state)
        for _ in range(3):
            pictures.frame(state.document, evaluation.at(9), (160, 120))
        assert len(packed) == 1
        pictures.frame(state.document, evaluation.at(9), (320, 240))
        assert len(packed) == 2

    def test_a_state_is_read_again_only_when_it_changed(self, scene):
        studio, project, layer = scene
        first = studio.state(project)
        assert studio.state(project) is first
        studio.projects.edit(project, SetValue(layer=layer, channel="opacity", frame=9, value=[0.5]), None)
        assert studio.state(project).revision == first.revision + 1
        with pytest.raises(Missing):
            studio.state("nobody")
