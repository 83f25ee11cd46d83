"""What lies in the ground goes over into the next."""

import numpy as np
import pytest

from nervykite.core.change.edits import AddColour, ChangeGround, MoveGround
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.affected import affected
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.kinds.sources.plain_colour import ColourSource


@pytest.fixture
def faded(reel):
    """Frames 0…11 of a shot, then a white that the rest of the shot takes 5 frames to go over into."""
    made = reel(frames=24)
    document = made.document()
    item = document.project.ground[0].id
    document = ChangeGround(item=item, past=12).apply(document)
    white = AddColour(source=ColourSource(lasting=20, colour="#FFFFFF"))
    document = white.apply(document)
    return made, ChangeGround(item=white.item, fade=5).apply(document), white.item


def test_the_shares_rise_evenly_and_what_leaves_goes_on(faded):
    made, document, _ = faded
    evaluation, renderer = Evaluation(document), Renderer(made.library())
    assert evaluation.at(11).leaving is None
    assert evaluation.at(17).leaving is None
    for k in range(5):
        spec, share = evaluation.at(12 + k).leaving
        assert share == pytest.approx(1 - (k + 1) / 6)
        assert spec.picture.frame == 12 + k
        frame = renderer.render(Canvas.of(document), evaluation.at(12 + k))
        alone = made.library().exact(made.shot, 12 + k)
        expected = np.round(alone.y * share + 235 * (1 - share))
        assert np.abs(frame.y.astype(int) - expected).max() <= 1
    assert len({evaluation.at(f).key for f in range(10, 20)}) == 8  # from the fade's end on the white is one frame


def test_an_edit_of_what_leaves_touches_the_frames_in_which_it_does(faded):
    _, document, white = faded
    first = document.project.ground[0]
    dressed = ChangeGround(item=first.id, framing={"mode": "fit"}).apply(document)
    assert affected(Evaluation(document), Evaluation(dressed)) == [(0, 17)]
    cut = ChangeGround(item=white, fade=0).apply(document)
    assert affected(Evaluation(document), Evaluation(cut)) == [(12, 32)]


def test_the_first_has_nothing_to_go_over_from(faded):
    _, document, white = faded
    with pytest.raises(Refusal, match="nothing before it"):
        ChangeGround(item=document.project.ground[0].id, fade=3).apply(document)
    moved = MoveGround(item=white, to=0).apply(document)
    assert Evaluation(moved).at(0).leaving is None
    assert ChangeGround(item=white, fade=600).apply(document).item(white).fade == 20


def test_what_leaves_stays_on_its_last_frame_where_the_footage_ends(faded):
    _, document, _ = faded
    whole = ChangeGround(item=document.project.ground[0].id, past=24).apply(document)
    assert [Evaluation(whole).at(24 + k).leaving[0].picture.frame for k in range(5)] == [23] * 5
