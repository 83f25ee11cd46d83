"""Documents in the database: round trips, undo across restarts, refusals, and a crash in the middle."""

import os
import signal
import sqlite3
import subprocess
import sys
import time

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from nervykite.cli import main
from nervykite.core.change.edits import (
    AddPlate,
    ChangeGround,
    ChangeLayer,
    ChangeMatte,
    DuplicateLayer,
    HoldFrame,
    MoveLayer,
    RemoveLayer,
    RenameProject,
    SetKey,
    SetLoop,
    SetPlate,
    SetValue,
    client_edit,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.send.export import Output
from nervykite.core.draw.send.writers.mp4 import Mp4
from nervykite.core.piece.model import Document, Finish, Key, Matte, Project, Tied
from nervykite.store import database
from nervykite.store.database import Database
from nervykite.store.projects import Missing, Projects, Stale
from nervykite.store.rows import difference, read_shot
from nervykite.studio import Studio
from nervykite.studio.importing import import_shot

from ..conftest import box
from ..media import make_video


@pytest.fixture
def project(studio, tmp_path):
    """A project with one shot; gives its id."""
    project = studio.projects.new("Relay").document.project.id
    source = studio.keep_file(make_video(tmp_path / "clip.mp4", sound=True))
    import_shot(studio, project, source, "clip.mp4")
    return project


def some_edits(document: Document):
    """Edits that touch every table, each made from the document before it."""
    item = document.project.ground[0].id
    yield lambda d: HoldFrame(item=item, frame=6)
    yield lambda d: ChangeMatte(hold=d.project.layers[0].source.hold, matte=Matte(pieces=[box(4, 5, 90, 80)], grow=1.5))
    yield lambda d: SetKey(
        layer=d.project.layers[0].id, key=Key(channel="position", tie="end", offset=-3, value=[1.5, -2])
    )
    yield lambda d: ChangeLayer(layer=d.project.layers[0].id, finishes=[Finish(kind="outline")], anchor=(3.5, 4))
    yield lambda d: DuplicateLayer(layer=d.project.layers[0].id, separate=True)
    yield lambda d: MoveLayer(layers=[d.project.layers[0].id], to=1)
    yield lambda d: ChangeGround(item=item, finishes=[Finish(kind="soft-blur", settings={"radius": 9})])
    yield lambda d: SetLoop(loop=(2, 20))
    yield lambda d: RemoveLayer(layer=d.project.layers[0].id)
    yield lambda d: RenameProject(name="Evening relay")


class TestUndo:
    def test_every_edit_comes_back_and_goes_again(self, studio, project):
        states = [studio.projects.state(project)]
        for make in some_edits(states[0].document):
            states.append(studio.projects.edit(project, make(states[-1].document), states[-1].revision))
        for before in reversed(states[:-1]):
            assert studio.projects.undo(project).document == before.document
        assert studio.projects.state(project).redo == states[1].undo
        for after in states[1:]:
            assert studio.projects.redo(project).document == after.document

    def test_reaches_back_across_restarts(self, studio, project, tmp_path):
        before = studio.projects.state(project).document
        for make in some_edits(before):
            studio.projects.edit(project, make(studio.projects.state(project).document), None)
        studio.close()
        again = Studio(tmp_path / "data")
        again.recover()
        while again.projects.state(project).undo != "import clip":
            again.projects.undo(project)
        assert again.projects.state(project).document == before
        again.close()

    def test_a_new_edit_ends_redo(self, studio, project):
        studio.projects.edit(project, RenameProject(name="One"), None)
        studio.projects.undo(project)
        state = studio.projects.edit(project, RenameProject(name="Two"), None)
        assert (state.undo, state.redo) == ("rename project to Two", None)

    def test_nothing_done_leaves_no_step(self, studio, project):
        before = studio.projects.state(project)
        assert studio.projects.edit(project, RenameProject(name="Relay"), None) == before

    @given(st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=25), st.randoms(use_true_random=False))
    @settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
    def test_any_walk_ends_where_the_log_says(self, studio, walk, random):
        """A stack of documents kept beside the store agrees with it at every step."""
        project = studio.projects.new("Walk").document.project.id
        done, undone = [studio.projects.state(project).document], []
        for number, step in enumerate(walk):
            if step == "edit":
                name = f"Name {len(done)} {random.random()} {number}"
                done.append(studio.projects.edit(project, RenameProject(name=name), None).document)
                undone = []
            elif step == "undo" and len(done) > 1:
                undone.append(done.pop())
                studio.projects.undo(project)
            elif step == "redo" and undone:
                done.append(undone.pop())
                studio.projects.redo(project)
            assert studio.projects.state(project).document == done[-1]


class TestProjects:
    def test_stale_edits_are_refused_with_the_newer_revision(self, studio, project):
        state = studio.projects.state(project)
        studio.projects.edit(project, RenameProject(name="One"), state.revision)
        with pytest.raises(Stale) as error:
            studio.projects.edit(project, RenameProject(name="Two"), state.revision)
        assert error.value.revision == state.revision + 1
        assert studio.projects.state(project).document.project.name == "One"

    def test_refused_edits_change_nothing(self, studio, project):
        before = studio.projects.state(project)
        with pytest.raises(Refusal):
            studio.projects.edit(project, SetLoop(loop=(0, 999)), None)
        assert studio.projects.state(project) == before

    def test_an_id_of_another_project_is_refused(self, studio, project):
        document = studio.projects.state(project).document
        layer = studio.projects.edit(project, HoldFrame(item=document.project.ground[0].id, frame=3), None)
        other = studio.duplicate(project).document
        hold = layer.document.project.layers[0].source.hold
        theft = Key(channel="scale", tie="start", offset=0, value=[2])
        studio.projects.edit(project, SetKey(layer=layer.document.project.layers[0].id, key=theft), None)
        before = studio.projects.state(project)
        mine = other.project.layers[0].id
        with pytest.raises(Refusal, match="id in it is taken"):
            studio.projects.edit(other.project.id, SetKey(layer=mine, key=theft), None)
        assert studio.projects.state(project) == before
        assert hold not in other.holds

    def test_duplicate_is_alike_and_on_its_own(self, studio, project):
        for make in some_edits(studio.projects.state(project).document):
            studio.projects.edit(project, make(studio.projects.state(project).document), None)
        source = studio.projects.state(project).document
        copy = studio.duplicate(project)
        assert copy.document.project.name == "Evening relay 2"
        assert copy.undo is None
        ids = [{c["id"] for c in difference(None, d)} for d in (source, copy.document)]
        assert ids[0] & ids[1] == set()
        first, second = source.project.layers[0], copy.document.project.layers[0]
        assert (first.name, first.anchor, len(first.keys)) == (second.name, second.anchor, len(second.keys))

    def test_delete_and_restore(self, studio, project):
        studio.projects.delete(project)
        assert studio.projects.list() == []
        studio.projects.restore(project)
        assert [e.name for e in studio.projects.list()] == ["Relay"]

    def test_found_by_name_or_id(self, studio, project):
        assert studio.projects.find("Relay") == studio.projects.find(project) == project
        with pytest.raises(Missing, match="There is no project “Regatta”"):
            studio.projects.find("Regatta")
        studio.projects.create(Document(project=Project(name="Relay")))
        with pytest.raises(Missing, match="2 projects are named"):
            studio.projects.find("Relay")


class TestFiles:
    def test_same_content_is_kept_once(self, studio, tmp_path):
        path = make_video(tmp_path / "clip.mp4", frames=2)
        assert studio.keep_file(path) == studio.keep_file(path)

    def test_names_never_become_paths(self, studio):
        for name in ("../" * 30 + "etc/passwd", "a" * 63, "A" * 64):
            with pytest.raises(ValueError, match="not the hash"):
                studio.files.path(name)

    def test_half_written_files_are_swept(self, studio):
        with pytest.raises(RuntimeError), studio.files.incoming() as coming:
            coming.write(b"half")
            raise RuntimeError
        assert not coming.path.exists()
        left = studio.folder / "files" / "new" / "left"
        left.write_bytes(b"from a crash")
        studio.recover()
        assert not left.exists()


class TestDatabase:
    def test_migrates_once_and_keeps_what_is_there(self, tmp_path):
        first = Projects(Database(tmp_path / "x.sqlite"))
        first.new("Kept")
        assert [e.name for e in Projects(Database(tmp_path / "x.sqlite")).list()] == ["Kept"]

    def test_shots_from_before_cuts_were_known_are_one_take(self, tmp_path, monkeypatch):
        before = tmp_path / "migrations"
        before.mkdir()
        for script in sorted(database.MIGRATIONS.glob("*.sql"))[:2]:
            (before / script.name).write_bytes(script.read_bytes())
        monkeypatch.setattr(database, "MIGRATIONS", before)
        old = Database(tmp_path / "x.sqlite")
        columns = {
            "id": "0" * 16, "name": "Old", "file": "f" * 64, "proxy_file": "f" * 64, "width": 16, "height": 16,
            "rate": "30", "variable": 0, "tick": "1/30",
            "ticks": np.array([0, 1, 2], "<i8").tobytes(), "colour": "BT.709", "depth": 8, "rotation": 0,
            "has_sound": 0,
        }  # fmt: skip
        with old.writing() as connection:
            connection.execute("INSERT INTO files (hash, size) VALUES (?, 1)", ["f" * 64])
            marks = ", ".join("?" * len(columns))
            connection.execute(f"INSERT INTO shots ({', '.join(columns)}) VALUES ({marks})", [*columns.values()])
        monkeypatch.undo()
        with Database(tmp_path / "x.sqlite").reading() as connection:
            shot = read_shot(connection.execute("SELECT * FROM shots").fetchone())
        assert (shot.name, shot.cuts, shot.take(1)) == ("Old", [], range(2))

    def test_constraints_hold(self, studio, project):
        with pytest.raises(sqlite3.IntegrityError), studio.database.writing() as connection:
            connection.execute("UPDATE projects SET width = 101")
        with pytest.raises(sqlite3.IntegrityError), studio.database.writing() as connection:
            connection.execute(
                "INSERT INTO layers (id, project, position, name, kind, hold, settings, over, arrangement, arranging,"
                " anchor, visible, locked, pose_position, pose_scale, pose_rotation, pose_opacity)"
                " SELECT 'x', project, 0, 'n', 'hold', 'nohold', '{}', 'noitem', 'trail', '{}', 'null', 1, 0,"
                " '[0, 0]', 1, 0, 1 FROM ground_items"
            )

    def test_difference_is_only_what_changed(self, studio, project):
        document = studio.projects.state(project).document
        after = RenameProject(name="Other").apply(document)
        (change,) = difference(document, after)
        assert (change["table"], change["after"]["name"]) == ("projects", "Other")


WORKER = """
import sys
from pathlib import Path
from nervykite.core.change.edits import SetValue, RenameProject
from nervykite.studio import Studio
studio = Studio(Path(sys.argv[1]))
project, layer = sys.argv[2], sys.argv[3]
n = 0
while True:
    n += 1
    state = studio.projects.edit(project, SetValue(layer=layer, channel="position", frame=6, value=[n, -n]), None)
    print(n, state.revision, flush=True)
"""

EXPORTER = """
import sys
import nervykite.studio.asked_to_send
from nervykite.cli import main

def stays(as_json):
    return lambda share: share >= 0.3 and (print("in the middle", flush=True), sys.stdin.read())

nervykite.studio.asked_to_send.progress_shown = stays
main(["export", "Relay", "--data", sys.argv[1], "--to", *sys.argv[2:]])
"""

FULL = """
import resource, sys
import nervykite.studio.asked_to_send
from nervykite.cli import main

def full(as_json):
    resource.setrlimit(resource.RLIMIT_FSIZE, (900, 900))
    return lambda share: None

nervykite.studio.asked_to_send.progress_shown = full
sys.exit(main(["export", "Relay", "--data", sys.argv[1], "--to", *sys.argv[2:]]))
"""

WAYS = {
    "piece.mp4": [],
    "small.mp4": ["--set", "under=2"],
    "newer.mp4": ["--set", "codec=av1"],
    "piece.mov": [],
    "piece.webm": [],
    "piece.gif": [],
    "piece.webp": [],
    "pictures.zip": [],
    "fine.zip": ["--set", "pictures=tiff", "--set", "depth=16"],
    "piece.kite.zip": [],
}


def little_piece(studio, folder):
    """Leaves a project called Relay in the studio's folder, of a second with sound."""
    project = studio.projects.new("Relay").document.project.id
    source = studio.keep_file(make_video(folder / "clip.mp4", frames=24, size=(96, 64), sound=True))
    import_shot(studio, project, source, "clip.mp4")
    studio.close()


class TestKilled:
    def test_in_mid_edit_what_was_accepted_is_there(self, studio, project, tmp_path):
        document = studio.projects.state(project).document
        item = document.project.ground[0].id
        layer = studio.projects.edit(project, HoldFrame(item=item, frame=6), None).document.project.layers[0].id
        studio.close()
        for wait in (0.05, 0.2, 0.33):
            worker = subprocess.Popen(
                [sys.executable, "-c", WORKER, str(tmp_path / "data"), project, layer],
                stdout=subprocess.PIPE,
                text=True,
            )
            first = worker.stdout.readline()
            assert first
            time.sleep(wait)
            os.kill(worker.pid, signal.SIGKILL)
            accepted = [first, *worker.stdout.read().splitlines()]
            worker.wait()
            worker.stdout.close()
            n, revision = map(int, accepted[-1].split())
            again = Studio(tmp_path / "data")
            state = again.projects.state(project)
            assert state.revision >= revision
            position = state.document.layer(layer).pose.position
            assert position in ((n, -n), (n + 1, -n - 1))  # the last one may be there without its answer
            with again.database.reading() as connection:
                assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
                assert connection.execute("PRAGMA foreign_key_check").fetchall() == []
            again.close()

    @pytest.mark.parametrize("name", WAYS)
    def test_in_mid_export_no_half_file_has_the_final_name(self, studio, tmp_path, name):
        little_piece(studio, tmp_path)
        out = tmp_path / "out" / name
        out.parent.mkdir()
        out.write_text("the version before")
        command = [sys.executable, "-c", EXPORTER, str(tmp_path / "data"), str(out), *WAYS[name]]
        worker = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        assert worker.stdout.readline() == "in the middle\n"
        os.kill(worker.pid, signal.SIGKILL)
        worker.communicate()
        assert out.read_text() == "the version before"
        assert [p for p in out.parent.iterdir() if not p.name.startswith(".") and p != out] == []
        main(["export", "Relay", "--data", str(tmp_path / "data"), "--to", str(out), *WAYS[name]])
        assert out.stat().st_size > 1000
        assert list(out.parent.iterdir()) == [out]


@pytest.mark.parametrize("name", WAYS)
def test_on_a_full_disk_a_format_says_so_and_leaves_nothing(studio, tmp_path, name):
    little_piece(studio, tmp_path)
    out = tmp_path / "out" / name
    out.parent.mkdir()
    command = [sys.executable, "-c", FULL, str(tmp_path / "data"), str(out), *WAYS[name]]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert f"{name} cannot be written" in done.stderr
    assert list(out.parent.iterdir()) == []


@pytest.mark.parametrize(
    "name", ["凧の中継.mp4", "سباق الطائرات.webm", "Óðinn — drachen.gif", "कागज़.kite.zip", "風.mov"]
)
def test_names_in_any_script(studio, tmp_path, name):
    little_piece(studio, tmp_path)
    assert main(["export", "Relay", "--data", str(tmp_path / "data"), "--to", str(tmp_path / name)]) == 0
    assert (tmp_path / name).stat().st_size > 1000


@pytest.mark.parametrize("name", WAYS)
def test_a_name_that_a_folder_has_is_refused(studio, tmp_path, name, capsys):
    little_piece(studio, tmp_path)
    (tmp_path / "out" / name).mkdir(parents=True)
    arguments = ["--data", str(tmp_path / "data"), "--to", str(tmp_path / "out" / name), *WAYS[name]]
    assert main(["export", "Relay", *arguments]) == 1
    assert "Choose another place" in capsys.readouterr().err
    assert [p.name for p in (tmp_path / "out").iterdir()] == [name]


def test_jobs_that_a_crash_broke_off_end_with_a_sentence(studio, project):
    job = studio.jobs.add("export", project, "Send Relay")
    studio.jobs.update(job.id, "running", 0.4)
    part = studio.exports / ".Relay.mp4.part"
    part.write_bytes(b"half")
    studio.recover()
    ended = studio.jobs.get(job.id)
    assert ended.state == "failed"
    assert "stopped before this was done" in ended.message
    assert not part.exists()
    value = SetValue(layer="0" * 16, channel="scale", frame=0, value=[1])
    with pytest.raises(Refusal, match="no longer there"):
        studio.projects.edit(project, value, None)


class TestTogether:
    def test_edits_from_two_threads_are_all_made(self, studio, project):
        from concurrent.futures import ThreadPoolExecutor

        item = studio.projects.state(project).document.project.ground[0].id
        before = studio.projects.state(project).revision
        with ThreadPoolExecutor(4) as pool:
            list(pool.map(lambda f: studio.projects.edit(project, HoldFrame(item=item, frame=f), None), range(12)))
        state = studio.projects.state(project)
        assert state.revision == before + 12
        assert sorted(h.frame for h in state.document.holds.values()) == list(range(12))
        assert len({x.name for x in state.document.project.layers}) == 12

    def test_of_two_edits_on_one_revision_one_is_stale(self, studio, project):
        from concurrent.futures import ThreadPoolExecutor

        revision = studio.projects.state(project).revision

        def rename(n):
            try:
                return studio.projects.edit(project, RenameProject(name=f"Name {n}"), revision).revision
            except Stale as stale:
                return -stale.revision

        with ThreadPoolExecutor(4) as pool:
            results = list(pool.map(rename, range(4)))
        assert sorted(results) == [-(revision + 1)] * 3 + [revision + 1]


class TestExports:
    def test_names_come_from_the_project_and_never_clash(self, studio):
        document = Document(project=Project(name="Kite: the / relay…"))
        first = studio.export_path(document, ".mp4")
        assert first.parent == studio.exports
        assert first.name == "Kite the  relay.mp4"
        first.touch()
        assert studio.export_path(document, ".mp4").name == "Kite the  relay 2.mp4"
        assert studio.export_path(Document(project=Project(name="???")), ".mp4").name == "Piece.mp4"

    def test_a_folder_that_is_not_there_gets_a_sentence(self, studio, tmp_path):
        with pytest.raises(Refusal, match="There is no folder"):
            studio.export(Document(project=Project(name="x")), Output(tmp_path / "no" / "x.mp4", Mp4()))


class TestOldFolders:
    """Data folders from before kinds and ties: they open, and what was at an absolute frame is tied."""

    OLD = (
        ("projects", "'p', 'Old', 160, 120, '30', '#000000', 2, 20, 7, '2026-01-01', NULL"),
        ("project_shots", "'p:s', 'p', 's', 0"),
        ("ground_items", "'g1', 'p', 0, 'shot', 's', 0, 24, 'cover', NULL"),
        ("ground_items", "'g2', 'p', 1, 'plate', 's', 6, 16, 'contain', '{plate}'"),
        ("ground_items", "'g3', 'p', 2, 'shot', 's', 0, 24, 'cover', NULL"),
        ("holds", "'h', 'p', 's', 6, 'Hold', 0, 1.5, 2.0, 1.0, 0, 0, 0.8, NULL, 2, 12"),
        ("pieces", "'k', 'p', 'h', 0, 'box', 'Body', 'add', 0, 1, 1, '{nodes}', 0, 0, 0"),
        ("layers", "'a', 'p', 0, 'Trail', 'h', 'g3', 'trail', 50, 3.5, 4, 1, 0, 9, -9, 2, 30, 0.5, 1"),
        ("layers", "'b', 'p', 1, 'Waits', 'h', 'g3', 'ahead', 20, NULL, NULL, 1, 0, 0, 0, 1, 0, 1, 0"),
        ("layers", "'c', 'p', 2, 'Runs', 'h', 'g1', 'along', NULL, NULL, NULL, 1, 1, 0, 0, 1, 0, 1, 0"),
        ("layers", "'d', 'p', 3, 'All', 'h', 'g1', 'trail', 99, NULL, NULL, 0, 0, 0, 0, 1, 0, 1, 0"),
        ("keys", "'q', 'p', 'a', 0, 'position', 'end', -3, 1.5, -2, 'bezier', 0.1, 0, 0.9, 1"),
        ("keys", "'r', 'p', 'a', 1, 'opacity', 'start', 0, 0.25, NULL, 'stay', 0, 0, 1, 1"),
        ("finishes", "'f', 'p', 'a', NULL, 0, 'outline', 1, '{width}'"),
        ("jobs", "'j', 'export', 'p', 'Send Old', 'done', 1, NULL, NULL, '2026-01-01'"),
        ("edits", "'p', 1, 'hold frame 6', '[]', 0, '2026-01-01'"),
    )

    def test_everything_is_there_and_tied(self, tmp_path, monkeypatch):
        before = tmp_path / "migrations"
        before.mkdir()
        for script in sorted(database.MIGRATIONS.glob("*.sql"))[:3]:
            (before / script.name).write_bytes(script.read_bytes())
        monkeypatch.setattr(database, "MIGRATIONS", before)
        old = Database(tmp_path / "nervykite.sqlite")
        names = ("p", "s", "g1", "g2", "g3", "h", "k", "a", "b", "c", "d", "q", "r", "f", "j")
        ids = {x: x.encode().hex().rjust(16, "0") for x in names}
        ticks = np.arange(25, dtype="<i8").tobytes()
        plate = "e" * 64
        json_of = {
            "{plate}": plate,
            "{nodes}": '{"nodes":[{"x":1,"y":1},{"x":9,"y":1},{"x":9,"y":9}]}',
            "{width}": '{"width":5.0,"colour":"#FFFFFF","opacity":1.0}',
        }
        with old.writing() as connection:
            connection.execute("INSERT INTO files (hash, size) VALUES (?, 1)", ["f" * 64])
            connection.execute(
                "INSERT INTO shots VALUES (?, 'Clip', ?, ?, NULL, 160, 120, '30', 0, '1/30', ?, 'BT.709', 8, 0, 0,"
                " NULL, '[]')",
                [ids["s"], "f" * 64, "f" * 64, ticks],
            )
            for table, values in self.OLD:
                for name, id_ in ids.items():
                    values = values.replace(f"'{name}'", f"'{id_}'").replace(f"'{name}:", f"'{id_}:")
                for name, text in json_of.items():
                    values = values.replace(name, text)
                connection.execute(f"INSERT INTO {table} VALUES ({values})")
        monkeypatch.undo()
        projects = Projects(Database(tmp_path / "nervykite.sqlite"))
        state = projects.state(ids["p"])
        document = state.document
        assert (state.revision, state.undo, document.project.loop) == (7, None, (2, 20))
        assert [(g.source.kind, g.framing.mode) for g in document.project.ground] == [
            ("shot", "fill"), ("plate", "fit"), ("shot", "fill"),
        ]  # fmt: skip
        assert document.project.ground[1].source.plate == plate
        layers = {x.name: x for x in document.project.layers}
        # The third item begins at 24 + 10, and shows frame 6 at 40.
        assert layers["Trail"].ends == Tied(to="landing", offset=10)
        assert layers["Waits"].starts == Tied(to="landing", offset=-20)
        assert layers["All"].ends == Tied(to="piece end")
        assert (layers["Runs"].source.kind, layers["Runs"].arrangement.kind) == ("moving", "along")
        trail = layers["Trail"]
        assert (trail.source.fill, trail.anchor, trail.pose.position) == (True, (3.5, 4), (9, -9))
        assert [(k.channel, k.value, k.easing.kind) for k in trail.keys] == [
            ("position", [1.5, -2], "bezier"), ("opacity", [0.25], "stay"),
        ]  # fmt: skip
        assert trail.finishes[0].settings["width"] == 5
        hold = document.holds[ids["h"]]
        assert (hold.matte.soften_in, hold.matte.soften_out, hold.matte.grow) == (1, 2, 1.5)
        assert hold.matte.pieces[0].name == "Body"
        assert hold.travel.past == 12
        named = projects.edit(ids["p"], RenameProject(name="New"), 7)
        assert named.document.project.name == "New"
        assert projects.undo(ids["p"]).document == document


class TestWhatCouldNotBeShown:
    """An edit is laid out in time before it is stored: what could not be shown is refused, and nothing is kept."""

    def test_numbers_that_no_shot_has_are_not_taken(self):
        for body in (
            {"kind": "change ground", "item": "0" * 16, "past": 10**15},
            {"kind": "set value", "layer": "0" * 16, "channel": "scale", "frame": 10**15, "value": [1]},
            {"kind": "set loop", "loop": [0, 10**15]},
        ):
            with pytest.raises(ValueError, match="less than or equal to 10000000"):
                client_edit.validate_python(body)

    def test_a_piece_is_at_most_six_hours_long(self, studio, project):
        state = studio.projects.state(project)
        item = state.document.project.ground[0].id
        hold = studio.projects.edit(project, HoldFrame(item=item, frame=3), None).document.project.layers[0].source.hold
        plate = studio.keep_picture(np.zeros((120, 160, 3), np.uint8))
        studio.edit(project, SetPlate(hold=hold, plate=plate), None)
        added = studio.edit(project, AddPlate(hold=hold, frames=100_000), None)
        last = added.document.project.ground[-1].id
        with pytest.raises(Refusal, match="at most 6 hours"):
            studio.edit(project, ChangeGround(item=last, past=9_000_000), None)
        assert studio.projects.state(project) == added

    def test_what_breaks_on_the_way_is_refused_and_nothing_is_stored(self, studio, project, monkeypatch):
        before = studio.projects.state(project)
        monkeypatch.setattr("nervykite.core.tell.shown.Timeline", lambda *_: 1 / 0)
        with pytest.raises(Refusal, match="could not be shown"):
            studio.edit(project, RenameProject(name="Other"), None)
        monkeypatch.undo()
        assert studio.projects.state(project) == before
        assert Studio(studio.folder).projects.state(project).document == before.document
