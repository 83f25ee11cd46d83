"""Motion blur: rule 9, in linear light, as wide as the shutter is open."""

import numpy as np
import pytest

from nervykite.core.change.edits import ChangeGround, ChangeLayer, ChangePiece, MakeGroup, SetKey, SetValue
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.draw import PlacedSprite, Sprite, pack
from nervykite.core.draw.picture.draws import GroupDraw
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.draw.picture.shutter import legs
from nervykite.core.draw.picture.smear import TO_CODE, TO_LIGHT, Smearing, lay_in_light, power, shaken, smeared
from nervykite.core.piece.model import Behaviour, Bezier, Blur, Key, Matte
from nervykite.core.see.footage.planes import Planes, colour_planes, to_bgr

from ..conftest import box, held
from .test_sky import made, three  # noqa: F401


def grey(width: int, height: int, level: float) -> Planes:
    """A picture of one grey, 0…1."""
    y = np.full((height, width), round(16 + 219 * level), np.uint8)
    half = np.full((height // 2, width // 2), 128, np.uint8)
    return Planes(y, half, half.copy())


def square(side: int, level: float = 1.0) -> Sprite:
    """A grey square with a clear rim of four pixels."""
    cover = np.zeros((side + 8, side + 8), np.uint16)
    cover[4:-4, 4:-4] = 256
    picture = grey(side + 8, side + 8, level)
    half = cover.reshape(cover.shape[0] // 2, 2, -1, 2).mean((1, 3)).astype(np.uint16)
    return Sprite(0, 0, pack(picture.y, cover), pack(picture.u, half), pack(picture.v, half))


def at(x: float, y: float = 0.0, scale: float = 1.0) -> np.ndarray:
    return np.array([[scale, 0, x], [0, scale, y], [0, 0, 1.0]])


def light(planes: Planes) -> np.ndarray:
    """The linear light of greys."""
    code = (planes.y.astype(float) - 16) / 219
    return np.where(code <= 0.04045, code / 12.92, ((np.maximum(code, 0) + 0.055) / 1.055) ** 2.4)


class TestSmears:
    @pytest.mark.parametrize("far", [8, 23.5, 60])
    @pytest.mark.parametrize(("level", "under"), [(1.0, 0.0), (0.0, 1.0), (0.9, 0.3)])
    def test_a_moving_edge_is_a_ramp_in_light(self, far, level, under):
        """Within 3 % of the ideal one, where the edge is all within the picture."""
        planes = grey(320, 64, under)
        sprite = square(120, level)
        start = 80.0
        moves = [at(start), at(start + far)]
        smear = smeared(PlacedSprite(sprite, at(start + far / 2), 1.0), moves, (320, 64))
        lay_in_light(planes, smear)
        row = light(planes)[32]
        inner, outer = light(grey(2, 2, level))[0, 0], light(grey(2, 2, under))[0, 0]
        share = (row - outer) / (inner - outer)
        x = np.arange(320) + 0.5
        ideal = np.clip((x - start - 4) / far, 0, 1)  # the left edge: covered once it has passed
        left = slice(int(start), int(start + 4 + far + 20))
        assert np.abs(share - (1 - np.clip(1 - (x - start - 4) / far, 0, 1)))[left].max() < 0.03
        assert np.abs(share[left] - ideal[left]).max() < 0.03

    def test_without_motion_it_is_what_it_is_without(self):
        sprite = square(40, 0.8)
        smear = smeared(PlacedSprite(sprite, at(20, 10), 1.0), [at(20, 10), at(20.3, 10)], (128, 64))
        assert smear.share < 0.2
        assert smear.light[..., 3].max() == pytest.approx(1, abs=1e-5)

    def test_nothing_of_what_is_off_the_canvas(self):
        assert smeared(PlacedSprite(square(40), at(500), 1.0), [at(500), at(520)], (128, 64)) is None
        part = smeared(PlacedSprite(square(40), at(-30), 1.0), [at(-60), at(-10)], (128, 64))
        assert (part.left, part.top) == (0, 0)
        assert part.light[20, 2, 3] > 0.2

    def test_turns_and_growth_are_averaged_along_their_own_way(self):
        """Against the mean of 256 single pictures."""
        sprite = square(60)
        c, s = np.cos(0.5), np.sin(0.5)
        turned = np.array([[1.3 * c, -1.3 * s, 90], [1.3 * s, 1.3 * c, 20], [0, 0, 1.0]])
        straight = at(90, 20)
        whole = turned @ np.linalg.inv(straight)
        single = np.zeros((160, 220))
        for n in range(256):
            one = smeared(
                PlacedSprite(sprite, straight, 1.0), [power(whole, (n + 0.5) / 256) @ straight] * 2, (220, 160)
            )
            h, w = one.light.shape[:2]
            single[one.top : one.top + h, one.left : one.left + w] += one.light[..., 3] / 256
        many = smeared(PlacedSprite(sprite, straight, 1.0), [straight, turned], (220, 160))
        found = np.zeros((160, 220))
        h, w = many.light.shape[:2]
        found[many.top : many.top + h, many.left : many.left + w] = many.light[..., 3]
        # Resampled six times over, what hardly moves is a little softer.
        assert np.abs(found - single).max() < 0.12
        assert np.abs(found - single).mean() < 0.003

    def test_powers(self):
        matrix = np.array([[0.9, -0.3, 12], [0.35, 1.1, -4], [0, 0, 1]])
        half = power(matrix, 0.5)
        assert np.abs(half @ half - matrix).max() < 1e-6
        assert np.abs(power(at(30, 4), 0.25) - at(7.5, 1)).max() < 1e-12

    def test_tables_of_light(self):
        codes = np.linspace(0, 1, 4096)
        back = TO_CODE[np.round(np.sqrt(TO_LIGHT) * 4095).astype(int)]
        assert np.abs(back - codes).max() < 1 / 800

    def test_a_shaken_picture_keeps_its_light(self):
        rng = np.random.default_rng(1)
        planes = grey(96, 64, 0.0)
        planes.y[:] = rng.integers(40, 220, planes.y.shape)
        there = shaken(planes, [at(-6, 2), at(0), at(6, -2)])
        assert np.abs(light(there)[12:-12, 12:-12].mean() - light(planes)[12:-12, 12:-12].mean()) < 0.02
        assert light(there).std() < 0.5 * light(planes).std()

    def test_settings(self):
        coarse = Smearing(step=8)
        smear = smeared(PlacedSprite(square(40), at(20), 1.0), [at(20), at(60)], (128, 64), coarse)
        levels = np.unique(np.round(smear.light[20, :, 3], 3))
        assert 5 < len(levels) < 20


class TestShutter:
    def test_as_many_legs_as_the_way_asks_for(self):
        corners = np.array([[0, 10], [0, 10], [1, 1]], float)
        blur = Blur(shutter=360, phase=-180)
        straight = legs(lambda t: at(40 * t), 3, blur, corners)
        assert [m[0, 2] for m in straight] == [100, 140]
        bent = legs(lambda t: at(40 * t, 60 * np.sin(t + 1.5)), 3, blur, corners)
        assert len(bent) == 5
        assert legs(lambda t: at(0.2 * t), 3, blur, corners) == []

    @pytest.mark.parametrize(("shutter", "phase", "first", "last"), [(180, -90, -0.25, 0.25), (720, 0, 0, 2)])
    def test_from_when_to_when(self, shutter, phase, first, last):
        corners = np.array([[0.0], [0.0], [1.0]])
        places = legs(lambda t: at(100 * t), 5, Blur(shutter=shutter, phase=phase), corners)
        assert [m[0, 2] for m in places] == pytest.approx([500 + 100 * first, 500 + 100 * last])


MATTE = Matte(pieces=[box(30, 40, 90, 100)])


@pytest.fixture
def flown(reel):
    """A cutout that moves by eight pixels a frame from its moment on."""
    one = reel(frames=30)
    document, layer = held(one.document(), 10, MATTE)
    for offset, x in ((0, 0.0), (10, 80.0)):
        key = Key(channel="position", tie="landing", offset=offset, value=[x, 0.0], easing=Bezier())
        document = SetKey(layer=layer, key=key).apply(document)
    return one, document, layer


class TestLayers:
    def test_its_own_then_its_groups_then_the_pieces(self, flown):
        _, document, layer = flown
        edit = MakeGroup(layers=[layer])
        document = edit.apply(document)

        def places(d):
            (draw,) = Evaluation(d).at(15).layers
            return [m[2] for m in draw.moves]

        assert places(document) == []
        document = ChangePiece(blur=Blur(shutter=90, phase=0)).apply(document)
        assert places(document) == pytest.approx([40, 42])
        document = ChangeLayer(layer=edit.group, blur=Blur(shutter=180, phase=0)).apply(document)
        assert places(document) == pytest.approx([40, 44])
        document = ChangeLayer(layer=layer, blur=Blur(shutter=0)).apply(document)
        assert places(document) == []
        assert places(ChangeLayer(layer=layer, clear=["blur"]).apply(document)) == pytest.approx([40, 44])

    def test_the_landing_stays_invisible(self, flown):
        """Rule 2 with motion blur on: on its own frame, at rest, it is as sharp as the footage."""
        one, document, layer = flown
        blurred = ChangeLayer(layer=layer, blur=Blur()).apply(document)
        assert Evaluation(blurred).at(10).layers[0].moves == ()
        assert Evaluation(blurred).at(11).layers[0].moves != ()
        renderer = Renderer(one.library())
        frame = to_bgr(renderer.render(Canvas.of(blurred), Evaluation(blurred).at(10))).astype(int)
        bare = document.model_copy(update={"project": document.project.model_copy(update={"layers": []})})
        assert np.abs(frame - to_bgr(renderer.render(Canvas.of(bare), Evaluation(bare).at(10)))).max() <= 1

    def test_a_faded_group_in_motion(self, flown):
        one, document, layer = flown
        edit = MakeGroup(layers=[layer])
        document = ChangePiece(blur=Blur()).apply(edit.apply(document))
        faint = SetValue(layer=edit.group, channel="opacity", frame=15, value=[0.5]).apply(document)
        (group,) = Evaluation(faint).at(15).layers
        assert isinstance(group, GroupDraw)
        assert group.draws[0].moves
        renderer = Renderer(one.library())
        frames = [to_bgr(renderer.render(Canvas.of(d), Evaluation(d).at(15))).astype(int) for d in (document, faint)]
        bare = document.model_copy(update={"project": document.project.model_copy(update={"layers": []})})
        ground = to_bgr(renderer.render(Canvas.of(bare), Evaluation(bare).at(15))).astype(int)
        whole, half = (np.abs(f - ground).sum() for f in frames)
        assert 0.4 * whole < half < 0.6 * whole
        blended = ChangeLayer(layer=layer, blend="multiply").apply(document)
        dark = to_bgr(renderer.render(Canvas.of(blended), Evaluation(blended).at(15))).astype(int)
        assert (dark <= ground + 3).all()
        assert (dark < ground - 8).any()

    def test_the_ground_is_blurred_as_the_piece_shakes(self, flown):
        one, document, _ = flown
        shake = [Behaviour(kind="jolt", settings={"amplitude": 30})]
        item = document.project.ground[0].id
        document = ChangeGround(item=item, behaviours=shake).apply(document)
        assert Evaluation(document).at(1).shaken == ()
        blurred = ChangePiece(blur=Blur()).apply(document)
        assert Evaluation(blurred).at(1).shaken != ()
        renderer = Renderer(one.library())
        sharp, soft = (
            to_bgr(renderer.render(Canvas.of(d), Evaluation(d).at(1))).astype(float) for d in (document, blurred)
        )
        assert np.abs(np.diff(soft, axis=1)).mean() < 0.85 * np.abs(np.diff(sharp, axis=1)).mean()
        assert colour_planes("#000000")[0] == 16
