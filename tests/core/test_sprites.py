"""Sprites: beyond the canvas, in levels of detail, of pure light, in perspective."""

from fractions import Fraction

import numpy as np
import pytest

from nervykite.core.change.edits import ChangeGround, SetCanvas, SetKeys, SetValue
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.draw import PlacedSprite, draw
from nervykite.core.draw.picture.draws import SpriteSpec
from nervykite.core.draw.picture.evaluate import evaluate
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.draw.picture.sprite import pack_rgba
from nervykite.core.draw.picture.sprites import level_of
from nervykite.core.kinds.sources.picture import Patch, Picture
from nervykite.core.piece.model import Framing, Key, Matte
from nervykite.core.see.footage.planes import Planes, to_bgr

from ..conftest import box, held


def grey(width=80, height=60, level=100) -> Planes:
    half = height // 2, width // 2
    return Planes(*(np.full(s, v, np.uint8) for s, v in (((height, width), level), (half, 128), (half, 128))))


class TestBeyondTheCanvas:
    @pytest.fixture
    def cropped(self, reel):
        """A wide shot, 320 × 120, that fills a canvas of 120 × 120: 100 pixels of it lie beyond either side."""
        made = reel(size=(320, 120))
        document = SetCanvas(width=120, height=120, rate=Fraction(30)).apply(made.document())
        return made, document

    def test_what_the_crop_hides_comes_into_view_when_it_is_moved(self, cropped):
        made, document = cropped
        document, layer = held(document, 6, Matte(pieces=[box(20, 30, 70, 90)]))
        renderer = Renderer(made.library())
        nothing = renderer.render(Canvas.of(document), evaluate(document, 6))
        plain = made.library().exact(made.shot, 6)
        assert (nothing.y == plain.y[:, 100:220]).all()
        moved = SetValue(layer=layer, channel="position", frame=6, value=[110, 0]).apply(document)
        drawn = renderer.render(Canvas.of(moved), evaluate(moved, 6)).y
        assert np.abs(drawn[32:88, 32:78].astype(int) - plain.y[32:88, 22:68]).max() <= 1

    def test_a_landing_is_exact_for_a_subject_that_goes_on_beyond(self, cropped):
        made, document = cropped
        document, _ = held(document, 6, Matte(pieces=[box(60.5, 30, 180, 90.25)], soften_in=4, soften_out=4))
        renderer = Renderer(made.library())
        sprite = renderer.sprites.sprite(Canvas(document, (120, 120)), evaluate(document, 6).layers[0].sprite)
        assert sprite.left < -20
        for size in ((120, 120), (60, 60), (90, 90)):
            with_cutout = renderer.render(Canvas(document, size), evaluate(document, 6))
            bare = renderer.render(Canvas(document, size), evaluate(document, 6).__class__(*_ground_only(document)))
            for a, b in zip((with_cutout.y, with_cutout.u, with_cutout.v), (bare.y, bare.u, bare.v), strict=True):
                assert (a == b).all()

    def test_shown_whole_nothing_is_beyond(self, cropped):
        made, document = cropped
        item = document.project.ground[0].id
        document = ChangeGround(item=item, framing=Framing(mode="fit")).apply(document)
        document, _ = held(document, 6, Matte(pieces=[box(0, 0, 320, 120)]))
        sprite = Renderer(made.library()).sprites.sprite(
            Canvas(document, (120, 120)), evaluate(document, 6).layers[0].sprite
        )
        assert sprite.left >= -8
        assert sprite.luma.shape[1] <= 136


def _ground_only(document):
    draws = evaluate(document, 6)
    return draws.ground, (), draws.background


def woven(n: int, width: int, height: int) -> np.ndarray:
    """Cloth with threads of two pixels: what is lost at half the size."""
    y, x = np.mgrid[:height, :width] // 2
    return np.repeat(np.uint8(60 + 120 * ((x + y) % 2))[..., None], 3, 2)


class TestLevels:
    @pytest.fixture
    def enlarged(self, reel):
        """A shot of 640 × 480 on a canvas half as large, held and drawn three times as large at its end."""
        made = reel(size=(640, 480), picture=woven)
        document = SetCanvas(width=320, height=240, rate=Fraction(30)).apply(made.document())
        document, layer = held(document, 0, Matte(pieces=[box(200, 150, 440, 330)]))
        keys = [Key(channel="scale", tie=t, offset=0, value=[v]) for t, v in (("start", 1.0), ("end", 3.0))]
        return made, SetKeys(layer=layer, keys=keys).apply(document), layer

    def test_enlarged_it_has_the_sources_own_pixels(self, enlarged):
        made, document, layer = enlarged
        (drawn,) = evaluate(document, 12).layers
        assert drawn.largest == 3
        assert level_of(drawn, Canvas.of(document)) == 2  # as fine as the source, and no finer
        assert level_of(drawn, Canvas(document, (640, 480))) == 1
        renderer = Renderer(made.library())
        size = renderer.sprites.sprite(Canvas(document, (320, 240)), drawn.sprite, 2).luma.shape
        assert size[0] > 180
        fine = renderer.render(Canvas.of(document), evaluate(document, 12)).y
        coarse = Planes(*(p.copy() for p in (grey(320, 240).y, grey(320, 240).u, grey(320, 240).v)))
        blown_up = renderer.sprites.sprite(Canvas(document, (320, 240)), drawn.sprite)
        draw(coarse, [PlacedSprite(blown_up, np.array(drawn.matrix).reshape(3, 3))])
        inside = slice(80, 160), slice(110, 210)
        detail = [np.abs(np.diff(p[inside].astype(float))).mean() for p in (fine, coarse.y)]
        assert detail[0] > 3 * detail[1]  # the threads are there, and were averaged away
        means = (p[inside].mean() for p in (fine, coarse.y))
        assert next(means) == pytest.approx(next(means), abs=6)

    def test_at_rest_it_is_in_the_canvas_own_grid(self, enlarged):
        _, document, _ = enlarged
        (drawn,) = evaluate(document, 0).layers
        assert level_of(drawn, Canvas.of(document)) == 1


class Glow(Picture):
    """Light without any coverage."""

    digest = "glow"
    size = (40, 40)

    def cut(self, material, grid, margin):
        rgba = np.zeros((24, 24, 4), np.float32)
        rgba[4:-4, 4:-4, :3] = 0.25, 0.5, 0.0
        return Patch(20, 16, rgba=rgba)


class TestLight:
    def test_light_is_added_to_what_is_below(self):
        planes = grey(level=60)
        rgba = np.zeros((24, 24, 4), np.float32)
        rgba[4:-4, 4:-4, :3] = 0.25, 0.5, 0.0
        before = to_bgr(planes)[..., ::-1].astype(float)
        sprite = pack_rgba(20, 16, rgba)
        assert sprite.light
        draw(planes, [PlacedSprite(sprite, np.eye(3))])
        gained = to_bgr(planes)[..., ::-1].astype(float) - before
        assert np.abs(gained[24:32, 28:36] - [64, 128, 0]).max() <= 3
        assert np.abs(gained[:, :18]).max() == 0

    @pytest.mark.parametrize("scale", [1.0, 0.3])
    def test_faded_and_made_smaller_it_is_still_light(self, scale):
        planes, matrix = grey(level=60), np.diag([scale, scale, 1.0])
        draw(planes, [PlacedSprite(pack_rgba(20, 16, _square(0.5, 0.0)), matrix, 0.5)])
        middle = planes.y[round(28 * scale), round(32 * scale)]
        assert middle == pytest.approx(60 + 219 * 0.25, abs=2)

    def test_it_never_wraps_around(self):
        planes = grey(level=230)
        draw(planes, [PlacedSprite(pack_rgba(20, 16, _square(1.0, 0.0)), np.eye(3))])
        assert planes.y.max() == 255
        assert planes.y.min() == 230

    def test_a_sprite_of_light_comes_out_of_a_picture(self, reel):
        made = reel(size=(160, 120))
        document = made.document()
        sprite = Renderer(made.library()).sprites.sprite(Canvas(document, (160, 120)), SpriteSpec.of(Glow(), Framing()))
        assert sprite.light
        assert sprite.alpha.max() == 0


def _square(light: float, alpha: float) -> np.ndarray:
    rgba = np.zeros((24, 24, 4), np.float32)
    rgba[4:-4, 4:-4] = light, light, light, alpha
    return rgba


class TestPerspective:
    def test_the_last_row_counts(self):
        """A square seen from the side: its far edge is shorter, and lies where the matrix says."""
        planes = grey(160, 120)
        matrix = np.array([[1, 0, 0], [0, 1, 0], [0.004, 0, 1.0]])
        draw(
            planes,
            [
                PlacedSprite(
                    pack_rgba(20, 20, np.pad(np.ones((80, 80, 4), np.float32), ((4, 4), (4, 4), (0, 0)))), matrix
                )
            ],
        )
        lit = planes.y > 180
        columns = lit.sum(0)
        near, far = np.flatnonzero(columns)[[0, -1]]
        expected = [x / (1 + 0.004 * x) for x in (24, 104)]
        assert (near, far + 1) == pytest.approx(expected, abs=1.2)
        heights = [80 / (1 + 0.004 * x) for x in (24, 104)]
        assert columns[near + 1] == pytest.approx(heights[0], abs=2)
        assert columns[far - 1] == pytest.approx(heights[1], abs=2)

    def test_without_perspective_both_ways_of_drawing_agree(self):
        from nervykite.core.draw.picture import draw as module

        matrix = np.array([[0.9, -0.3, 12.4], [0.3, 0.9, -3.7], [0, 0, 1.0]])
        rng = np.random.default_rng(4)
        rgba = np.pad(rng.random((40, 40, 4)).astype(np.float32), ((2, 2), (2, 2), (0, 0)))
        rgba[..., :3] *= rgba[..., 3:]
        sprite = pack_rgba(20, 10, rgba)
        one, two = grey(120, 90), grey(120, 90)
        draw(one, [PlacedSprite(sprite, matrix)])
        topmost = [np.full(module.tiles_of(p.shape), -1, np.int16) for p in (two.y, two.u, two.v)]
        for _kernel, arguments, first, past in module._parts(two, PlacedSprite(sprite, matrix), topmost, 0):
            target, packed, _plain, height, width, back, *_ = arguments
            module._over_any(target, packed, height, width, np.vstack([back, [0, 0, 1]]), 1.0, 0.0, first, past)
        assert np.abs(one.y.astype(int) - two.y).max() <= 2
