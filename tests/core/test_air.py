"""Things in the air: the same again in any order, moving as they say, as much of them as they say."""

import numpy as np
import pytest

from nervykite.core.change.edits import AddLayer
from nervykite.core.craft.finishing.compiled import specks_kernels
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.kinds.sources.air import Air
from nervykite.core.kinds.sources.floating import ConfettiAir, SnowAir
from nervykite.core.kinds.sources.glowing import EmbersAir, SparksAir
from nervykite.core.kinds.sources.worked import plane_of
from nervykite.core.piece.model import Source
from nervykite.core.see.footage.planes import to_bgr

KINDS = [k for k in Source.family.all().values() if issubclass(k, Air)]
CANVAS = (360, 640)


def paint(air: Air, seconds: float = 2.0, scale: float = 1.0) -> np.ndarray:
    size = round(CANVAS[0] * scale), round(CANVAS[1] * scale)
    return air.painted(plane_of(air, np.diag([scale, scale, 1.0]), (0, 0, *size), CANVAS), seconds, CANVAS)


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.title)
class TestAll:
    def test_the_same_pixels_in_any_order(self, kind):
        first = [paint(kind(), t) for t in (1.0, 2.0, 3.0)]
        again = [paint(kind(), t) for t in (3.0, 1.0, 2.0)]
        for one, other in zip(first, (again[1], again[2], again[0]), strict=True):
            assert np.array_equal(one, other)
        assert first[0].min() >= 0
        assert first[0][..., 3].max() <= 1
        assert first[0].max() > 0.3

    def test_it_moves_a_little_from_frame_to_frame_and_never_jumps(self, kind):
        seen = [paint(kind(amount=2), 2 + n / 30) for n in range(8)]
        steps = [float(np.abs(b - a).mean()) for a, b in zip(seen, seen[1:], strict=False)]
        assert min(steps) > 0
        assert max(steps) < 3 * min(steps) + 1e-4

    def test_more_is_more_and_none_is_nothing(self, kind):
        much = [float(paint(kind(amount=a)).sum()) for a in (0.0, 0.5, 2.0)]
        assert much[0] == 0
        assert much[1] < much[2]

    def test_another_seed_is_another_sky_and_half_size_is_half_of_it(self, kind):
        assert np.abs(paint(kind(seed=1)) - paint(kind(seed=2))).max() > 0.1
        whole, half = paint(kind(large=3)), paint(kind(large=3), scale=0.5)
        mean = whole.reshape(320, 2, 180, 2, 4).mean((1, 3))
        assert np.abs(mean - half).mean() < 0.01
        assert half.sum() == pytest.approx(mean.sum(), rel=0.12)


class TestWhatDefinesThem:
    def test_an_amount_with_keys_lets_none_jump_in(self):
        # 130 a tall canvas, a quarter of that here: every step of 1/32 is one more.
        steps = [float(paint(ConfettiAir(amount=1 + n / 400)).sum()) for n in range(30)]
        assert max(np.diff(steps)) < 0.02 * steps[0]

    def test_wind_carries_and_pace_hurries(self):
        still, blown = (SnowAir(wind=w, pace=0, amount=0.3, depth=0) for w in (0, 90))
        one, two = paint(blown, 0.0), paint(blown, 0.5)
        assert np.abs(one - two).max() > 0.3
        assert np.array_equal(paint(still, 0.0), paint(still, 0.5))

    def test_sparks_leave_their_place_and_fall_later(self):
        near = paint(SparksAir(across=0.25, down=0.3, depth=0, amount=4, force=300))
        weight = near.sum(-1)
        x = (weight.sum(0) * np.arange(CANVAS[0])).sum() / weight.sum()
        assert x / CANVAS[0] == pytest.approx(0.25, abs=0.1)

    def test_light_is_added_where_paper_covers(self):
        embers, paper = paint(EmbersAir(amount=4)), paint(ConfettiAir(amount=4))
        assert (embers[..., :3].max(-1) > embers[..., 3] + 0.05).any()
        assert not (paper[..., :3].max(-1) > paper[..., 3] + 1e-4).any()


class TestSpecks:
    def one(self, form: int, light: float = 0.0, half=(10.0, 6.0), turn=0.0) -> np.ndarray:
        out = np.zeros((64, 64, 4), np.float32)
        f = lambda *v: np.array([v], np.float32)  # noqa: E731
        specks_kernels.put(
            form, f(32, 32), f(*half), np.array([turn], np.float32), np.array([1], np.float32), f(1, 0.5, 0, 1),
            np.float32(light), out,
        )  # fmt: skip
        return out

    def test_forms_cover_what_they_should(self):
        assert self.one(specks_kernels.DISC)[..., 3].sum() == pytest.approx(np.pi * 60, rel=0.08)
        assert self.one(specks_kernels.SLIP)[..., 3].sum() == pytest.approx(240, rel=0.08)
        assert 80 < self.one(specks_kernels.LEAF)[..., 3].sum() < 200
        rim = self.one(specks_kernels.BUBBLE, half=(20.0, 20.0))[..., 3]
        assert rim[32, 50:53].max() > 0.5 > rim[32, 40]
        streak = self.one(specks_kernels.STREAK, half=(20.0, 3.0))[..., 3].sum(0)
        assert streak[48] > streak[30] > streak[16]

    def test_what_turns_lies_turned_and_what_is_thin_is_faint(self):
        upright = self.one(specks_kernels.SLIP, turn=np.pi / 2)[..., 3]
        assert upright.sum(1).astype(bool).sum() > upright.sum(0).astype(bool).sum()
        thin = [self.one(specks_kernels.DISC, half=(h, h))[..., 3].sum() for h in (0.1, 0.5)]
        assert thin[0] == pytest.approx(thin[1] / 25, rel=0.01)

    def test_light_alone_covers_nothing(self):
        lit = self.one(specks_kernels.DISC, light=1.0)
        assert lit[..., 3].max() == 0
        assert lit[32, 32, 0] == pytest.approx(1)


def test_as_a_layer_it_is_another_sprite_each_frame_and_brightens(reel):
    made = reel(size=(320, 240))
    add = AddLayer(source=EmbersAir(amount=5), at=2)
    document = add.apply(made.document())
    evaluation, renderer = Evaluation(document), Renderer(made.library())
    assert evaluation.at(5).layers[0].sprite.digest != evaluation.at(6).layers[0].sprite.digest
    bare = to_bgr(renderer.render(Canvas.of(document), evaluation.at(0))).astype(int)
    lit = to_bgr(renderer.render(Canvas.of(document), evaluation.at(9))).astype(int)
    assert lit.sum() > bare.sum()
