"""Colours and texture as the cut sees them."""

import numpy as np
import pytest

from nervykite.core.see.matte.colours import Mixture, lab, roughness, separation


class TestColours:
    def test_a_mixture_prefers_its_own_colours(self):
        rng = np.random.default_rng(0)
        red, blue = rng.normal((60, 50, 30), 4, (400, 3)), rng.normal((30, 10, -50), 4, (400, 3))
        model = Mixture.of(np.float32(np.concatenate([red[:200], blue[:200]])))
        green = np.float32(rng.normal((50, -50, 40), 4, (400, 3)))
        assert np.median(model.log_likelihood(np.float32(red[200:]))) > np.median(model.log_likelihood(green)) + 10
        assert np.median(model.log_likelihood(np.float32(blue[200:]))) > np.median(model.log_likelihood(green)) + 10

    def test_density_integrates_to_one(self):
        model = Mixture.of(np.float32(np.random.default_rng(1).normal(0, 5, (600, 3))), parts=3)
        axis = np.arange(-40, 41, 2.0, dtype=np.float32)
        grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1)
        total = np.exp(model.log_likelihood(grid) - 1.5 * np.log(2 * np.pi)).sum() * 8
        assert total == pytest.approx(1, abs=0.05)

    @pytest.mark.parametrize(("count", "values"), [(1, 3), (255, 5), (1000, 3)])
    def test_density_is_the_sum_of_its_parts(self, count, values):
        rng = np.random.default_rng(count)
        model = Mixture.of(np.float32(rng.normal(0, 20, (500, values))), parts=4)
        samples = np.float32(rng.normal(0, 30, (count, values)))
        off = samples[:, None] - model.means
        squares = (np.einsum("kij,nkj->nki", model.whitening, off) ** 2).sum(-1)
        wanted = np.log(np.exp(model.offsets - squares / 2).sum(1) + 1e-300)
        assert model.log_likelihood(samples) == pytest.approx(wanted, abs=0.02)

    def test_separation_is_high_for_different_and_low_for_like_colours(self):
        rng = np.random.default_rng(2)
        one, like, other = (np.float32(rng.normal(m, 5, (300, 3))) for m in (0, 0, 40))
        assert separation(one, other) > 0.97
        assert separation(one, like) < 0.65


class TestRoughness:
    def test_twice_the_texture_is_an_octave(self):
        grain = np.random.default_rng(0).normal(0, 12, (60, 80, 1))
        once, twice = (np.clip(128 + k * grain + np.zeros(3), 0, 255).astype(np.uint8) for k in (1, 2))
        assert (roughness(twice) - roughness(once)).mean() == pytest.approx(1, abs=0.1)

    def test_light_and_slow_changes_are_no_texture(self):
        ramp = np.tile(np.linspace(20, 220, 200)[None, :, None], (60, 1, 3)).astype(np.uint8)
        assert np.abs(roughness(np.full((60, 80, 3), 200, np.uint8)) + 1).max() < 1e-3
        assert roughness(ramp)[:, 10:-10].max() < 0.1


def test_lab_is_the_standards():
    white_black = lab(np.uint8([[[255, 255, 255], [0, 0, 0], [255, 0, 0]]]))[0]
    assert white_black[0] == pytest.approx([100, 0, 0], abs=0.1)
    assert white_black[1] == pytest.approx([0, 0, 0], abs=0.1)
    assert white_black[2] == pytest.approx([53.24, 80.09, 67.20], abs=0.3)
