"""A track put right by hand: it goes through that, and is left alone where it was sure."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nervykite.core.change.edits import AddTrack, FixTrack, HoldFrame, PinLayers
from nervykite.core.common.errors import Refusal
from nervykite.core.piece.model import Fix, Track
from nervykite.core.piece.model.base import new_id
from nervykite.core.see.scene.fixes import maps_of

from .test_pins import FRAMES, HELD, pinned, seen, way  # noqa: F401

UNSURE = range(26, 34)


def track(fixes=(), sure: float = 0.1) -> Track:
    """A track of 40 frames seen from frame 20, doubtful at some of them."""
    confidence = [sure if n in UNSURE else 1.0 for n in range(FRAMES)]
    maps = [(way(n) / way(n)[2, 2]).ravel().tolist() for n in range(FRAMES)]
    return Track(shot="a" * 16, ref=HELD, matrices=maps, confidence=confidence, fixes=list(fixes))


def seen_at(one: Track, frame: int, point=(40.0, 60.0)) -> np.ndarray:
    """Where what lies at a place of the frame that is seen from is in another one."""
    x, y, w = np.linalg.inv(maps_of(one)[frame - one.first]) @ [*point, 1]
    return np.array([x / w, y / w])


@given(
    st.dictionaries(
        st.sampled_from([n for n in range(FRAMES) if n != HELD]),
        st.tuples(st.floats(-30, 30), st.floats(-30, 30)),
        max_size=6,
    )
)
def test_it_goes_through_all_that_was_put_right(fixes):
    fixed = track([Fix(frame=n, by=by) for n, by in fixes.items()])
    for frame, by in fixes.items():
        assert seen_at(fixed, frame) - seen_at(track(), frame) == pytest.approx(by, abs=1e-6)
    assert np.array_equal(maps_of(fixed)[HELD], maps_of(track())[HELD])


def test_what_was_sure_stays():
    fixed = track([Fix(frame=30, by=(8, -4))])
    off = np.array([seen_at(fixed, n) - seen_at(track(), n) for n in range(FRAMES)])
    assert not off[[n for n in range(FRAMES) if n not in UNSURE]].any()
    assert off[28] == pytest.approx([8 * 3 / 5, -4 * 3 / 5], abs=1e-6)
    assert fixed.doubtful == [n for n in UNSURE if n != 30]


def test_where_all_is_doubtful_to_the_end_it_stays_put_right():
    one = track([Fix(frame=35, by=(5, 0))]).model_copy(update={"confidence": [1.0] * 30 + [0.0] * 10})
    assert (seen_at(one, 39) - seen_at(track(), 39))[0] == pytest.approx(5, abs=1e-6)


def test_a_layer_is_dragged_to_where_it_belongs(pinned):  # noqa: F811
    document, layer, kept = pinned
    before = seen(document, layer, (50.0, 50.0), 31)
    document = FixTrack(track=kept.id, frame=31, by=(3, -2)).apply(document)
    # A pixel of the shot is two of the canvas.
    assert seen(document, layer, (50.0, 50.0), 31) - before == pytest.approx([6, -4], abs=1e-6)
    document = FixTrack(track=kept.id, frame=31, by=(1, 1)).apply(document)
    assert seen(document, layer, (50.0, 50.0), 31) - before == pytest.approx([8, -2], abs=1e-6)
    # Between two that were put right it is put right on top of what that makes of it.
    document = FixTrack(track=kept.id, frame=25, by=(2, 0)).apply(document)
    between = seen(document, layer, (50.0, 50.0), 28)
    document = FixTrack(track=kept.id, frame=28, by=(0, 1)).apply(document)
    assert seen(document, layer, (50.0, 50.0), 28) - between == pytest.approx([0, 2], abs=1e-6)
    for frame, left in ((28, 2), (None, 0)):
        document = FixTrack(track=kept.id, frame=frame).apply(document)
        assert len(document.tracks[kept.id].fixes) == left
    assert seen(document, layer, (50.0, 50.0), 31) == pytest.approx(before)


def test_what_cannot_be_put_right_is_refused(pinned):  # noqa: F811
    document, _, kept = pinned
    with pytest.raises(Refusal, match="seen from"):
        FixTrack(track=kept.id, frame=HELD, by=(1, 1)).apply(document)
    with pytest.raises(Refusal, match="does not know that frame"):
        FixTrack(track=kept.id, frame=400, by=(1, 1)).apply(document)


def test_another_track_in_its_place_keeps_what_goes_by_it(pinned):  # noqa: F811
    document, layer, kept = pinned
    again = kept.model_copy(update={"id": new_id(), "model": "affine"})
    document = AddTrack(track=again, replaces=kept.id).apply(document)
    assert list(document.tracks) == [kept.id]
    assert document.tracks[kept.id].model == "affine"
    assert document.layer(layer).pin.track == kept.id
    # A patch of the same take is a track beside it.
    patch = kept.model_copy(update={"id": new_id(), "patch": (10.0, 10.0, 30.0, 30.0)})
    document = AddTrack(track=patch).apply(document)
    other = new_id()
    document = HoldFrame(item=document.project.ground[0].id, frame=24, layer=other).apply(document)
    document = PinLayers(layers=[other], track=patch.id, how="turn").apply(document)
    assert {x.pin.track for x in document.project.layers} == {kept.id, patch.id}
