"""What is sent: the piece, its ground or some layers, at other sizes and rates."""

import time
from fractions import Fraction

import numpy as np
import pytest

from nervykite.core.change.edits import ChangeLayer, ChangeMatte, HoldFrame, MakeGroup, SetValue
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.send.chunks import FrameRenderer
from nervykite.core.draw.send.export import Output, export
from nervykite.core.draw.send.foretold import foretold
from nervykite.core.draw.send.sending import Sending, fits
from nervykite.core.draw.send.writer import writer_for
from nervykite.core.draw.sound.master import Master
from nervykite.core.draw.sound.plan import plan_of
from nervykite.core.piece.model import Matte

from ..conftest import box

ONE, TWO, GROUP = "1" * 16, "2" * 16, "3" * 16


@pytest.fixture
def piece(reel):
    """A reel of 24 frames of 160×120 with two cutouts, the second one in a group."""
    made = reel()
    document = made.document()
    item = document.project.ground[0].id
    for layer, frame, left in ((ONE, 4, 20), (TWO, 8, 90)):
        document = HoldFrame(item=item, frame=frame, layer=layer).apply(document)
        matte = Matte(pieces=[box(left, 30, left + 40, 90)])
        document = ChangeMatte(hold=document.layer(layer).source.hold, matte=matte).apply(document)
    return made, MakeGroup(layers=[TWO], group=GROUP).apply(document)


def sent(piece, time: float = 10, **sending):
    """A frame as it is sent."""
    made, document = piece
    (frame,) = FrameRenderer(document, [Sending(**sending)], made.library)(time)
    return frame


def covered(frame) -> tuple[int, int]:
    """The columns in which something is seen, first and last."""
    columns = np.flatnonzero(frame.straight()[..., 3].max(0) > 128)
    return (int(columns[0]), int(columns[-1])) if len(columns) else (-1, -1)


def test_a_layer_alone_is_seen_over_nothing(piece):
    assert covered(sent(piece, what="layers", layers=[ONE])) == (20, 59)
    assert covered(sent(piece, what="layers", layers=[TWO])) == (90, 129)
    assert covered(sent(piece, what="layers", layers=[ONE, TWO])) == (20, 129)
    assert covered(sent(piece, 2, what="layers", layers=[ONE])) == (-1, -1)


def test_a_group_is_sent_with_all_that_belongs_to_it_and_moves_them(piece):
    made, document = piece
    assert covered(sent(piece, what="layers", layers=[GROUP])) == (90, 129)
    document = SetValue(layer=GROUP, channel="position", frame=10, value=[-30, 0]).apply(document)
    assert covered(sent((made, document), what="layers", layers=[TWO])) == (60, 99)


def test_what_is_hidden_is_sent_if_it_is_named(piece):
    made, document = piece
    document = ChangeLayer(layer=GROUP, visible=False).apply(document)
    assert covered(sent((made, document), what="layers", layers=[TWO])) == (90, 129)
    document = ChangeLayer(layer=TWO, visible=False).apply(document)
    assert covered(sent((made, document), what="layers", layers=[GROUP])) == (-1, -1)
    # One that is looked at alone does not hide the others when it is not meant.
    alone = ChangeLayer(layer=ONE, solo=True).apply(piece[1])
    assert covered(sent((made, alone), what="layers", layers=[TWO])) == (90, 129)


def test_the_ground_alone_has_nothing_over_it(piece):
    made, document = piece
    bare = document.model_copy(update={"project": document.project.model_copy(update={"layers": []})})
    one, other = sent(piece, what="ground").planes, sent((made, bare)).planes
    assert np.array_equal(one.y, other.y)
    assert not np.array_equal(sent(piece).planes.y, one.y)


def test_another_size_is_filled_up(piece):
    frame = sent(piece, size=(160, 200))
    assert frame.size == (160, 200)
    assert (frame.planes.y[:38] == 16).all()
    assert np.array_equal(frame.planes.y[40:160], sent(piece).planes.y)
    half = sent(piece, what="layers", layers=[ONE], size=(80, 60))
    assert half.size == (80, 60)
    assert covered(half) == (10, 29)


@pytest.mark.parametrize(
    ("inner", "outer", "where"),
    [
        ((1080, 1920), (1080, 1920), (0, 0, 1080, 1920)),
        ((1080, 1920), (540, 960), (0, 0, 540, 960)),
        ((1080, 1920), (1080, 1080), (236, 0, 608, 1080)),
        ((160, 120), (160, 200), (0, 40, 160, 120)),
        ((1920, 1080), (1080, 1920), (0, 656, 1080, 608)),
    ],
)
def test_a_shape_lies_whole_in_another_one(inner, outer, where):
    assert fits(inner, outer) == where


def test_times_at_other_rates(piece):
    _, document = piece
    project = document.project
    assert Sending().times(project, 24) == [float(n) for n in range(24)]
    assert Sending(span=(3, 6)).times(project, 24) == [3.0, 4.0, 5.0]
    double = Sending(span=(3, 6), rate=project.rate * 2).times(project, 24)
    assert double == [3.0, 3.5, 4.0, 4.5, 5.0, 5.5]
    third = Sending(rate=project.rate / Fraction(3)).times(project, 24)
    assert third == [float(n) for n in range(0, 24, 3)]


def test_what_is_gone_is_refused(piece):
    _, document = piece
    for layers in ([], ["f" * 16]):
        with pytest.raises(Refusal, match="Choose layers again"):
            Sending(what="layers", layers=layers).document(document)


@pytest.mark.parametrize(
    ("name", "off"), [("a.gif", 0.2), ("a.webp", 0.2), ("a.zip", 0.1), ("a.png", 0), ("a.mov", 0.05), ("a.mp4", 0.6)]
)
def test_what_a_file_will_come_to_is_foretold(reel, tmp_path, name, off):
    made = reel(frames=60, size=(320, 240))
    document, writer = made.document(), writer_for(name)
    found = foretold(document, made.library, tmp_path, writer, Sending())
    begun = time.monotonic()
    export(document, made.library, lambda t: Master(plan_of(t), None), [Output(tmp_path / name, writer)])
    took, size = time.monotonic() - begun, (tmp_path / name).stat().st_size
    assert found.size / size == pytest.approx(1, abs=off)
    assert 0.1 < found.seconds / took < 10
    limited = foretold(document, made.library, tmp_path, writer_for("a.mp4", {"under": 0.3}), Sending())
    assert limited.size == 300_000


def test_sound_counts_in_what_is_foretold(piece, tmp_path):
    made, document = piece
    writer = writer_for("a.mov")
    silent, heard = (foretold(document, made.library, tmp_path, writer, Sending(), heard).size for heard in (0, 1))
    assert heard - silent == 24 / 30 * 48000 * 2 * 3
