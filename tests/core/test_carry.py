"""Carrying: a matte taken along, travelling mattes that remember what was fixed, and the order of the work."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nervykite.core.change.edits import CarryHolds, CarryTo, ChangeLayer, ChangeMatte, ChangeStop, PutCarried, SetTravel
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.piece.model import Matte, Stop
from nervykite.core.see.carry.carry import carry
from nervykite.core.see.carry.crumbs import least_piece, without_crumbs
from nervykite.core.see.carry.reel import Reel
from nervykite.studio.carrying import CHUNK, runs

from ..conftest import box, held
from .scenes import blob, composed, overlap, texture, walking

SIZE = {"size": (160, 120)}


class TestCarry:
    @pytest.mark.parametrize("pan", [0.0, 1.0])
    def test_the_matte_goes_along_with_the_subject(self, pan):
        frames, alphas = walking(16, pan=pan)
        found = list(carry(frames, {6: alphas[6]}, [2, 8, 13]))
        assert [f.frame for f in found] == [2, 8, 13]
        for f in found:
            assert f.alpha.shape == alphas[0].shape
            assert 0 <= f.alpha.min() <= f.alpha.max() <= 1
            assert overlap(f.alpha, alphas[f.frame]) > 0.88

    def test_fixed_frames_are_answered_as_they_are(self):
        frames, alphas = walking(12)
        own = np.roll(alphas[4], 3, 1)
        (found,) = carry(frames, {4: own}, [4])
        assert (found.alpha == own).all()
        assert found.doubt == 0

    def test_two_fixed_frames_both_have_a_say(self):
        frames, alphas = walking(18)
        one = next(carry(frames, {2: alphas[2]}, [12]))
        two = next(carry(frames, {2: alphas[2], 14: alphas[14]}, [12]))
        assert overlap(two.alpha, alphas[12]) >= overlap(one.alpha, alphas[12]) - 0.005
        assert overlap(two.alpha, alphas[12]) > 0.92

    def test_an_outline_is_neither_too_wide_nor_too_narrow(self):
        h, w = 240, 320
        scene, cloth = texture(h, w, (60, 80, 70), 4, 10), texture(h, w, (215, 150, 60), 6, 10)
        frames, alphas = [], []
        for n in range(6):
            disc = cv2.circle(np.zeros((h, w), np.uint8), (60 + 22 * n, 120), 40, 255, -1, cv2.LINE_AA)
            alphas.append(disc.astype(np.float32) / 255)
            frames.append(composed(alphas[n], np.roll(cloth, 22 * n, 1), scene, seed=n))
        for found in carry(frames, {0: alphas[0]}, [2, 3, 5]):
            assert found.alpha.sum() / alphas[found.frame].sum() == pytest.approx(1, abs=0.02)

    def test_the_camera_is_not_followed_by_a_textured_subject_before_a_plain_place(self):
        h, w = 300, 240
        plain = np.full((h, w, 3), (150, 120, 140), np.float32)
        cv2.circle(plain, (200, 60), 30, (120, 90, 110), -1, cv2.LINE_AA)
        cv2.line(plain, (0, 280), (240, 284), (120, 100, 115), 2, cv2.LINE_AA)
        cloth, matte = texture(h, w, (190, 120, 90), 6, 25), blob(h, w, 70, 150, 70)
        frames = [composed(np.roll(matte, 5 * n, 1), np.roll(cloth, 5 * n, 1), plain, 1.0, n) for n in range(4)]
        led, kept = (Reel(frames).step(0, 1, mask) for mask in (None, cv2.resize(matte, (240, 300))))
        assert abs(led[0, 2]) > 3
        assert kept == pytest.approx(np.eye(3), abs=1e-3)

    def test_the_camera_is_the_same_at_the_size_on_the_way_and_where_mattes_settle(self):
        place = texture(720, 600, (120, 110, 100), 4, 40)
        frames = [np.ascontiguousarray(np.roll(place, (3 * n, 6 * n), (0, 1))).astype(np.uint8) for n in range(2)]
        reel = Reel(frames)
        (w, h), scale = reel.larger.working, reel.larger.scale
        assert scale == pytest.approx((1.28, 1.28), abs=0.01)
        assert reel.step(0, 1)[:2, 2] * scale == pytest.approx(reel.larger.step(0, 1)[:2, 2], abs=0.2)
        assert reel.larger.step(0, 1)[:2, 2] == pytest.approx((6 * w / 600, 3 * h / 720), abs=0.3)
        assert reel.larger.step(1, -1) @ reel.larger.step(0, 1) == pytest.approx(np.eye(3), abs=1e-3)
        assert reel.larger.grown(np.zeros(reel.grey[0].shape, np.float32)).shape == (h, w)

    def test_a_person_finder_has_a_say_only_if_it_sees_the_subject(self):
        frames, alphas = walking(12)
        nobody = list(carry(frames, {5: alphas[5]}, [8], person=lambda f, quick: np.zeros(f.shape[:2], np.float32)))
        alone = list(carry(frames, {5: alphas[5]}, [8]))
        assert (nobody[0].alpha == alone[0].alpha).all()

    def test_crumbs_are_left_behind_but_not_what_was_apart_from_the_beginning(self):
        subject, crumb = blob(240, 180, 90, 120, 50), np.zeros((240, 180), np.float32)
        crumb[10:13, 10:13] = 1
        clean, both = least_piece(subject), least_piece(subject + crumb)
        assert (without_crumbs(subject + crumb, clean) == subject).all()
        assert (without_crumbs(subject + crumb, both) == subject + crumb).all()
        assert (without_crumbs(crumb, clean) == crumb).all()
        assert least_piece(np.zeros_like(crumb)) == 0

    def test_small_frames_serve_as_well_as_the_full_ones(self):
        frames, alphas = walking(10)
        asked = []

        class Watched(list):
            def __getitem__(self, k):
                asked.append(k)
                return super().__getitem__(k)

        small = [cv2.resize(f, (192, 240), interpolation=cv2.INTER_AREA) for f in frames]
        (found,) = carry(Watched(frames), {3: alphas[3]}, [6], small=small)
        assert set(asked) == {6}
        assert overlap(found.alpha, alphas[6]) > 0.8


class TestRuns:
    @given(st.sets(st.integers(0, 120), min_size=1, max_size=12), st.integers(0, 100), st.integers(1, 130))
    def test_every_frame_is_reached_once_from_one_that_is_known(self, known, first, count):
        wanted = set(range(first, first + count))
        # A range always holds a frame that is known: the held one.
        known = known | {first + count // 2}
        seen = set(known)
        for run in runs(known, wanted):
            frames = set(range(run.first, run.last + 1))
            assert not frames & seen
            assert frames <= wanted
            assert run.before in seen or run.after in seen
            assert len(frames) <= 2 * CHUNK
            seen |= frames
        low, high = min(known), max(known)
        assert {f for f in wanted if low <= f <= high} <= seen or wanted <= seen


@pytest.fixture
def travelling(reel):
    """A document with a hold of frame 10 whose matte travels from 6 to 15, and is carried to all of them."""
    document, layer = held(reel(frames=24, **SIZE).document(), 10, Matte(pieces=[box(10, 10, 40, 40)]))
    hold = document.layer(layer).source.hold
    document = SetTravel(hold=hold, range=(6, 16)).apply(document)
    stops = [Stop(frame=f, pieces=[box(10 + f, 10, 40 + f, 40)], doubt=0.9 if f == 15 else 0.2) for f in range(6, 16)]
    return PutCarried(hold=hold, stops=stops).apply(document), hold, layer


def states(document, hold) -> dict[int, str]:
    return {s.frame: s.state for s in document.holds[hold].travel.stops}


class TestTravel:
    def test_carried_frames_are_told_from_doubtful_ones(self, travelling):
        document, hold, _ = travelling
        assert states(document, hold) == dict.fromkeys([*range(6, 10), *range(11, 15)], "carried") | {15: "doubtful"}

    def test_a_correction_sticks_and_its_neighbours_are_out_of_date(self, travelling):
        document, hold, _ = travelling
        document = ChangeMatte(hold=hold, matte=Matte(pieces=[box(0, 0, 9, 9)]), frame=13).apply(document)
        now = states(document, hold)
        assert now[13] == "fixed"
        assert [f for f, s in now.items() if s == "stale"] == [6, 7, 8, 9, 11, 12, 14, 15]
        again = [Stop(frame=f, pieces=[box(1, 1, 5, 5)]) for f in range(11, 16)]
        document = PutCarried(hold=hold, stops=again).apply(document)
        assert document.holds[hold].travel.at(13).pieces == [
            box(0, 0, 9, 9, id=document.holds[hold].travel.at(13).pieces[0].id)
        ]
        assert states(document, hold)[12] == "carried"

    def test_what_lies_beyond_another_fixed_frame_stays_up_to_date(self, travelling):
        document, hold, _ = travelling
        document = ChangeStop(hold=hold, frame=12, change="fix").apply(document)
        document = ChangeMatte(hold=hold, matte=Matte(pieces=[box(0, 0, 9, 9)]), frame=14).apply(document)
        now = states(document, hold)
        assert now[12] == "fixed"
        assert [f for f, s in now.items() if s == "stale"] == [13, 15]

    def test_locked_frames_are_never_carried_over_nor_drawn_on(self, travelling):
        document, hold, _ = travelling
        document = ChangeStop(hold=hold, frame=12, change="lock").apply(document)
        before = document.holds[hold].travel.at(12)
        document = PutCarried(hold=hold, stops=[Stop(frame=12, pieces=[])]).apply(document)
        assert document.holds[hold].travel.at(12) == before
        with pytest.raises(Refusal, match="locked"):
            ChangeMatte(hold=hold, matte=Matte(), frame=12).apply(document)
        with pytest.raises(Refusal, match="locked"):
            ChangeStop(hold=hold, frame=12, change="forget").apply(document)

    def test_what_is_done_to_the_whole_is_the_same_at_all_frames(self, travelling):
        document, hold, _ = travelling
        matte = document.holds[hold].matte_at(8).model_copy(update={"grow": 3.0})
        document = ChangeMatte(hold=hold, matte=matte, frame=8).apply(document)
        assert document.holds[hold].matte_at(14).grow == 3.0
        assert document.holds[hold].matte.grow == 3.0

    def test_drawing_outside_of_the_range_is_said(self, travelling):
        document, hold, _ = travelling
        with pytest.raises(Refusal, match="frames 6 to 15"):
            ChangeMatte(hold=hold, matte=Matte(), frame=20).apply(document)

    def test_a_layer_runs_along_for_as_long_as_its_matte_travels(self, travelling):
        document, hold, layer = travelling
        document = ChangeLayer(layer=layer, arrangement="along").apply(document)
        evaluation = Evaluation(document)
        span = evaluation.timeline.spans[layer]
        assert (span.start, span.end) == (6, 16)
        drawn = {f: evaluation.at(f).layers for f in range(4, 18)}
        assert [f for f, layers in drawn.items() if layers] == list(range(6, 16))
        assert drawn[7][0].sprite.picture.frame == 7
        assert drawn[12][0].sprite.picture.matte.pieces[0].nodes[0].x == 22
        with pytest.raises(Refusal, match="runs along"):
            SetTravel(hold=hold, range=None).apply(document)

    def test_running_along_needs_a_matte_that_travels(self, reel):
        document, layer = held(reel(frames=24, **SIZE).document(), 10, Matte(pieces=[box(10, 10, 40, 40)]))
        with pytest.raises(Refusal, match="once its matte travels"):
            ChangeLayer(layer=layer, arrangement="along").apply(document)


class TestCarryToMoments:
    def test_moments_become_holds_and_carved_ones_keep_their_matte(self, reel):
        document, layer = held(reel(frames=24, **SIZE).document(), 5, Matte(pieces=[box(10, 10, 40, 40)], grow=2))
        document, empty = held(document, 9)
        document, carved = held(document, 12, Matte(pieces=[box(1, 1, 4, 4)]))
        items = [CarryTo(frame=f, pieces=[box(f, 10, 40, 40)]) for f in (9, 12, 18)]
        done = CarryHolds(hold=document.layer(layer).source.hold, items=items).apply(document)
        mattes = {h.frame: h.matte for h in done.holds.values()}
        assert mattes[9].pieces[0].nodes[0].x == 9
        assert mattes[9].grow == 2
        assert mattes[12].pieces[0].nodes[0].x == 1
        assert mattes[18].pieces[0].nodes[0].x == 18
        assert len(done.project.layers) == 4
        assert done.layer(empty).source.hold == document.layer(empty).source.hold
        assert done.layer(carved) == document.layer(carved)
