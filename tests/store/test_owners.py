"""Who needs which files: nothing that is needed goes, nothing that is not needed stays."""

import re

import numpy as np
import pytest

from nervykite.core.change.edits import ChangeMatte, HoldFrame, RenameProject, SetPlate
from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Found, Matte, Raster
from nervykite.store.database import MIGRATIONS
from nervykite.studio import Studio
from nervykite.studio.importing import import_shot

from ..media import make_video
from .layouts import without_motion


def oval(size=(120, 160), level=255) -> np.ndarray:
    """An alpha."""
    y, x = np.mgrid[: size[0], : size[1]]
    return np.where((x - 80) ** 2 + (y - 60) ** 2 < 900, level, 0).astype(np.uint8)


def found(file: str) -> Matte:
    """A matte of one found piece."""
    return Matte(pieces=[Found(kind="picture", raster=Raster(file=file, box=(50, 30, 110, 90)))])


def kept(studio) -> set[str]:
    """The hashes of all files that are there."""
    return {p.name for p in (studio.folder / "files").glob("??/*")}


@pytest.fixture
def project(studio, tmp_path):
    """A project with a shot of which a frame is held."""
    project = studio.projects.new("Relay").document.project.id
    source = studio.keep_file(make_video(tmp_path / "clip.mp4", sound=True))
    state = import_shot(studio, project, source, "clip.mp4")[1]
    studio.edit(project, HoldFrame(item=state.document.project.ground[0].id, frame=6), None)
    return project


def hold_of(studio, project: str) -> str:
    return next(iter(studio.state(project).document.holds))


class TestNeeded:
    def test_a_shot_and_all_that_is_made_of_it_stays(self, studio, project):
        before = kept(studio)
        assert len(before) == 3
        assert studio.tidy(0).files == 0
        assert kept(studio) == before

    def test_mattes_plates_and_saved_mattes_stay(self, studio, project):
        matte, plate, saved = (
            studio.keep_picture(p) for p in (oval(), np.full((120, 160, 3), 90, np.uint8), oval(level=99))
        )
        studio.edit(project, ChangeMatte(hold=hold_of(studio, project), matte=found(matte)), None)
        studio.edit(project, SetPlate(hold=hold_of(studio, project), plate=plate), None)
        on_shelf = studio.mattes.add("Oval", 160, 120, found(saved))
        assert studio.tidy(0).files == 0
        assert {matte, plate, saved} <= kept(studio)
        studio.mattes.remove(on_shelf.id)
        assert studio.tidy(0).files == 1
        assert saved not in kept(studio)

    def test_what_undo_and_redo_bring_back_stays_until_it_cannot_be_had_any_more(self, studio, project):
        first, second = studio.keep_picture(oval()), studio.keep_picture(oval(level=99))
        for file in (first, second):
            studio.edit(project, ChangeMatte(hold=hold_of(studio, project), matte=found(file)), None)
        studio.projects.undo(project)
        studio.projects.undo(project)
        assert studio.tidy(0).files == 0
        studio.projects.redo(project)
        assert studio.tidy(0).files == 0
        studio.edit(project, RenameProject(name="Other"), None)  # the second can no longer be redone
        assert studio.tidy(0).files == 1
        assert (first in kept(studio), second in kept(studio)) == (True, False)

    def test_an_undone_import_goes_once_it_cannot_be_redone(self, studio, tmp_path):
        project = studio.projects.new("Relay").document.project.id
        source = studio.keep_file(make_video(tmp_path / "clip.mp4"))
        import_shot(studio, project, source, "clip.mp4")
        studio.projects.undo(project)
        assert studio.tidy(0).files == 0
        studio.edit(project, RenameProject(name="Other"), None)
        assert studio.tidy(0).files == 2
        assert kept(studio) == set()

    def test_a_copy_of_a_project_needs_what_it_shows_for_itself(self, studio, project):
        matte = studio.keep_picture(oval())
        studio.edit(project, ChangeMatte(hold=hold_of(studio, project), matte=found(matte)), None)
        copy = studio.duplicate(project).document.project.id
        studio.projects.delete(project)
        studio.projects.forget(project)
        assert studio.tidy(0).files == 0
        assert studio.state(copy).document.holds
        studio.projects.delete(copy)
        studio.projects.forget(copy)
        assert studio.tidy(0).files == 4
        assert kept(studio) == set()

    def test_a_failed_import_leaves_a_file_of_the_same_bytes_that_is_a_plate(self, studio, project):
        plate = studio.keep_picture(np.full((8, 8, 3), 90, np.uint8))  # too small for a shot, so importing it fails
        studio.edit(project, SetPlate(hold=hold_of(studio, project), plate=plate), None)
        with studio.files.incoming() as coming:
            coming.write(studio.files.path(plate).read_bytes())
            assert studio.files.keep(coming) == plate
        with pytest.raises(Refusal, match="8 × 8"):
            import_shot(studio, project, plate, "small.png")
        studio.tidy(0)
        assert plate in kept(studio)


class TestGivenBack:
    def test_what_is_new_stays_a_while(self, studio):
        file = studio.keep_picture(oval())
        assert studio.tidy().files == 0
        assert studio.tidy(0).files == 1
        assert file not in kept(studio)

    def test_what_a_crash_left_before_it_was_recorded_goes(self, studio):
        lost = studio.folder / "files" / "ab" / ("ab" * 32)
        lost.parent.mkdir()
        lost.write_bytes(b"half")
        assert studio.tidy().files == 0  # it may be about to be recorded
        given = studio.tidy(0)
        assert (given.files, given.bytes, lost.exists()) == (1, 4, False)

    def test_deleted_projects_go_after_a_week(self, studio, project):
        studio.projects.delete(project)
        (entry,) = studio.projects.list(deleted=True)
        assert entry.bytes == sum(p.stat().st_size for p in (studio.folder / "files").glob("??/*"))
        studio.tidy(0)
        studio.projects.restore(project)
        studio.projects.delete(project)
        with studio.database.writing() as connection:
            connection.execute("UPDATE projects SET deleted = '2020-01-01T00:00:00.000Z'")
        studio.tidy(0)
        assert studio.projects.list(deleted=True) == []
        assert kept(studio) == set()

    def test_only_a_deleted_project_can_be_forgotten(self, studio, project):
        with pytest.raises(Refusal, match="not among the deleted"):
            studio.projects.forget(project)


class TestRefused:
    """An edit that refers to a stored picture that is none is not stored."""

    def test_wrong_things_behind_a_hash(self, studio, project):
        shot = next(iter(studio.state(project).document.shots.values()))
        plate, alpha = studio.keep_picture(np.full((120, 160, 3), 90, np.uint8)), studio.keep_picture(oval())
        hold, revision = hold_of(studio, project), studio.state(project).revision
        outside = Matte(pieces=[Found(kind="picture", raster=Raster(file=alpha, box=(0, 0, 161, 120)))])
        for edit, sentence in (
            (ChangeMatte(hold=hold, matte=found("f" * 64)), "no longer in the data folder"),
            (ChangeMatte(hold=hold, matte=found(shot.file)), "is not a picture"),
            (ChangeMatte(hold=hold, matte=found(plate)), "of another kind"),
            (ChangeMatte(hold=hold, matte=outside), "outside its 160 × 120"),
            (SetPlate(hold=hold, plate=alpha), "of another kind"),
        ):
            with pytest.raises(Refusal, match=sentence):
                studio.edit(project, edit, None)
        assert studio.state(project).revision == revision


def layers_as_they_were(connection):
    """Puts the table of layers back to what the fourth migration made of it."""
    text = (MIGRATIONS / "0004.py").read_text()
    made = re.search(r"CREATE TABLE new_layers \(.*?\) STRICT;", text, re.DOTALL)[0]
    connection.execute("PRAGMA defer_foreign_keys = ON")
    connection.execute(made)
    names = [row["name"] for row in connection.execute("PRAGMA table_info(new_layers)")]
    connection.execute(f"INSERT INTO new_layers SELECT {', '.join(names)} FROM layers")
    connection.execute("DROP TABLE layers")
    connection.execute("ALTER TABLE new_layers RENAME TO layers")
    connection.execute("DROP TABLE assets")
    connection.execute("DROP TABLE watched")
    connection.execute("ALTER TABLE moments DROP COLUMN tag")


def test_a_folder_from_before_owners_were_known_loses_nothing(studio, project):
    matte = studio.keep_picture(oval())
    studio.edit(project, ChangeMatte(hold=hold_of(studio, project), matte=found(matte)), None)
    studio.projects.undo(project)
    stray = studio.keep_picture(oval(level=12))
    studio.close()
    with studio.database.writing() as connection:  # as it was before
        for index in ("file", "proxy_file", "sound_file"):
            connection.execute(f"DROP INDEX shots_by_{index}")
        for table in ("file_owners", "shot_owners"):
            connection.execute(f"DROP TABLE {table}")
        without_motion(connection)
        connection.execute("ALTER TABLE ground_items DROP COLUMN fade")
        layers_as_they_were(connection)
        connection.execute("PRAGMA user_version = 4")
    again = Studio(studio.folder)
    assert again.tidy(0).files == 1
    assert matte in kept(again)
    assert stray not in kept(again)
    (piece,) = again.projects.redo(project).document.holds[hold_of(again, project)].matte.pieces
    assert piece.raster.file == matte
    again.close()
