"""Motion in the database, and what earlier versions left of it."""

import pytest

from nervykite.core.change.edits import ChangeGround, ChangeLayer, ChangePiece, PutMove, SetKey
from nervykite.core.piece.model import Behaviour, Bezier, Blur, Key, Spring, Stay
from nervykite.studio import Studio

from .layouts import without_motion
from .test_owners import project  # noqa: F401


def test_moves_behaviours_and_blur_come_back(studio, project):  # noqa: F811
    document = studio.state(project).document
    layer, item = document.project.layers[0].id, document.project.ground[0].id
    jolt = Behaviour(kind="jolt", seed=3)
    for edit in (
        PutMove(layers=[layer], side="in", move={"kind": "drop", "settings": {"overshoot": 0.2}}),
        ChangeLayer(layer=layer, behaviours=[jolt], blur=Blur(shutter=270), way={"turns": True}),
        SetKey(layer=layer, key=Key(channel="scale", tie="end", offset=0, value=[1.0], easing=Spring())),
        ChangeGround(item=item, behaviours=[Behaviour(kind="drift", before=4)]),
        ChangePiece(behaviours=[Behaviour(kind="drift")], blur=Blur(shutter=90, phase=0)),
    ):
        kept = studio.edit(project, edit, None).document
    studio.close()
    again = Studio(studio.folder)
    assert again.state(project).document == kept
    for _ in range(5):
        again.projects.undo(project)
    assert again.state(project).document == document
    for _ in range(5):
        again.projects.redo(project)
    assert again.state(project).document == kept
    again.close()


@pytest.mark.parametrize("easing", [Bezier(x1=0.3, y1=1.4), Stay()])
def test_a_folder_from_before_springs_keeps_its_keys_and_its_log(studio, project, easing):  # noqa: F811
    layer = studio.state(project).document.project.layers[0].id
    key = Key(channel="rotation", tie="landing", offset=3, value=[7.0], easing=easing)
    studio.edit(project, SetKey(layer=layer, key=key), None)
    changed = key.model_copy(update={"offset": 9})
    kept = studio.edit(project, SetKey(layer=layer, key=changed), None).document
    studio.close()
    with studio.database.writing() as connection:
        without_motion(connection)
    again = Studio(studio.folder)
    assert again.state(project).document == kept
    assert again.projects.undo(project).document.layer(layer).keys == [key]
    assert again.projects.undo(project).document.layer(layer).keys == []
    assert again.projects.redo(project).document.layer(layer).keys == [key]
    assert again.projects.redo(project).document == kept
    again.close()
