"""Frames worth holding: what is seen of a take, where it peaks, cadence, ghosts, contact sheets."""

import cv2
import numpy as np
import pytest

from nervykite.core.see.catch import cadence, ghosts
from nervykite.core.see.catch.apexes import MOVEMENTS, curves_of, proposals, unasked
from nervykite.core.see.catch.camera import refined, step
from nervykite.core.see.catch.poses import subjects, ways
from nervykite.core.see.catch.seen import JOINTS, ROW, Seen, filled, packed, unpacked
from nervykite.core.see.catch.sheet import Sheet, contact_sheet
from nervykite.core.see.catch.watch import looked_through, stride, watch
from tools.world.peaks import apexes, blurs

WIDE = 0.5625
STANDING = {
    "head": (0.0, -0.385), "shoulder L": (-0.08, -0.3), "shoulder R": (0.08, -0.3), "elbow L": (-0.1, -0.15),
    "elbow R": (0.1, -0.15), "wrist L": (-0.1, -0.02), "wrist R": (0.1, -0.02), "finger L": (-0.1, 0.02),
    "finger R": (0.1, 0.02), "hip L": (-0.05, 0.0), "hip R": (0.05, 0.0), "knee L": (-0.05, 0.25),
    "knee R": (0.05, 0.25), "ankle L": (-0.05, 0.48), "ankle R": (0.05, 0.48), "toe L": (-0.01, 0.5),
    "toe R": (0.09, 0.5),
}  # fmt: skip
"""The joints of somebody who stands, from the hips, in their own heights."""


def figure(x, y, size=0.4, **moved):
    """The joints of somebody with the hips at a place; some of them moved, by their names with _ for the space."""
    joints = {name: np.array(at) for name, at in STANDING.items()}
    for name, by in moved.items():
        joints[name.replace("_", " ")] = np.array(by)
    return np.array([np.array([x, y]) + size * joints[name] for name in JOINTS])


def seen(joints, speed=0.01, detail=0.3, step=(1.0, 0.0, 0.0, 0.0), number=0):
    """Somebody seen in a frame."""
    left, top = joints.min(0)
    right, bottom = joints.max(0)
    return Seen(0.1, (left, top, right, bottom), detail, speed, step, {number: joints})


def leap(top=30, frames=60, camera=0.0):
    """A run with a leap whose top is at a frame; the camera goes along by so much a frame."""
    row = []
    for n in range(frames):
        up = max(0.0, 0.12 - 0.0006 * (n - top) ** 2)
        one = figure(0.28 + 0.001 * n - camera * n, 0.5 - up)
        row.append(seen(one, step=(1.0, 0.0, -camera if n else 0.0, 0.0)))
    return row


class TestSeen:
    def test_what_was_seen_is_kept_and_read_back(self):
        one = seen(figure(0.3, 0.4), 0.02, 0.25, (1.01, 0.002, -0.003, 0.004), number=3)
        row = one.row()
        assert row.shape == (ROW,)
        again = Seen.of(row)
        assert again.box == pytest.approx(one.box, abs=1e-6)
        assert (again.share, again.detail, again.speed) == pytest.approx((one.share, one.detail, one.speed))
        assert again.step == pytest.approx(one.step)
        assert list(again.figures) == [3]
        assert np.allclose(again.figures[3], one.figures[3], atol=1e-6)
        assert Seen.of(Seen().row()) == Seen()

    def test_bodies_are_kept_to_the_bit(self):
        made = [np.random.default_rng(n).integers(0, 255, (30, 17), np.uint8) for n in range(5)]
        assert all(np.array_equal(a, b) for a, b in zip(made, unpacked(packed(made), 5), strict=True))
        with pytest.raises(ValueError, match="no pictures"):
            unpacked(b"nothing", 5)
        with pytest.raises(ValueError, match="no pictures"):
            unpacked(packed(made), 4)


class TestCamera:
    def test_a_pan_is_followed_and_a_camera_that_stands_does_not_stray(self):
        noise = np.random.default_rng(1).integers(0, 255, (200, 300)).astype(np.float32)
        grey = np.clip(128 + 4 * (cv2.GaussianBlur(noise, (0, 0), 3) - 128), 0, 255).astype(np.uint8)
        one, other = grey[:, 20:180].copy(), grey[:, 23:183].copy()
        way = step(one, other)
        assert way[0, 2] == pytest.approx(-3, abs=0.2)
        assert way[1, 2] == pytest.approx(0, abs=0.2)
        assert np.array_equal(step(one, one), np.eye(3))
        assert refined(one, other, way)[0, 2] == pytest.approx(-3, abs=0.1)
        flat = np.full((80, 80), 90, np.uint8)
        assert np.array_equal(step(flat, flat), np.eye(3))

    def test_ways_add_up(self):
        row = [Seen(step=(1.0, 0.0, -0.01, 0.002) if n else (1.0, 0.0, 0.0, 0.0)) for n in range(5)]
        assert ways(row)[4][:2, 2] == pytest.approx((-0.04, 0.008))


class TestApexes:
    def test_the_top_of_a_leap_is_the_first_proposal_with_its_reason(self):
        found = proposals(leap(30), 30, WIDE)
        assert abs(found[0].frame - 30) <= 1
        assert found[0].why == "top of the jump"
        assert found[0].peak > 0.9
        assert unasked(found) >= 1

    def test_it_is_that_in_a_pan_as_well(self):
        best = proposals(leap(25, camera=0.004), 30, WIDE)[0]
        assert abs(best.frame - 25) <= 1
        assert best.why == "top of the jump"

    def test_strides_and_reaches_are_told_apart(self):
        row = []
        for n in range(60):
            wide = 0.24 * np.sin(n / 60 * 4 * np.pi) ** 2
            high = -0.1 - 0.45 * np.exp(-(((n - 45) / 5) ** 2))
            row.append(seen(figure(0.28, 0.5, ankle_L=(-wide, 0.45), ankle_R=(wide, 0.45), finger_L=(-0.1, high))))
        found = {p.why: p.frame for p in reversed(proposals(row, 30, WIDE)) if p.peak > 0.3}
        assert abs(found["arms highest"] - 45) <= 1
        assert min(abs(found["widest stride"] - f) for f in (7, 22, 37, 52)) <= 1

    def test_of_two_frames_of_one_apex_the_crisper_one_is_proposed(self):
        row = leap(30)
        row[29] = seen(row[29].figures[0], speed=0.001)
        assert proposals(row, 30, WIDE)[0].frame == 29

    def test_only_frames_that_are_allowed_are_proposed(self):
        allowed = range(1, 60, 2)
        found = proposals(leap(30), 30, WIDE, allowed)
        assert {p.frame for p in found} <= set(allowed)
        assert abs(found[0].frame - 30) <= 2
        assert proposals(leap(30), 30, WIDE, []) == []

    def test_no_frame_is_proposed_twice_and_moments_lie_apart(self):
        frames = [p.frame for p in proposals(leap(30), 30, WIDE)]
        assert len(set(frames)) == len(frames)
        assert np.diff(sorted(frames)).min() > 2

    def test_where_nothing_moves_nothing_is_proposed(self):
        assert proposals([Seen()] * 40, 30, WIDE) == []
        assert proposals([], 30, WIDE) == []
        assert proposals([Seen()], 30, WIDE) == []
        curves = curves_of([Seen()] * 40, 30, WIDE)
        assert not curves.crisp.any()
        assert not curves.there.any()
        assert curves.movement == ""

    def test_a_thing_is_told_by_its_outline(self):
        row = []
        for n in range(50):
            up = max(0.0, 0.2 - 0.0005 * (n - 25) ** 2)
            row.append(Seen(0.02, (0.2, 0.6 - up, 0.32, 0.72 - up), 0.3, 0.01))
        best = proposals(row, 30, WIDE)[0]
        assert (abs(best.frame - 25) <= 1, best.why) == (True, "highest point")

    def test_a_thing_has_no_arms(self):
        row = []
        for n in range(60):
            broad, tall = (0.06 + 0.06 * np.exp(-(((n - at) / 4) ** 2)) for at in (18, 42))
            row.append(Seen(0.02, (0.28 - broad, 0.5 - tall, 0.28 + broad, 0.5 + tall), 0.3, 0.01))
        found = {p.why: p.frame for p in proposals(row, 30, WIDE) if p.peak > 0.3}
        assert set(found) <= {"broadest", "tallest", "highest point", "lowest point", "turn", "impact"}
        assert abs(found["broadest"] - 18) <= 1
        assert abs(found["tallest"] - 42) <= 1
        assert MOVEMENTS[curves_of(row, 30, WIDE).movement] in ("how tall it is", "how broad it is")

    def test_who_hardly_moves_beside_who_does_is_no_subject(self):
        row = [Seen(0.1, one.box, 0.3, 0.01, figures={0: one.figures[0], 1: figure(0.12, 0.5)}) for one in leap(30)]
        assert len(subjects(row, 30, WIDE)) == 1

    def test_who_leaves_the_picture_has_no_apex_there(self):
        row = []
        for n in range(60):
            up = max(0.0, 0.12 - 0.0006 * (n - 30) ** 2)
            row.append(seen(figure(WIDE + 0.02, 0.5 - up)))  # half of them is beyond the edge
        assert all(p.peak == 0 for p in proposals(row, 30, WIDE))

    def test_crispness_goes_by_movement_and_by_detail(self):
        row = leap(30)
        row = [seen(one.figures[0], speed=0.002 if n == 20 else 0.02) for n, one in enumerate(row)]
        assert curves_of(row, 30, WIDE).crisp.argmax() == 20
        row = [seen(one.figures[0], speed=0.02, detail=0.5 if n == 40 else 0.2) for n, one in enumerate(row)]
        assert curves_of(row, 30, WIDE).crisp.argmax() == 40


def moved(n, h=288, w=162):
    """A frame in which a textured disc goes up and down over a textured scene, and where it is."""
    rng = np.random.default_rng(5)
    scene = cv2.GaussianBlur(rng.integers(60, 150, (h, w, 3)).astype(np.float32), (0, 0), 1.5)
    ball = cv2.GaussianBlur(rng.integers(0, 255, (41, 41, 3)).astype(np.float32), (0, 0), 0.7)
    y, x = np.mgrid[-20:21, -20:21]
    inside = (x * x + y * y <= 400)[..., None]
    at = round(30 + 3 * n), round(200 - 110 + 0.28 * (n - 17) ** 2)
    left, top = at[0] - 20, at[1] - 20
    part = scene[max(0, top) : top + 41, max(0, left) : left + 41]
    cut = np.s_[max(0, -top) : max(0, -top) + part.shape[0], max(0, -left) : max(0, -left) + part.shape[1]]
    part[:] = np.where(inside[cut], ball[cut], part)
    return np.clip(scene, 0, 255).astype(np.uint8), at


class TestWatch:
    def test_a_thing_that_moves_is_found_frame_by_frame(self):
        frames = [moved(n) for n in range(34)]
        found = list(watch(f for f, _ in frames))
        assert len(found) == 34
        off = []
        for (one, body), (_, (x, y)) in list(zip(found, frames, strict=True))[2:-2]:
            left, top, right, bottom = one.box
            off.append(np.hypot((left + right) / 2 - x / 288, (top + bottom) / 2 - y / 288))
            assert body.shape == (288, 162)
        assert np.median(off) < 0.02
        best = proposals([one for one, _ in found], 30, WIDE)[0]
        assert abs(best.frame - 17) <= 2

    def test_what_is_blurred_has_less_detail(self):
        frames = [moved(n)[0] for n in range(24)]
        frames[12] = cv2.GaussianBlur(frames[12], (0, 0), 2)
        detail = [one.detail for one, _ in watch(frames)]
        assert detail[12] < 0.7 * min(detail[11], detail[13])

    @pytest.mark.parametrize("count", [1, 2, 3])
    def test_takes_of_a_few_frames_and_small_pictures_are_no_trouble(self, count):
        for size in ((288, 162), (16, 40)):
            frames = [np.full((*size, 3), 90, np.uint8)] * count
            assert [one.share for one, _ in watch(frames)] == [0.0] * count

    def test_of_many_frames_a_second_thirty_are_looked_at_and_the_others_lie_between(self):
        assert [stride(rate) for rate in (12, 25, 30, 50, 60, 120, 240)] == [1, 1, 1, 2, 2, 4, 8]
        read = []

        def frames(wanted):
            read.extend(wanted)
            return (moved(n / 4)[0] for n in wanted)

        found = [one for one, _ in looked_through(frames, range(130), 120)]
        assert read == list(range(0, 130, 4))
        assert len(found) == 130
        middle = np.array([(one.box[0] + one.box[2]) / 2 * 288 for one in found])
        assert np.abs(middle - (30 + 3 * np.arange(130) / 4))[8:-8].max() < 5
        assert found[60].speed < 0.5 * 3 / 288 * 4
        best = proposals(found, 120, WIDE)[0]
        assert abs(best.frame - 68) <= 6

    def test_people_keep_their_numbers_apart_when_it_goes_on(self):
        one, other = seen(figure(0.2, 0.5), number=3), seen(figure(0.3, 0.5), number=3)
        (a, _), (b, _), (c, _) = filled([(one, None), (other, None)], 2, 3)
        assert b.figures[3][:, 0] == pytest.approx((a.figures[3][:, 0] + c.figures[3][:, 0]) / 2)
        gone = seen(figure(0.3, 0.5), number=9)
        assert list(filled([(one, None), (gone, None)], 2, 3))[1][0].figures == {}


class TestCadence:
    def test_in_time(self):
        assert cadence.in_time(10, 30, 5, range(60)) == [10, 15, 20, 25, 30]
        assert cadence.in_time(10, 30, 1, range(60)) == [10]
        assert cadence.every(10, 31, 7, range(60)) == [10, 17, 24, 31]
        with pytest.raises(ValueError, match="at least one"):
            cadence.every(10, 31, 0, range(60))

    def test_only_frames_that_there_are(self):
        assert cadence.in_time(10, 30, 5, range(0, 60, 2)) == [10, 14, 20, 24, 30]
        assert cadence.in_time(10, 30, 5, []) == []

    def test_by_distance_the_body_goes_as_far_between_each(self):
        row = [Seen(0.1, (x, 0.4, x + 0.1, 0.6)) for x in (0.0002 * n * n for n in range(50))]
        chosen = cadence.in_distance(cadence.travelled(row), 5, 45, 5, range(50))
        gone = np.diff([0.0002 * n * n for n in chosen])
        assert np.ptp(gone) < 0.25 * gone.mean()
        assert np.diff(chosen)[0] > 1.5 * np.diff(chosen)[-1]

    def test_where_nothing_goes_anywhere_it_is_in_time(self):
        assert cadence.in_distance(cadence.travelled([Seen()] * 50), 10, 30, 5, range(50)) == [10, 15, 20, 25, 30]


class TestGhosts:
    def test_bodies_stand_together_and_the_rest_stays(self):
        under = np.full((240, 160, 3), 100, np.uint8)
        bodies, pictures = [], []
        for n, x in enumerate((40, 110)):
            body = np.zeros((120, 80), np.uint8)
            cv2.ellipse(body, (x // 2, 60), (12, 30), 0, 0, 360, 255, -1)
            bodies.append(body)
            pictures.append(np.full((240, 160, 3), (220, 30)[n], np.uint8))
        made_of = [ghosts.ghost(body, picture) for body, picture in zip(bodies, pictures, strict=True)]
        made = ghosts.together(under, made_of, 1.0)
        assert abs(int(made[120, 40, 0]) - 220) < 6
        assert abs(int(made[120, 110, 0]) - 30) < 6
        assert np.abs(made[:, 70:84].astype(int) - 100).max() <= 6
        half = ghosts.together(under, made_of, 0.5)
        assert abs(int(half[120, 40, 0]) - 160) < 6
        nobody = ghosts.ghost(np.zeros((120, 80), np.uint8), pictures[0])
        assert np.array_equal(ghosts.together(under, [nobody]), under)

    def test_who_covers_whom_and_by_how_much(self):
        one, other, third = (np.zeros((50, 50), np.uint8) for _ in range(3))
        one[10:30, 10:30] = 255
        other[10:30, 25:45] = 255
        third[40:45, 0:5] = 255
        assert ghosts.overlaps([one, other, third]) == [(0, 1, pytest.approx(0.25))]
        assert ghosts.overlaps([one, np.zeros_like(one)]) == []


class TestSheet:
    def test_frames_lie_in_rows_with_their_numbers_below(self):
        pictures = [np.full((192, 108, 3), 40 + 20 * n, np.uint8) for n in range(7)]
        made = contact_sheet(pictures, [str(n) for n in range(7)], "Dune run", Sheet(wide=600))
        assert made.shape[1] <= 600
        grey = made[..., 0]
        for n in range(7):
            assert (grey == 40 + 20 * n).sum() > 0.9 * 192 * 100  # each is there, whole
        assert (grey < 40).sum() > 20  # and something is written
        with pytest.raises(ValueError, match="needs a picture"):
            contact_sheet([], [], "Nothing")


class TestTruth:
    def test_apexes_of_joints(self):
        frames = []
        for n in range(40):
            up = max(0.0, 90 - 0.5 * (n - 20) ** 2)
            frames.append([{
                "pelvis": (300 + n, 700 - up), "head": (300 + n, 480 - up), "handN": (340 + n, 700 - up),
                "handF": (260 + n, 700 - up), "ankleN": (310 + n, 980 - up), "ankleF": (290 + n, 980 - up),
            }])  # fmt: skip
        assert [(a["frame"], a["what"]) for a in apexes(frames, (720, 1280))] == [(20, "top")]
        still = blurs(frames, (720, 1280))
        assert still[20] < still[14]
        assert blurs([[{"head": (-50.0, -50.0)}]] * 3, (720, 1280)) == [None, None, None]
