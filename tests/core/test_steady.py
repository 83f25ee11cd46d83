"""A shot that is steadied: it stands still, or goes smoothly, never shows its edge unsaid, and pins go along."""

from fractions import Fraction

import numpy as np
import pytest

from nervykite.core.change.edits import AddTrack, HoldFrame, PinLayers, RemoveTrack, SteadyGround
from nervykite.core.change.edits.copying import copied
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.affected import affected
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.kinds.sources.steadied import steadied_of
from nervykite.core.piece.model import Fix, Framing, Steady, Track
from nervykite.core.piece.model.base import new_id
from nervykite.core.see.footage.framing_matrix import fit_matrix
from nervykite.core.see.scene.calm import smoothed, turned
from nervykite.core.see.scene.fixes import maps_of

from .test_ground import even, of
from .test_pins import seen

FRAMES = 40


def shaken(n: int, pan: float = 0.0) -> np.ndarray:
    """What takes frame n of a shot of 100×100 to its frame 20, by a hand that shakes, and pans by pixels a frame."""
    x, y, turn = 2.5 * np.sin(1.9 * n) + pan * (n - 20), 1.8 * np.sin(2.7 * n + 1), 0.012 * np.sin(2.2 * n)
    return np.array([[np.cos(turn), -np.sin(turn), x], [np.sin(turn), np.cos(turn), y], [0, 0, 1]])


def project(pan: float = 0.0, **how):
    """A document with such a shot on a canvas of 200×200, steadied, and the id of its item."""
    document = of(even(FRAMES, Fraction(30)))
    document = document.model_copy(
        update={"project": document.project.model_copy(update={"width": 200, "height": 200})}
    )
    (shot,) = document.shots
    into = np.linalg.inv(shaken(20, pan))
    maps = [(into @ shaken(n, pan)).ravel().tolist() for n in range(FRAMES)]
    track = Track(shot=shot, ref=20, matrices=maps, confidence=[1.0] * FRAMES)
    document = AddTrack(track=track).apply(document)
    item = document.project.ground[0].id
    return SteadyGround(item=item, steady=Steady(track=track.id, **how)).apply(document), item, track


def lies(document, item: str, frame: float) -> np.ndarray:
    """The footage's pixels to canvas pixels at a frame."""
    framing = Evaluation(document).framing_at(document.item(item), frame)
    return fit_matrix((100, 100), (200, 200), framing)


def of_scene(document, item: str, track: Track, point: tuple[float, float], frame: int) -> np.ndarray:
    """Where what lies at a place of frame 20 is seen on the canvas at another one."""
    there = np.linalg.inv(maps_of(track)[frame]) @ [point[0] - 0.5, point[1] - 0.5, 1]
    x, y, w = lies(document, item, frame) @ [there[0] / there[2] + 0.5, there[1] / there[2] + 0.5, 1]
    return np.array([x / w, y / w])


def test_it_stands_still():
    document, item, track = project(how="still")
    for point in ((30.0, 40.0), (80.0, 20.0)):
        places = np.array([of_scene(document, item, track, point, n) for n in range(FRAMES)])
        assert np.ptp(places, axis=0).max() < 1e-6


def test_a_pan_goes_on_smoothly():
    document, item, track = project(pan=1.5, how="smooth", calm=0.4)
    plain = SteadyGround(item=item, steady=None).apply(document)
    places, before = (
        np.array([of_scene(d, item, track, (50, 50), n) for n in range(FRAMES)]) for d in (document, plain)
    )
    jerks, jerks_before = (np.abs(np.diff(p, 3, axis=0)).mean() for p in (places[5:-5], before[5:-5]))
    assert jerks < 0.05 * jerks_before
    # It still goes by the pan's three canvas pixels a frame, as much larger as it was made.
    larger = steadied_of(Evaluation(document).timeline, document.item(item)).larger
    assert (places[5, 0] - places[-6, 0]) / (FRAMES - 11) == pytest.approx(3 * larger, rel=0.05)


def test_half_of_it_takes_half_of_it():
    whole, item, track = project(how="still", fills=False)
    half = SteadyGround(item=item, steady=Steady(track=track.id, how="still", strength=0.5, fills=False)).apply(whole)
    none = SteadyGround(item=item, steady=Steady(track=track.id, how="still", strength=0, fills=False)).apply(whole)
    sways = [np.ptp([of_scene(d, item, track, (50, 50), n)[0] for n in range(FRAMES)]) for d in (none, half)]
    assert sways[0] > 10
    assert sways[1] == pytest.approx(sways[0] / 2, rel=0.02)
    assert np.allclose(lies(none, item, 7), fit_matrix((100, 100), (200, 200), Framing()))


def test_its_edge_never_shows_unless_that_is_said():
    document, item, track = project(how="still")

    def corners(d, frame):
        there = lies(d, item, frame) @ np.array([[0, 100, 100, 0], [0, 0, 100, 100], [1, 1, 1, 1]])
        return there[:2].T

    def covers(d, frame) -> bool:
        quad = corners(d, frame)
        for n, (a, b) in enumerate(zip(quad, np.roll(quad, -1, axis=0), strict=True)):
            along = b - a
            for corner in ((0, 0), (200, 0), (200, 200), (0, 200)):
                off = np.array(corner) - a
                if along[0] * off[1] - along[1] * off[0] < -1e-6:
                    return n < 0
        return True

    assert all(covers(document, n) for n in range(FRAMES))
    cost = steadied_of(Evaluation(document).timeline, document.item(item))
    assert 1.02 < cost.larger < 1.25
    assert cost.edges == 0
    bare = SteadyGround(item=item, steady=Steady(track=track.id, how="still", fills=False)).apply(document)
    said = steadied_of(Evaluation(bare).timeline, bare.item(item))
    assert said.larger == 1
    assert said.edges == sum(not covers(bare, n) for n in range(FRAMES)) > 30


def test_what_is_too_far_off_to_be_covered_is_said():
    document, item, _ = project(pan=6.0, how="still")
    cost = steadied_of(Evaluation(document).timeline, document.item(item))
    assert cost.larger == 2
    assert cost.edges > 5


def test_a_cutout_lands_where_the_steadied_ground_is_and_pins_go_along():
    document, item, track = project(how="still")
    layer = new_id()
    document = HoldFrame(item=item, frame=28, layer=layer).apply(document)
    evaluation = Evaluation(document)
    assert evaluation.framing(document.layer(layer)) == evaluation.framing_at(document.item(item), 28)
    pinned = PinLayers(layers=[layer], track=track.id).apply(document)
    for frame in (3, 28, 35):
        on_28 = maps_of(track)[28] @ [45.0 - 0.5, 60.0 - 0.5, 1]
        there = of_scene(pinned, item, track, (on_28[0] + 0.5, on_28[1] + 0.5), frame)
        assert seen(pinned, layer, (45.0, 60.0), frame) == pytest.approx(there, abs=1e-6)


def test_a_still_layer_has_the_shake_and_nothing_else():
    document, item, track = project(pan=1.5)
    document = SteadyGround(item=item, steady=None).apply(document)
    layer = new_id()
    document = HoldFrame(item=item, frame=20, layer=layer).apply(document)
    document = PinLayers(layers=[layer], track=track.id, how="shake").apply(document)
    places = np.array([seen(document, layer, (50.0, 50.0), n) for n in range(FRAMES)])
    assert np.abs(places.mean(0) - 100).max() < 1.5
    hand = np.array([2 * 2.5 * np.sin(1.9 * n) for n in range(FRAMES)])
    assert np.corrcoef(places[4:-4, 0], -hand[4:-4])[0, 1] > 0.9


def test_another_track_of_it_is_seen():
    document, item, track = project()
    moved = track.model_copy(update={"fixes": [Fix(frame=30, by=(3, 0))]})
    changed = AddTrack(track=moved).apply(document)
    assert affected(Evaluation(document), Evaluation(changed)) == [(0, FRAMES)]
    assert affected(Evaluation(document), Evaluation(AddTrack(track=track).apply(document))) == []
    gone = RemoveTrack(track=track.id).apply(document)
    assert gone.item(item).steady is None
    assert affected(Evaluation(document), Evaluation(gone)) == [(0, FRAMES)]


def test_a_copy_of_the_piece_is_steadied_by_a_track_of_its_own():
    document, _, _ = project()
    copy = copied(document, "Again")
    (item,) = copy.project.ground
    assert item.steady.track in copy.tracks
    assert item.steady.track not in document.tracks


def test_a_track_of_another_shot_is_refused():
    document, item, track = project()
    other = of(even(FRAMES, Fraction(30)))
    (shot,) = other.shots
    document = document.model_copy(update={"shots": {**document.shots, **other.shots}})
    foreign = track.model_copy(update={"shot": shot, "id": new_id()})
    document = AddTrack(track=foreign).apply(document)
    with pytest.raises(Refusal, match="another shot"):
        SteadyGround(item=item, steady=Steady(track=foreign.id)).apply(document)


def test_what_goes_evenly_is_smooth_already():
    maps = np.array([np.array([[1, 0, 3.0 * n], [0, 1, -n], [0, 0, 1]]) for n in range(30)])
    left = smoothed(maps, (100, 100), 5)
    assert np.abs(left.to).max() < 1e-9
    assert np.allclose(left.by, 1)
    assert np.allclose(turned(maps, (100, 100)).to, 3 * np.arange(30) - 1j * np.arange(30))
