"""Lessons from cut-out pictures before photographs."""

from pathlib import Path

import cv2
import numpy as np
import pytest

from tools.learn.cutouts import HELD_BACK, LONGEST, Collection, cutout_of, place_of, shaded
from tools.learn.scenes import LEAST

from .scenes import blob, texture

pytestmark = pytest.mark.learn


def keep_cutout(file: Path, colour: tuple[int, int, int], seed: int = 1) -> Path:
    """A cut-out figure in a file, with much empty room around it."""
    alpha = blob(320, 240, 120, 150, 90)
    picture = np.dstack([texture(320, 240, colour, seed, 40), 255 * alpha])
    cv2.imwrite(str(file), np.clip(picture, 0, 255).astype(np.uint8))
    return file


def keep_place(file: Path, seed: int) -> Path:
    """A photograph of a mottled place in a file."""
    cv2.imwrite(str(file), np.clip(texture(400, 500, (130, 140, 120), seed, 45), 0, 255).astype(np.uint8))
    return file


@pytest.fixture
def folders(tmp_path) -> tuple[Path, Path]:
    figures, places = tmp_path / "figures", tmp_path / "places"
    (figures / "inner").mkdir(parents=True)
    places.mkdir()
    for n, colour in enumerate([(200, 80, 60), (60, 80, 200), (90, 180, 90), (180, 180, 60)]):
        keep_cutout(figures / "inner" / f"figure-{n}.png", colour, n)
        keep_place(places / f"place-{n}.jpg", n + 10)
    return figures, places


class TestFiles:
    def test_a_cutout_loses_its_empty_room(self, tmp_path):
        cut = cutout_of(keep_cutout(tmp_path / "a.png", (200, 80, 60)))
        assert cut is not None
        assert cut.shape[0] < 300
        assert cut.shape[1] < 200
        assert (cut[0, :, 3] > 0).any()
        inside = cut[..., 3] > 250
        assert cut[inside][:, 2].mean() > cut[inside][:, 0].mean() + 80  # written as blue, green, red

    def test_what_is_no_cutout_is_left_out(self, tmp_path):
        whole = np.clip(np.dstack([texture(300, 300, (90, 90, 90), 1, 40), np.full((300, 300), 255)]), 0, 255)
        plain = np.dstack([np.full((300, 300, 3), 80), 255 * blob(300, 300, 150, 150, 80)])
        small = cv2.resize(
            np.dstack([texture(320, 240, (90, 90, 90), 1), 255 * blob(320, 240, 120, 150, 90)]), (60, 80)
        )
        empty = np.zeros((300, 300, 4))
        for name, picture in {"whole": whole, "plain": plain, "small": small, "empty": empty}.items():
            file = tmp_path / f"{name}.png"
            cv2.imwrite(str(file), np.clip(picture, 0, 255).astype(np.uint8))
            assert cutout_of(file) is None, name
        assert cutout_of(keep_place(tmp_path / "place.jpg", 1)) is None

    def test_a_place_with_nothing_in_it_is_left_out(self, tmp_path):
        assert place_of(keep_place(tmp_path / "place.jpg", 2)) is not None
        cv2.imwrite(str(tmp_path / "plain.png"), np.full((400, 400, 3), 90, np.uint8))
        assert place_of(tmp_path / "plain.png") is None
        (tmp_path / "broken.jpg").write_bytes(b"no picture")
        assert place_of(tmp_path / "broken.jpg") is None


class TestCollection:
    def test_a_scene_shows_the_subject_where_its_matte_is(self, folders):
        figures, places = folders
        collection = Collection([figures], [places])
        rng = np.random.default_rng(3)
        scenes = [s for s in (collection.scene(rng, 320, 180) for _ in range(12)) if s is not None]
        assert len(scenes) > 6
        for picture, alpha, _ in scenes:
            assert picture.shape == (320, 180, 3)
            assert picture.dtype == np.uint8
            assert alpha.shape == (320, 180)
            assert 0 <= alpha.min() <= alpha.max() <= 1
            assert (alpha > 0.5).mean() >= LEAST
        apart = [
            np.abs(
                picture[alpha > 0.9].mean(0)
                - picture[(alpha < 0.1) & (cv2.dilate(alpha, np.ones((31, 31))) > 0.5)].mean(0)
            )
            for picture, alpha, _ in scenes
        ]
        assert np.median(apart) > 10

    def test_the_same_seed_makes_the_same_scene(self, folders):
        collection = Collection(*([folder] for folder in folders))
        one, other = (collection.scene(np.random.default_rng(5), 160, 90) for _ in range(2))
        assert one is not None
        assert other is not None
        assert np.array_equal(one[0], other[0])
        assert np.array_equal(one[1], other[1])

    def test_some_are_left_for_tests_and_none_is_in_both(self, folders):
        learned, tested = (Collection(*([folder] for folder in folders), tests=tests) for tests in (False, True))
        assert len(tested.cutouts) == -(-4 // HELD_BACK)
        assert len(learned.cutouts) + len(tested.cutouts) == 4
        assert not any(np.array_equal(a, b) for a in learned.cutouts for b in tested.cutouts)

    def test_without_pictures_it_says_so(self, tmp_path):
        with pytest.raises(ValueError, match="no cut-outs or no places"):
            Collection([tmp_path], [tmp_path])


class TestDrawings:
    def test_light_and_material_vary_and_the_matte_does_not(self):
        drawing = np.full((90, 70, 4), (120, 90, 60, 255), np.uint8)
        drawing[:20, :, 3] = 0
        rng = np.random.default_rng(1)
        looks = [shaded(rng, drawing) for _ in range(6)]
        for look in looks:
            assert look.shape == drawing.shape
            assert 0 <= look.min() <= look.max() <= 255
            assert np.array_equal(look[..., 3], drawing[..., 3])
        assert max(look[..., :3].std((0, 1)).max() for look in looks) > 3
        assert np.abs(looks[0] - looks[1]).max() > 3

    def test_they_take_turns_with_the_cutouts_and_are_kept_small(self, folders, tmp_path):
        figures, places = folders
        for n in range(3):
            drawn = cv2.resize(
                cv2.imread(str(figures / "inner" / f"figure-{n}.png"), cv2.IMREAD_UNCHANGED), (1500, 2000)
            )
            drawn[..., :3] = 255 - drawn[..., :3]
            (tmp_path / "drawn").mkdir(exist_ok=True)
            cv2.imwrite(str(tmp_path / "drawn" / f"{n}.png"), drawn)
        collection = Collection([figures], [places], [tmp_path / "drawn"])
        assert len(collection.drawings) == 2
        assert max(max(d.shape) for d in collection.drawings) == LONGEST
        rng, scenes = np.random.default_rng(2), []
        while len(scenes) < 4:
            scenes += [s for s in [collection.scene(rng, 160, 90)] if s is not None]
        assert all((s.alpha > 0.5).mean() >= LEAST / 2 for s in scenes)
