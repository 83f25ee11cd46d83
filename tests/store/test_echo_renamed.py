"""Copies beside something were once called its echo: pieces from then open as they were, and so does their log."""

from nervykite.core.change.edits import ChangeLayer, KeepSet
from nervykite.core.piece.model import Finish
from nervykite.studio import Studio

from .layouts import with_copies_called_echo
from .test_owners import project  # noqa: F401


def test_a_folder_from_before_keeps_its_copies_in_table_set_and_log(studio, project):  # noqa: F811
    layer = studio.state(project).document.project.layers[0].id
    worn = Finish(kind="repeat", settings={"count": 3, "distance": 40.0})
    first = studio.edit(project, ChangeLayer(layer=layer, finishes=[worn]), None).document
    studio.edit(project, KeepSet(layer=layer, called="Row"), None)
    kept = studio.edit(project, ChangeLayer(layer=layer, finishes=[]), None).document
    studio.close()
    with studio.database.writing() as connection:
        with_copies_called_echo(connection)
    again = Studio(studio.folder)
    assert again.state(project).document == kept
    assert kept.project.sets[0].finishes[0].kind == "repeat"
    back = again.projects.undo(project).document
    assert back.layer(layer).finishes == [worn]
    assert back.project.sets == kept.project.sets
    assert again.projects.undo(project).document == first
    assert again.projects.redo(project).document == back
    again.close()
