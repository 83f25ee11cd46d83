"""Drawing sprites, finishes, and that evaluation is pure."""

import json

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from nervykite.core.change.edits import ChangeGround, ChangeLayer, SetKey, SetValue
from nervykite.core.common.errors import Refusal
from nervykite.core.common.kept import Kept
from nervykite.core.craft.finishing.linear_light import to_light
from nervykite.core.draw.picture import draw as drawing
from nervykite.core.draw.picture.bands import Bands
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.draw import MARGIN, PlacedSprite, _over, _parts, draw
from nervykite.core.draw.picture.evaluate import Evaluation, evaluate
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.draw.picture.sprite import pack_rgba
from nervykite.core.draw.picture.tiles import PARTLY, tiles_of
from nervykite.core.kinds.finishes.edge import Outline
from nervykite.core.kinds.finishes.lens import SoftBlur
from nervykite.core.piece.model import Bezier, Document, Finish, Key, Matte
from nervykite.core.piece.model.finish import Stage
from nervykite.core.see.footage.planes import Planes, colour_planes, to_bgr

from ..conftest import box, held


def grey(width=80, height=60, level=100) -> Planes:
    half = height // 2, width // 2
    return Planes(*(np.full(s, v, np.uint8) for s, v in (((height, width), level), (half, 128), (half, 128))))


def square(left=20, top=16, side=16, alpha=1.0, colour=(1.0, 1.0, 1.0)):
    rgba = np.zeros((side + 8, side + 8, 4), np.float32)
    rgba[4:-4, 4:-4] = [*(c * alpha for c in colour), alpha]
    return pack_rgba(left - 4, top - 4, rgba)


def move(x=0.0, y=0.0, scale=1.0, turn=0.0, about=(28, 24)) -> np.ndarray:
    c, s = np.cos(np.radians(turn)) * scale, np.sin(np.radians(turn)) * scale
    ax, ay = about
    return np.array([[c, -s, ax + x - c * ax + s * ay], [s, c, ay + y - s * ax - c * ay], [0, 0, 1]])


class TestDraw:
    def test_whole_pixel_move_is_exact(self):
        planes = grey()
        draw(planes, [PlacedSprite(square(), move(7, -5), 1.0)])
        expected = grey().y
        expected[11:27, 27:43] = 235
        assert (planes.y == expected).all()
        assert (planes.u == 128).all()

    @pytest.mark.parametrize(("scale", "turn"), [(1, 30), (1.7, -80), (0.8, 45), (0.3, 10), (0.15, 0)])
    def test_area_and_middle_follow_the_transform(self, scale, turn):
        planes = grey(160, 120)
        draw(planes, [PlacedSprite(square(60, 50, 24), move(5.3, 2.8, scale, turn, (72, 62)), 1.0)])
        share = (planes.y.astype(float) - 100) / 135
        assert share.sum() == pytest.approx((24 * scale) ** 2, rel=0.03)
        ys, xs = np.mgrid[:120, :160] + 0.5
        assert (share * xs).sum() / share.sum() == pytest.approx(77.3, abs=0.15)
        assert (share * ys).sum() / share.sum() == pytest.approx(64.8, abs=0.15)

    def test_outside_and_partly_outside(self):
        planes = grey()
        draw(planes, [PlacedSprite(square(), move(500, 0), 1.0)])
        draw(planes, [PlacedSprite(square(), move(0, -500), 1.0)])
        assert (planes.y == 100).all()
        draw(planes, [PlacedSprite(square(), move(-28, 0), 1.0)])
        assert (planes.y[16:32, :8] == 235).all()

    @pytest.mark.parametrize("slope", [-0.6, 0.6, -0.4, 0.4])
    def test_no_sample_lies_outside_the_plane(self, slope, monkeypatch):
        """A slope that rounds badly, along an edge, over the widest canvas: each index is checked, in plain Python."""
        monkeypatch.setattr(drawing, "_over_sampled", drawing._over_sampled.py_func)
        height, width, columns = 8, 5000, 4096
        indices = []

        class Watched(np.ndarray):
            def __getitem__(self, index):
                indices.append(int(index))
                return np.uint64(0)

        step = slope / 65536
        for edge in (MARGIN, height - 1 - MARGIN):  # true places end exactly at the edge, or begin there
            for begins in (edge, edge - step * (columns - 1)):
                back = np.array([[1.0, 0, 50], [step, 1, begins - 0.5 * step]])
                packed = np.zeros(height * width, np.uint64).view(Watched)
                tiles, topmost = np.full((1, 256), PARTLY, np.uint8), np.full((1, 256), -1, np.int16)
                plane = packed, np.zeros(0, np.uint8), height, width, back
                _over.py_func(np.zeros((1, columns), np.uint8), *plane, np.uint64(256), tiles, topmost, 0, 0, 1)
        assert indices
        assert min(indices) >= 0
        assert max(indices) < height * width

    @given(st.data())
    @settings(max_examples=60, deadline=None)
    def test_what_is_hidden_copied_or_passed_over_looks_as_if_each_pixel_were_mixed(self, data):
        """Several in one go, with solid and empty parts: the same bits as one by one without any of that."""
        rng = np.random.default_rng(data.draw(st.integers(0, 99)))
        ground = Planes(*(rng.integers(16, 235, s, dtype=np.uint8) for s in ((120, 160), (60, 80), (60, 80))))
        placed = []
        for _ in range(data.draw(st.integers(1, 4))):
            rgba = rng.random((76, 92, 4), np.float32)
            rgba[..., 3] = data.draw(st.sampled_from([1.0, 0.5]))
            rgba[8:30, 10:40] = 0
            rgba[:4], rgba[-4:], rgba[:, :4], rgba[:, -4:] = 0, 0, 0, 0
            rgba[..., :3] *= rgba[..., 3:]
            at = st.sampled_from([0, -7, 12, 30.4, -61.25])
            scale = data.draw(st.sampled_from([1, 1, 0.8, 0.35, 1.6]))
            matrix = move(data.draw(at), data.draw(at), scale, data.draw(st.sampled_from([0, 0, 9, 90, -33])))
            placed.append(PlacedSprite(pack_rgba(8, 10, rgba), matrix, data.draw(st.sampled_from([1, 1, 0.6]))))
        one, other = ground.copy(), ground.copy()
        draw(one, placed)
        planes = other.y, other.u, other.v
        for each in placed:
            for _, arguments, first, past in _parts(other, each, [np.zeros(tiles_of(p.shape)) for p in planes], 0):
                all_mixed = np.full_like(arguments[7], PARTLY)
                _over(*arguments[:7], all_mixed, np.full(all_mixed.shape, -1, np.int16), 0, first, past)
        for a, b in zip((one.y, one.u, one.v), planes, strict=True):
            assert (a == b).all()

    def test_bands_make_no_seams(self):
        from concurrent.futures import ThreadPoolExecutor

        one, two = grey(), grey()
        draw(one, [PlacedSprite(square(), move(3.3, 2.2, 1.4, 17), 0.7)])
        with ThreadPoolExecutor(2) as pool:
            draw(two, [PlacedSprite(square(), move(3.3, 2.2, 1.4, 17), 0.7)], Bands(5, pool))
        for a, b in zip((one.y, one.u, one.v), (two.y, two.u, two.v), strict=True):
            assert (a == b).all()

    def test_colour_edges_do_not_bleed(self):
        planes = grey()
        rgba = np.zeros((24, 24, 4), np.float32)
        rgba[5:18, 5:18] = (1, 0, 0, 1)  # its edges halve the chroma's pixels
        draw(planes, [PlacedSprite(pack_rgba(20, 16, rgba), np.eye(3), 1.0)])
        inside = to_bgr(planes)[24:31, 28:35, ::-1].reshape(-1, 3).mean(0)
        assert np.abs(inside - [255, 0, 0]).max() <= 3


class TestPurity:
    @given(st.data())
    @settings(max_examples=30, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
    def test_evaluate_is_pure_and_repeatable(self, document, data):
        document, layer = document
        for _ in range(data.draw(st.integers(0, 6))):
            channel = data.draw(st.sampled_from(["position", "scale", "rotation", "opacity"]))
            numbers = st.floats(0, 1) if channel == "opacity" else st.floats(0.01, 5)
            value = data.draw(st.lists(numbers, min_size=1, max_size=1)) * (2 if channel == "position" else 1)
            key = Key(
                channel=channel, tie=data.draw(st.sampled_from(["start", "landing", "end"])),
                offset=data.draw(st.integers(-20, 20)), value=value,
                easing=Bezier(x1=0.3, y1=data.draw(st.floats(-2, 2)), x2=0.6, y2=1),
            )  # fmt: skip
            document = SetKey(layer=layer, key=key).apply(document)
        before = document.model_dump_json()
        order = data.draw(st.permutations(range(24)))
        evaluation = Evaluation(document)
        first = {f: evaluation.at(f) for f in order}
        again = Document.model_validate(json.loads(before))
        for f in range(24):
            assert evaluate(again, f) == first[f]
            assert evaluate(again, f).key == first[f].key
        assert document.model_dump_json() == before

    def test_an_edit_changes_only_the_keys_of_its_frames(self, document):
        document, layer = document
        keys = [evaluate(document, f).key for f in range(24)]
        shorter = ChangeLayer(layer=layer, until=15).apply(document)
        after = [evaluate(shorter, f).key for f in range(24)]
        assert [f for f in range(24) if keys[f] != after[f]] == list(range(15, 24))

    @pytest.fixture
    def document(self, reel):
        return held(reel().document(), 6, Matte(pieces=[box(40, 30, 120, 90)]))


class TestFinishes:
    def test_outline_has_its_width_and_colour(self, reel):
        made = reel(size=(320, 240))
        document, layer = held(made.document(), 6, Matte(pieces=[box(100, 80, 200, 160)]))
        outline = Finish(kind="outline", settings={"width": 10, "colour": "#FF0000", "opacity": 1})
        document = ChangeLayer(layer=layer, finishes=[outline]).apply(document)
        renderer = Renderer(made.library())
        picture = to_bgr(renderer.render(Canvas.of(document), evaluate(document, 20)))[..., ::-1].astype(int)
        assert np.abs(picture[120, 92:98] - [255, 0, 0]).max() <= 4
        plain = to_bgr(renderer.render(Canvas.of(document), evaluate(document, 5)))[..., ::-1].astype(int)
        later = to_bgr(made.library().exact(made.shot, 20))[..., ::-1].astype(int)
        assert np.abs(picture[120, 80:88] - later[120, 80:88]).max() <= 1
        held_frame = to_bgr(made.library().exact(made.shot, 6))[..., ::-1].astype(int)
        assert np.abs(picture[90:150, 110:190] - held_frame[90:150, 110:190]).max() <= 6
        assert plain.shape == (240, 320, 3)

    def test_outline_scales_with_the_picture(self):
        outline = Outline(width=8)
        rgba = np.zeros((100, 100, 4), np.float32)
        rgba[40:60, 40:60] = 1
        full = outline.dress(rgba, Stage(1.0))[50, :, 3].sum()
        half = outline.dress(rgba, Stage(0.5))[50, :, 3].sum()
        assert (full, half) == (pytest.approx(36, abs=0.1), pytest.approx(28, abs=0.1))

    @pytest.mark.parametrize("radius", [0, 3, 12, 60])
    def test_blur_keeps_the_mean_and_widens_a_line(self, radius):
        rgba = np.full((240, 320, 4), 0.3, np.float32)
        rgba[:, 160:], rgba[..., 3] = 0.8, 1
        out = to_light(SoftBlur(radius=radius).dress(rgba, Stage(1.0, canvas=(320, 240), opaque=True)))[..., 1]
        low, high = to_light(rgba)[0, [0, -1], 1]
        assert out.mean() == pytest.approx((low + high) / 2, rel=0.01)
        steps = np.diff(out[120].astype(float)) / (high - low)
        spread = np.sqrt((steps * (np.arange(319) - 159) ** 2).sum())
        assert spread == pytest.approx(radius / 2, rel=0.06, abs=0.3)

    def test_ground_blur_leaves_the_cutout_sharp(self, reel):
        made = reel(size=(320, 240))
        document, layer = held(made.document(), 6, Matte(pieces=[box(20, 20, 300, 110)]))
        item = document.project.ground[0].id
        document = ChangeGround(item=item, finishes=[Finish(kind="soft-blur", settings={"radius": 20})]).apply(document)
        renderer = Renderer(made.library())
        drawn = renderer.render(Canvas.of(document), evaluate(document, 10)).y
        sharp = made.library().exact(made.shot, 6).y
        assert np.abs(drawn[30:100, 30:290].astype(int) - sharp[30:100, 30:290]).max() <= 1
        assert np.abs(np.diff(drawn[10].astype(int))).max() < 30

    @pytest.mark.parametrize(
        ("finish", "sentence"),
        [
            ({"kind": "nonsense"}, "there is no finish “nonsense”"),
            ({"kind": "outline", "settings": {"width": 900}}, "Outline: width"),
            ({"kind": "outline", "settings": {"breadth": 9}}, "Outline: breadth"),
        ],
    )
    def test_bad_settings_get_a_sentence(self, finish, sentence):
        with pytest.raises(ValueError, match=sentence):
            Finish.model_validate(finish)

    def test_what_goes_by_an_edge_cannot_be_put_on_the_ground(self, reel):
        document, _ = held(reel().document(), 6)
        with pytest.raises(Refusal, match="Outline needs an edge to go around"):
            ChangeGround(item=document.project.ground[0].id, finishes=[Finish(kind="outline")]).apply(document)


class TestCache:
    def test_a_sprite_is_made_once_and_again_when_it_changes(self, reel, monkeypatch):
        from nervykite.core.draw.picture import sprites

        made = reel()
        made_count = []
        real = sprites.make_sprite
        monkeypatch.setattr(sprites, "make_sprite", lambda *a: made_count.append(1) or real(*a))
        document, layer = held(made.document(), 6, Matte(pieces=[box(40, 30, 120, 90)]))
        renderer = Renderer(made.library())
        for f in range(6, 24):
            document = SetValue(layer=layer, channel="position", frame=6, value=[f, 0]).apply(document)
            renderer.render(Canvas.of(document), evaluate(document, f))
        assert len(made_count) == 1
        document = ChangeLayer(layer=layer, finishes=[Finish(kind="outline")]).apply(document)
        renderer.render(Canvas.of(document), evaluate(document, 8))
        assert len(made_count) == 2

    def test_the_least_used_go_first(self):
        cache = Kept(2 * square().nbytes, lambda sprite: sprite.nbytes)
        for name in "abac":
            cache.get(name, square)
        again = []
        for name in "acb":
            cache.get(name, lambda name=name: again.append(name) or square())
        assert again == ["b"]


def test_background_shows_where_there_is_no_ground():
    from nervykite.core.draw.picture.render import Renderer as Drawer
    from nervykite.core.piece.model import Project

    document = Document(project=Project(name="Empty", width=64, height=48, background="#3060C0"))
    planes = Drawer(None).render(Canvas.of(document), evaluate(document, 0))
    assert (planes.y[0, 0], planes.u[0, 0], planes.v[0, 0]) == colour_planes("#3060C0")
