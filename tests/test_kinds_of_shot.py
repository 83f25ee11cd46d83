"""Made-up shots to measure mattes on, and leaving a voice out."""

import cv2
import numpy as np
import pytest

from nervykite.cli import main
from nervykite.core.see.find import marks, opinion
from nervykite.core.see.find.strokes import draw
from tools.bench import kinds, matte, plate
from tools.bench.worlds import SIZE, WORLDS, Away, short_strokes_on, shot_of


def middles(shot) -> np.ndarray:
    rows, columns = zip(*(np.nonzero(t > 0.5) for t in shot.truth), strict=True)
    return np.array([(c.mean(), r.mean()) for c, r in zip(columns, rows, strict=True)])


class TestWorlds:
    @pytest.mark.parametrize("world", WORLDS)
    def test_a_seed_is_always_the_same_shot(self, world):
        one, same, other = shot_of(world, 3, 5), shot_of(world, 3, 5), shot_of(world, 4, 5)
        assert len(one.frames) == len(one.truth) == 5
        assert one.frames[0].shape == (*SIZE[::-1], 3)
        assert all(np.array_equal(a, b) for a, b in zip(one.frames, same.frames, strict=True))
        assert not np.array_equal(one.frames[2], other.frames[2])
        assert 0.02 < (one.truth[2] > 0.5).mean() < 0.35

    def test_who_lingers_hardly_goes_anywhere(self):
        for seed in range(2):
            far = {w: np.ptp(middles(shot_of(w, seed, 3))[:, 0]) for w in ("crosses", "lingers")}
            assert far["lingers"] < 0.5 * far["crosses"]

    def test_a_camera_pans_or_stands(self):
        for world, moves in (("crosses", False), ("pans", True)):
            shot = shot_of(world, 2, 3)
            away = cv2.dilate(np.maximum(shot.truth[0], shot.truth[2]), np.ones((61, 61))) < 0.01
            grey = [cv2.GaussianBlur(cv2.cvtColor(f, cv2.COLOR_RGB2GRAY), (0, 0), 2) for f in shot.frames]
            apart = np.abs(grey[0].astype(int) - grey[2])[away].mean()
            assert (apart > 3) == moves

    def test_somebody_who_comes_and_stays_rests_in_the_end(self):
        for seed in range(2):
            x = middles(shot_of("stays", seed, 11))[:, 0]
            assert np.ptp(x[5:]) < 0.4 * np.ptp(x)

    def test_the_place_and_what_no_frame_shows_of_it_are_known(self):
        for world in ("lingers", "pans"):
            shot = shot_of(world, 1, 9)
            held, truth = shot.frames[4].astype(int), shot.truth[4]
            assert np.abs(held - shot.place)[truth == 0].mean() < 6
            assert np.abs(held - shot.place)[truth > 0.9].mean() > 15
            assert not shot.hidden[truth == 0].any()
            assert shot.hidden.any() == (world == "lingers")

    def test_short_strokes_lie_where_they_should(self):
        for seed in range(3):
            truth = shot_of("crosses", seed, 3).truth[1]
            drawn = short_strokes_on(np.random.default_rng(seed), truth)
            if drawn is not None:
                keep, drop = (draw(s, *truth.shape) for s in drawn)
                assert truth[keep].mean() > 0.9
                assert truth[drop].max() < 0.5


class TestPlates:
    def test_are_measured_where_subjects_cover_the_place(self, monkeypatch):
        monkeypatch.setattr(plate, "SEEDS", 1)
        away = plate.Scenario("lingers", Away(0.1, True))
        monkeypatch.setattr(plate, "SCENARIOS", (plate.Scenario("crosses"), away))
        result = plate.measure()
        assert 0 < result.ratio < 0.7
        assert "where a frame shows it" in result.figures["crosses"]
        assert str(away) == "lingers, away for 10 % at the beginning"
        assert "by no frame" in result.figures["guesses"]

    def test_somebody_is_away_for_a_share_of_the_frames(self):
        for before in (True, False):
            shot = shot_of("lingers", 2, 20, Away(0.2, before))
            there = [(t > 0.5).mean() for t in (shot.truth if before else shot.truth[::-1])]
            assert max(there[:4]) < 0.3 * there[10]
            assert min(there[9:]) > 0.5 * there[10]


class TestLeavingOut:
    def test_what_is_left_out_says_nothing_and_is_there_again(self):
        before = opinion.nearer
        with kinds.left_out(("nearer", "tracer")):
            assert marks.nearer is not before
        assert marks.nearer is before

    def test_an_unknown_name_is_refused(self, capsys):
        assert main(["bench", "matte", "--without", "nobody"]) == 1
        assert "no “nobody” to leave out" in capsys.readouterr().err
        assert main(["bench", "carry", "--without", "judge"]) == 1

    def test_a_kind_is_scored_with_and_without(self, monkeypatch):
        few = [k for k in kinds.kinds(seeds=1) if k.name == "marks, two strokes"]
        monkeypatch.setattr(kinds, "kinds", lambda: few)
        found = matte.measure(without="colour")
        assert "without colour" in found.figures["marks, two strokes"]
        assert 0 < found.figures["mean IoU"] <= 1
