"""Blend modes against the formulas of the standard, worked out once more here, in plain NumPy."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from nervykite.core.change.edits import ChangeLayer, ChangeMatte, HoldFrame
from nervykite.core.draw.picture.bands import Bands
from nervykite.core.draw.picture.blend_modes import FIRST_NON_SEPARABLE, NON_SEPARABLE, SEPARABLE
from nervykite.core.draw.picture.blending import blend
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.draw import PlacedSprite
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.glass import Glass, On, put_together
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.draw.picture.sprite import pack_rgba
from nervykite.core.piece.model import Matte
from nervykite.core.piece.model.blend import GROUPS, MODES
from nervykite.core.see.footage.planes import Planes, from_rgb, to_bgr

from ..conftest import box

COLOURS = [(0.9, 0.2, 0.1), (0.1, 0.7, 0.3), (0.25, 0.3, 0.8), (0.5, 0.5, 0.5), (0.95, 0.9, 0.2), (0.05, 0.06, 0.1)]


def lum(c):
    return c @ [0.3, 0.59, 0.11]


def set_lum(c, to):
    c = c + (to - lum(c))
    level, low, high = lum(c), c.min(), c.max()
    if low < 0:
        c = level + (c - level) * level / (level - low)
    if high > 1:
        c = level + (c - level) * (1 - level) / (high - level)
    return c


def set_sat(c, to):
    span = c.max() - c.min()
    return np.zeros(3) if span == 0 else (c - c.min()) * to / span


def hard_light(b, s):
    return np.where(s <= 0.5, 2 * b * s, b + (2 * s - 1) - b * (2 * s - 1))


def soft_light(b, s):
    d = np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(b))
    return np.where(s <= 0.5, b - (1 - 2 * s) * b * (1 - b), b + (2 * s - 1) * (d - b))


def spread(c):
    return c.max() - c.min()


FORMULAS = {
    "normal": lambda b, s: s,
    "multiply": lambda b, s: b * s,
    "darken": np.minimum,
    "color-burn": lambda b, s: np.where(
        b >= 1, 1, np.where(s <= 0, 0, 1 - np.minimum(1, (1 - b) / np.maximum(s, 1e-9)))
    ),
    "screen": lambda b, s: b + s - b * s,
    "lighten": np.maximum,
    "color-dodge": lambda b, s: np.where(b <= 0, 0, np.where(s >= 1, 1, np.minimum(1, b / np.maximum(1 - s, 1e-9)))),
    "overlay": lambda b, s: hard_light(s, b),
    "soft-light": soft_light,
    "hard-light": hard_light,
    "difference": lambda b, s: abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
    "hue": lambda b, s: set_lum(set_sat(s, spread(b)), lum(b)),
    "saturation": lambda b, s: set_lum(set_sat(b, spread(s)), lum(b)),
    "color": lambda b, s: set_lum(s, lum(b)),
    "luminosity": lambda b, s: set_lum(b, lum(s)),
}


def flat(colour, size=(40, 60)) -> Planes:
    return from_rgb(np.broadcast_to(np.array(colour, np.float32), (*size, 3)))


def as_kept(colour) -> np.ndarray:
    """A colour as eight-bit planes have it, back in R'G'B'."""
    p = flat(colour, (4, 4))
    y, u, v = (p.y[0, 0] - 16.0) / 219, (p.u[0, 0] - 128.0) / 224, (p.v[0, 0] - 128.0) / 224
    return np.clip([y + 1.5748 * v, y - 0.18732427 * u - 0.46812427 * v, y + 1.8556 * u], 0, 1)


def patch(colour, alpha: float, size=(20, 24)) -> np.ndarray:
    rgba = np.zeros((size[0] + 8, size[1] + 8, 4), np.float32)
    rgba[4:-4, 4:-4] = (*(np.array(colour) * alpha), alpha)
    return rgba


def test_every_mode_is_in_one_group():
    assert sorted(m for modes in GROUPS.values() for m in modes) == sorted(MODES)
    assert set(FORMULAS) | {"plus-lighter"} == set(MODES)


@pytest.mark.parametrize("mode", MODES)
@pytest.mark.parametrize(("alpha", "opacity"), [(1.0, 1.0), (0.5, 1.0), (1.0, 0.25)])
def test_against_the_formulas(mode, alpha, opacity):
    for backdrop in COLOURS:
        for source in COLOURS:
            planes = flat(backdrop)
            before = planes.copy()
            blend(planes, PlacedSprite(pack_rgba(6, 4, patch(source, alpha)), np.eye(3), opacity), mode)
            b, s, a = as_kept(backdrop), np.array(source), alpha * opacity
            if mode == "plus-lighter":
                expected = np.minimum(1, b + a * s)
            else:
                expected = a * FORMULAS[mode](b, s) + (1 - a) * b
            wanted = flat(np.clip(expected, 0, 1), (4, 4))
            # The source is dithered between two levels: on the whole it is what it was.
            for got, want in ((planes.y[12:20, 14:26], wanted.y[0, 0]), (planes.u[6:10, 7:13], wanted.u[0, 0]),
                              (planes.v[6:10, 7:13], wanted.v[0, 0])):  # fmt: skip
                steep = mode in ("color-burn", "color-dodge")
                assert abs(got.mean() - int(want)) <= (4 if steep else 1.25), (mode, backdrop, source)
            # Beside it nothing has changed.
            assert np.array_equal(planes.y[:6], before.y[:6])
            assert np.array_equal(planes.y[:, 40:], before.y[:, 40:])
            assert np.array_equal(planes.u[:, 20:], before.u[:, 20:])


def test_in_bands_turned_and_in_perspective_it_is_the_same():
    rng = np.random.default_rng(5)
    planes = from_rgb(rng.random((120, 160, 3)).astype(np.float32))
    sprite = pack_rgba(20, 10, patch((0.8, 0.4, 0.2), 0.9, (60, 80)))
    for matrix in (np.eye(3), np.array([[0.9, -0.3, 30], [0.3, 0.9, 4], [0, 0, 1.0]]),
                   np.array([[1, 0, 0], [0, 1, 0], [0, 0.001, 1.0]])):  # fmt: skip
        one, two = planes.copy(), planes.copy()
        blend(one, PlacedSprite(sprite, matrix, 0.7), "overlay")
        with ThreadPoolExecutor(2) as pool:
            blend(two, PlacedSprite(sprite, matrix, 0.7), "overlay", Bands(3, pool))
        assert all(np.array_equal(a, b) for a, b in zip((one.y, one.u, one.v), (two.y, two.u, two.v), strict=True))
        assert (one.y != planes.y).any()


def test_light_without_coverage_adds_to_what_is_below():
    rgba = patch((0.4, 0.3, 0.2), 1.0)
    rgba[..., 3] = 0
    planes = flat((0.2, 0.2, 0.2))
    blend(planes, PlacedSprite(pack_rgba(6, 4, rgba), np.eye(3)), "plus-lighter")
    assert np.abs(to_bgr(planes)[20, 20][::-1] / 255 - [0.6, 0.5, 0.4]).max() < 0.02
    planes = flat((0.2, 0.2, 0.2))
    blend(planes, PlacedSprite(pack_rgba(6, 4, rgba), np.eye(3)), "screen")
    got = to_bgr(planes)[20, 20][::-1] / 255
    assert (got > 0.21).all()
    assert got[0] > got[1] > got[2]


def test_a_layer_blends_with_what_lies_below_it_and_not_above(reel):
    made = reel(frames=12, size=(160, 120))
    document = made.document()
    item = document.project.ground[0].id
    below, above = (HoldFrame(item=item, frame=2, name=n) for n in ("Below", "Above"))
    for edit, left in ((below, 10), (above, 60)):
        document = edit.apply(document)
        hold = document.layer(edit.layer).source.hold
        document = ChangeMatte(hold=hold, matte=Matte(pieces=[box(left, 20, left + 70, 100)])).apply(document)
    renderer = Renderer(made.library())
    plain = renderer.render(Canvas.of(document), Evaluation(document).at(8))
    multiplied = ChangeLayer(layer=below.layer, blend="multiply").apply(document)
    assert Evaluation(multiplied).at(8).key != Evaluation(document).at(8).key
    frame = renderer.render(Canvas.of(multiplied), Evaluation(multiplied).at(8))
    assert (frame.y[30:90, 14:56] <= plain.y[30:90, 14:56]).all()
    assert (frame.y[30:90, 14:56] < plain.y[30:90, 14:56]).any()
    assert np.array_equal(frame.y[:, 82:], plain.y[:, 82:])
    assert np.array_equal(frame.y[30:90, 64:76], plain.y[30:90, 64:76])  # the plain layer above covers it there


def test_each_mode_has_one_formula_and_kernels_know_where_they_begin():
    assert sorted([*SEPARABLE, *NON_SEPARABLE, "normal", "plus-lighter"]) == sorted(MODES)
    assert MODES[FIRST_NON_SEPARABLE:] == tuple(NON_SEPARABLE)


def test_plus_lighter_adds_up_where_only_light_lies_below():
    light = np.zeros((4, 4, 4), np.float32)
    light[1, 1, :3] = 0.2
    glass = put_together([On(Glass(0, 0, light)), On(Glass(0, 0, light), "plus-lighter", 0.5)], (4, 4))
    assert glass.rgba[1, 1] == pytest.approx([0.3, 0.3, 0.3, 0])
