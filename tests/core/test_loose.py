"""Paths from SVG, and files that belong to no project."""

import cv2
import numba
import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.find.cut import minimal_cut
from nervykite.core.see.footage import loose
from nervykite.core.see.matte.svg_mattes import area

from ..media import make_video


class TestSvg:
    def svg(self, inner: str) -> str:
        return f'<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10" viewBox="0 0 3 3">{inner}</svg>'

    def test_user_units_are_pixels_whatever_the_view_box_says(self):
        alpha = area(self.svg('<rect x="5" y="10" width="20" height="30"/>'), 60, 40)
        assert alpha[10:40, 5:25].min() == 1
        assert alpha.sum() == pytest.approx(600)

    def test_transforms_and_curves(self):
        moved = area(self.svg('<g transform="translate(10 20)"><circle cx="10" cy="10" r="8"/></g>'), 60, 40)
        assert moved.sum() == pytest.approx(np.pi * 64, rel=0.005)
        assert moved[30, 20] == 1

    def test_non_zero_fills_what_even_odd_leaves_open(self):
        rings = "M5 5 H35 V35 H5 Z M10 10 H30 V30 H10 Z"
        filled, open_ = (area(self.svg(f'<path {rule} d="{rings}"/>'), 40, 40) for rule in ("", 'fill-rule="evenodd"'))
        assert filled.sum() == pytest.approx(900)
        assert open_.sum() == pytest.approx(500)
        turned = area(self.svg('<path d="M5 5 H35 V35 H5 Z M10 10 V30 H30 V10 Z"/>'), 40, 40)
        assert turned.sum() == pytest.approx(500)

    @pytest.mark.parametrize("text", ["", "<svg", "{}", "<p>no</p>"])
    def test_what_is_no_svg_is_said(self, text):
        with pytest.raises(Refusal, match=r"not an SVG|fills no pixel"):
            area(text, 10, 10)


class TestLooseFiles:
    def test_mattes_of_all_depths(self, tmp_path):
        ramp = np.linspace(0, 1, 256)[None].repeat(4, 0)
        cv2.imwrite(str(tmp_path / "8.png"), np.round(ramp * 255).astype(np.uint8))
        cv2.imwrite(str(tmp_path / "16.png"), np.round(ramp * 65535).astype(np.uint16))
        with_alpha = np.dstack([np.zeros((4, 256, 3)), ramp * 255]).round().astype(np.uint8)
        cv2.imwrite(str(tmp_path / "a.png"), with_alpha)
        for name, slack in (("8", 0.003), ("16", 1e-4), ("a", 0.003)):
            assert np.abs(loose.read_matte(tmp_path / f"{name}.png") - ramp).max() < slack
        with pytest.raises(Refusal, match="cannot be read as a matte"):
            loose.read_matte(tmp_path / "none.png")

    def test_a_turned_video_is_read_upright_in_both_sizes(self, tmp_path):
        path = make_video(tmp_path / "turned.mp4", 6, (160, 120), rotation=90)
        assert loose.size_of(path) == (120, 160)
        full, small, at = loose.around(path, 3, (60, 80))
        assert full.shape == (160, 120, 3)
        assert [s.shape for s in small] == [(80, 60, 3)] * 6
        assert at == 3
        assert np.abs(cv2.resize(full, (60, 80), interpolation=cv2.INTER_AREA).astype(int) - small[3]).mean() < 3

    def test_only_the_neighbourhood_is_kept(self, tmp_path):
        path = make_video(tmp_path / "long.mp4", 30, (64, 48))
        _, small, at = loose.around(path, 15, (32, 24), reach=4)
        assert (len(small), at) == (9, 4)
        with pytest.raises(Refusal, match="no frame 30; its last one is 29"):
            loose.around(path, 30, None)


def test_kernels_run_on_openmp_whatever_else_the_machine_has():
    minimal_cut(np.zeros((8, 8), np.float32), np.ones((8, 8), np.float32), steps=20)
    assert numba.threading_layer() == "omp"
