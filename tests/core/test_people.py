"""Finding people and the silhouettes of figures."""

import cv2
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.find import figures, marks, person, prior
from nervykite.core.see.find.figures import DrawnFigure, Figure, convincing, figures_in, silhouette, there
from nervykite.core.see.find.prior import PriorSettings
from nervykite.core.see.footage import loose
from nervykite.demo import FOOTAGE

from ..truth import truth_alpha
from .scenes import blob, composed, overlap, texture

pytestmark = pytest.mark.network


class TestPickPerson:
    def frame(self, shot: str, number: int) -> np.ndarray:
        full, _, _ = loose.around(FOOTAGE / f"{shot}.mp4", number, None)
        return full

    @pytest.mark.parametrize(("shot", "number", "least"), [("dune-run", 60, 0.7), ("reel-out", 44, 0.88)])
    def test_finds_people_near_and_far(self, shot, number, least):
        found = cv2.resize(person.pick_person(self.frame(shot, number)).found, (720, 1280))
        assert overlap(found, truth_alpha(shot, number)) > least

    def test_what_is_only_half_likely_is_nobody_beside_somebody_sure(self, monkeypatch):
        body, rock = blob(240, 180, 60, 120, 40), blob(240, 180, 140, 120, 40)
        frame = composed(
            np.maximum(body, rock), texture(240, 180, (200, 80, 60), 3), texture(240, 180, (90, 120, 150), 1)
        )
        for sure, doubted, found in ((0.97, 0.56, [True, False]), (0.97, 0.9, [True, True]), (0.7, 0.62, [True, True])):
            monkeypatch.setattr(
                person, "prior", lambda *_, a=sure, b=doubted, **__: np.maximum(a * body, b * rock).astype(np.float32)
            )
            answer = person.pick_person(frame).found
            assert [bool((answer > 0.5)[part > 0.9].mean() > 0.8) for part in (body, rock)] == found

    @pytest.mark.parametrize("somebody", [False, True])
    def test_a_large_part_beside_a_figure_is_nobody_unless_a_figure_is_found_there(self, monkeypatch, somebody):
        figure, other = blob(240, 180, 55, 120, 40), blob(240, 180, 135, 120, 36)
        likely, drawn = np.maximum(figure, 0.95 * other), Figure(np.array([135, 120]), np.array([135, 80]), 0.9)
        monkeypatch.setattr(prior, "figures_in", lambda *_: [drawn] if somebody else [])
        monkeypatch.setattr(figures, "silhouette", lambda *_, **__: DrawnFigure(other, np.ones_like(other), drawn))
        left = prior._borne_out(np.zeros((240, 180, 3), np.uint8), likely, figure, 50.0, PriorSettings())
        assert left[figure > 0.9].min() > 0.8
        assert (left[other > 0.9].max() > 0.8) == somebody
        assert (left[other > 0.9].mean() < 0.3) != somebody

    @pytest.mark.parametrize("gap", [0, 14])
    def test_a_small_part_is_somebodys_if_it_hangs_together_with_a_figure(self, monkeypatch, gap):
        figure = blob(240, 180, 90, 150, 45)
        top = int(np.flatnonzero((figure > 0.5).any(1))[0])
        column = int(np.flatnonzero(figure[top + 1] > 0.5).mean())
        head = cv2.circle(np.zeros((240, 180), np.float32), (column, top - 8 - gap), 11, 0.95, -1)
        monkeypatch.setattr(prior, "figures_in", lambda *_: [])
        left = prior._borne_out(
            np.zeros((240, 180, 3), np.uint8), np.maximum(figure, head), figure, 50.0, PriorSettings()
        )
        upper = (head > 0) & (np.arange(240)[:, None] < top - 10 - gap)
        assert (left[upper].mean() > 0.8) == (gap == 0)
        assert (left[upper].mean() < 0.3) == (gap > 0)

    def test_somebody_far_away_beside_somebody_near_is_found_where_something_moves(self):
        picture, near = self.frame("dune-run", 60).copy(), truth_alpha("dune-run", 60)
        rows, columns = np.flatnonzero(near.max(1) > 0.5), np.flatnonzero(near.max(0) > 0.5)
        part = slice(rows[0] - 9, rows[-1] + 9), slice(columns[0] - 9, columns[-1] + 9)
        k = 150 / (part[0].stop - part[0].start)
        runner, share = (cv2.resize(v[part], None, fx=k, fy=k, interpolation=cv2.INTER_AREA) for v in (picture, near))
        there = slice(1080, 1080 + share.shape[0]), slice(500, 500 + share.shape[1])
        picture[there] = runner * share[..., None] + picture[there] * (1 - share[..., None])
        far = np.zeros(near.shape, np.float32)
        far[there] = share
        stirs = 2 * cv2.dilate(np.maximum(near, far), np.ones((9, 9)))
        found = cv2.resize(person.pick_person(picture, stirs=stirs).found, (720, 1280))
        assert overlap(found[1070:, 460:], far[1070:, 460:]) > 0.75
        assert overlap(found[:1070], near[:1070]) > 0.75

    def test_what_looks_like_people_but_neither_moves_nor_is_a_figure_is_nobody(self, monkeypatch):
        mover, rock = blob(240, 180, 50, 120, 40), blob(240, 180, 135, 120, 40)
        looks = np.maximum(mover, rock)
        picture = np.repeat(np.round(250 * looks)[..., None], 3, 2).astype(np.uint8)
        monkeypatch.setattr(prior, "likelihood", lambda crop: crop[..., 0] / np.float32(255))
        monkeypatch.setattr(prior, "figures_in", lambda *_: [])
        still = prior.prior(picture)
        moving = prior.prior(picture, stirs=2 * mover)
        assert still[mover > 0.9].mean() > 0.8
        assert still[rock > 0.9].mean() > 0.8
        assert moving[mover > 0.9].mean() > 0.8
        assert moving[rock > 0.9].mean() < 0.25
        # If what moves does not look like people, it has no say.
        assert np.array_equal(prior.prior(picture, stirs=2 * np.roll(mover, 90, 0)), still)

    def test_a_mover_is_looked_at_from_where_it_looks_most_like_people(self, monkeypatch):
        body = blob(240, 180, 60, 120, 40) > 0.5
        seen = []

        def likelihood(crop: np.ndarray) -> np.ndarray:
            """Sure of what is marked white, but only from the middle one of three distances."""
            seen.append(crop.shape[0])
            return crop[..., 0] / np.float32(255) * (0.9 if len(seen) == 2 else 0.5)

        monkeypatch.setattr(prior, "likelihood", likelihood)
        ((window, part),) = prior._movers(np.repeat(np.uint8(255 * body)[..., None], 3, 2), body, PriorSettings())
        assert np.array_equal(part, body)
        assert seen[1] == window[3] - window[1] != seen[0]

    def test_a_speck_and_what_does_not_look_like_people_are_not_looked_at_again(self, monkeypatch):
        moving = np.zeros((240, 180), bool)
        moving[100:103, 50:53] = True
        monkeypatch.setattr(prior, "likelihood", lambda crop: np.ones(crop.shape[:2], np.float32))
        assert prior._movers(np.zeros((240, 180, 3), np.uint8), moving, PriorSettings()) == []
        moving[100:180, 50:90] = True
        ((window, part),) = prior._movers(np.zeros((240, 180, 3), np.uint8), moving, PriorSettings())
        assert window is None  # everything looks like people
        assert (part == moving).all()

    def test_what_is_known_of_somebody_says_where_to_look(self, monkeypatch):
        asked = []
        monkeypatch.setattr(prior, "likelihood", lambda crop: np.zeros(crop.shape[:2], np.float32))
        monkeypatch.setattr(prior, "figures_in", lambda picture, windows, *_: asked.extend(windows) or [])
        near = np.zeros((240, 180), np.float32)
        near[150:190, 120:150] = 1
        prior.prior(np.zeros((240, 180, 3), np.uint8), near)
        assert (103, 138, 167, 202) in asked

    @pytest.mark.parametrize(
        ("seen", "placed", "off", "somebody"),
        [
            (0.9, 0.75, 50, True),
            (0.9, 0.6, 0, False),
            (0.5, 0.9, 2, True),
            (0.5, 0.9, 30, False),
            (0.5, 0.79, 2, False),
        ],
    )
    def test_one_network_alone_has_to_be_surer_and_to_agree(self, seen, placed, off, somebody):
        hips, top = np.array([60.0, 120.0]), np.array([60.0, 60.0])
        assert convincing(Figure(hips, top, seen), Figure(hips + [off, 0], top, placed)) == somebody

    def test_a_doubtful_figure_is_somebody_if_it_is_what_moves(self):
        drawn = blob(240, 180, 60, 120, 40)
        top = np.array([60.0, 60.0])
        first = Figure(np.array([60.0, 120.0]), top, 0.5)
        shown = DrawnFigure(drawn, np.ones_like(drawn), Figure(np.array([60.0, 150.0]), top, 0.9))
        assert not there(first, shown, np.zeros(drawn.shape, bool))
        assert there(first, shown, drawn > 0.4)

    def test_nobody_is_said(self):
        with pytest.raises(Refusal, match="No person was found"):
            person.pick_person(self.frame("dune-run", 125))

    def test_without_the_network_it_says_why_it_is_off(self, monkeypatch, tmp_path):
        monkeypatch.setenv("NERVYKITE_NETWORKS", str(tmp_path))
        with pytest.raises(Refusal, match="Pick person is off"):
            person.pick_person(self.frame("dune-run", 60))


class TestFigures:
    def test_a_figure_is_found_with_its_hips_and_silhouette(self):
        frame = np.ascontiguousarray(TestPickPerson().frame("dune-run", 60))
        found = figures_in(frame, [(0, 0, 720, 1280)])
        truth = truth_alpha("dune-run", 60) > 0.5
        x, y = found[0].hips.astype(int)
        assert truth[y, x]
        alpha, inside, placed = silhouette(frame, found[0])
        assert overlap(alpha, truth) > 0.8
        assert inside[truth].mean() > 0.94
        assert placed.sure > 0.9
        careful, _, again = silhouette(frame, found[0], careful=True)
        assert overlap(careful, truth) > overlap(alpha, truth)
        assert np.array_equal(placed.hips, again.hips)

    def test_a_part_too_small_to_hold_anybody_is_passed_over(self):
        assert figures_in(np.zeros((40, 40, 3), np.uint8), [(0, 0, 10, 10)]) == []

    def test_strokes_say_who_is_meant(self):
        frame = np.ascontiguousarray(TestPickPerson().frame("change-over", 70))
        one, other = (truth_alpha("change-over", 70, n) for n in (1, 2))
        meant, not_meant = (one, other) if one.sum() > 1000 else (other, one)
        keep = cv2.erode((meant > 0.9).astype(np.uint8), np.ones((15, 15), np.uint8)) > 0
        drop = cv2.erode((not_meant > 0.9).astype(np.uint8), np.ones((15, 15), np.uint8)) > 0
        hint = cv2.resize(prior.person_hint(frame, keep, drop), (720, 1280))
        assert hint[keep].mean() > 0.6
        assert hint[keep].mean() > hint[drop].mean() + 0.2


class TestHeard:
    """How far a person finder is borne out by strokes."""

    BODY, ARM = blob(240, 180, 90, 100, 40), blob(240, 180, 90, 180, 18)

    def borne_out(self, kept: np.ndarray, dropped: np.ndarray) -> float:
        _, sure = marks._heard(self.BODY, kept > 0.5, dropped > 0.5)
        return float(np.mean((sure * np.ones_like(self.BODY))[self.BODY > 0.9]))

    def test_a_stroke_that_goes_on_beside_it_says_only_that_it_is_not_all(self):
        nothing = np.zeros_like(self.BODY)
        whole = self.borne_out(self.BODY, nothing)
        assert whole > 0.9
        assert self.borne_out(np.maximum(self.BODY, self.ARM), nothing) > 0.6 * whole

    def test_a_drop_stroke_on_it_says_that_it_is_wrong(self):
        assert self.borne_out(blob(240, 180, 90, 90, 20), blob(240, 180, 90, 135, 14)) == 0
