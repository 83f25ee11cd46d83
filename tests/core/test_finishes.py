"""Every finish: within its reach, without a rim, the same again, at any size; and some against what defines them."""

import math

import cv2
import numpy as np
import pytest

from nervykite.core.common.colour import rgb_of
from nervykite.core.common.kept import Kept
from nervykite.core.craft.finishing.compositing import flat, over
from nervykite.core.craft.finishing.linear_light import soft, to_code, to_light
from nervykite.core.craft.finishing.noise import cloud
from nervykite.core.craft.finishing.signed_distance import away
from nervykite.core.craft.finishing.swatches import swatches
from nervykite.core.craft.finishing.tones import STEPS, through_points
from nervykite.core.draw.picture.draws import Worn
from nervykite.core.draw.picture.finish_stages import dressed, stage_cache
from nervykite.core.draw.picture.opened import closed, opened
from nervykite.core.draw.picture.sprite import pack_rgba
from nervykite.core.kinds.finishes.break_up import Echo, EraseOn, PixelStretch, Repeat, Scatter
from nervykite.core.kinds.finishes.drawing import Halftone
from nervykite.core.kinds.finishes.edge import BackingShape, CastShadow, DropShadow, Outline, RimLight
from nervykite.core.kinds.finishes.fill import Pattern
from nervykite.core.kinds.finishes.geometry import Bend, Letterbox, Tilt
from nervykite.core.kinds.finishes.given import ColourTable, MatchTones
from nervykite.core.kinds.finishes.lens import ChromaticShift, DirectionalBlur, Sharpen, SoftBlur, SpinBlur, ZoomBlur
from nervykite.core.kinds.finishes.light import Flash, Vignette
from nervykite.core.kinds.finishes.tone import BlackAndWhite, Duotone, Invert, Posterise, Tone, Tritone, stepped
from nervykite.core.kinds.sources.picture import Patch
from nervykite.core.piece.model import FinishKind, When
from nervykite.core.piece.model.finish import Stage

KINDS = list(FinishKind.family.all().values())
FLYING = [k for k in KINDS if "cutout" in k.on]
COVERING = [k for k in KINDS if "ground" in k.on]
NOW = When(since=3, lasts=40, landing=0)
CANVAS = (240, 320)


def figure(scale: float = 1.0, margin: int = 8) -> np.ndarray:
    """A head and a body with a soft edge and some drawing in it: premultiplied, float32."""
    h, w = round(200 * scale), round(120 * scale)
    y, x = (np.mgrid[:h, :w].astype(np.float32) + 0.5) / scale
    body = np.minimum(np.hypot((x - 60) / 42, (y - 125) / 70), np.hypot((x - 60) / 24, (y - 34) / 26))
    alpha = np.clip((1 - body) * 22 * scale**0.5, 0, 1).astype(np.float32)
    stripes = 0.5 + 0.5 * np.sin(y / 9) * np.cos(x / 13)
    rgb = np.dstack([0.2 + 0.7 * stripes, 0.7 - 0.4 * stripes, np.full_like(x, 0.35) + x / 400])
    rgba = np.dstack([rgb * alpha[..., None], alpha]).astype(np.float32)
    return np.pad(rgba, ((margin, margin), (margin, margin), (0, 0)))


def scene(scale: float = 1.0) -> np.ndarray:
    """All of a canvas covered."""
    h, w = round(CANVAS[1] * scale), round(CANVAS[0] * scale)
    y, x = (np.mgrid[:h, :w].astype(np.float32) + 0.5) / scale
    rgb = np.dstack([0.3 + 0.2 * np.sin(x / 17), 0.4 + 0.3 * np.sin(y / 23), 0.5 + 0.2 * np.cos((x + y) / 31)])
    return np.dstack([rgb, np.ones((h, w))]).astype(np.float32)


def worn(look: FinishKind) -> Worn:
    return Worn(look, look.moment(NOW))


def put(look: FinishKind, rgba: np.ndarray, scale: float = 1.0, opaque: bool = False) -> Patch:
    size = round(CANVAS[0] * scale), round(CANVAS[1] * scale)
    left = 0 if opaque else round(52 * scale)
    return dressed(Patch(left, left, rgba=rgba), [worn(look)], Stage(scale, canvas=size, opaque=opaque))


def within(done: Patch, shape: tuple[int, int], at: int = 52) -> np.ndarray:
    """What is drawn in the box that a picture had whose corner lay at a place."""
    out = np.zeros((*shape, 4), np.float32)
    h, w = done.rgba.shape[:2]
    x, y = done.left - at, done.top - at
    top, left, bottom, right = max(0, y), max(0, x), min(shape[0], y + h), min(shape[1], x + w)
    out[top:bottom, left:right] = done.rgba[top - y : bottom - y, left - x : right - x]
    return out


@pytest.mark.parametrize("kind", FLYING, ids=lambda k: k.title)
class TestOnWhatFlies:
    def test_nothing_is_drawn_beyond_its_reach(self, kind):
        done = put(kind(), figure())
        edge = np.concatenate([done.rgba[0], done.rgba[-1], done.rgba[:, 0], done.rgba[:, -1]])
        assert np.abs(edge).max() < 1 / 512
        assert np.isfinite(done.rgba).all()
        assert done.rgba[..., 3].max() <= 1 + 1e-5

    def test_it_is_the_same_again_and_leaves_what_it_was_given(self, kind):
        given = figure()
        before = given.copy()
        one, two = put(kind(), given), put(kind(), given)
        assert np.array_equal(one.rgba, two.rgba)
        assert np.array_equal(given, before)

    def test_it_can_be_drawn(self, kind):
        done = put(kind(), figure())
        sprite = pack_rgba(done.left // 2 * 2, done.top // 2 * 2, done.rgba)
        assert sprite.alpha.max() <= 1

    def test_at_half_size_it_looks_like_half_of_it(self, kind):
        whole, half = put(kind(), figure()), put(kind(), figure(0.5, 4), 0.5)
        canvas = np.zeros((CANVAS[1] + 400, CANVAS[0] + 400, 4), np.float32)
        small = np.zeros((canvas.shape[0] // 2, canvas.shape[1] // 2, 4), np.float32)
        for to, done, off in ((canvas, whole, 200), (small, half, 100)):
            h, w = done.rgba.shape[:2]
            y, x = done.top + off, done.left + off
            top, left, bottom, right = max(0, y), max(0, x), min(to.shape[0], y + h), min(to.shape[1], x + w)
            to[top:bottom, left:right] = done.rgba[top - y : bottom - y, left - x : right - x]
        # Of what has fine patterns the tones are the same, not each line.
        by = 12
        wanted = cv2.resize(canvas, (small.shape[1] // by, small.shape[0] // by), interpolation=cv2.INTER_AREA)
        got = cv2.resize(small, (small.shape[1] // by, small.shape[0] // by), interpolation=cv2.INTER_AREA)
        assert np.abs(wanted - got).mean() < 0.012
        assert np.abs(wanted - got).max() < 0.5


SET = {
    Tone: Tone(exposure=-1), Sharpen: Sharpen(amount=3, radius=4), Repeat: Repeat(), Vignette: Vignette(size=0.1),
}  # fmt: skip
"""What does nothing, or next to nothing on so small a picture, until it is set."""
GIVEN = (ColourTable, MatchTones, Pattern, Echo)
"""What does nothing until it is given something: a table, tones, a picture, what was before."""
WITHIN = {"tone": 0.1, "fill": 0.2, "light": 0.03, "drawing": 0.05, "lens": 0.005, "geometry": 0.05}
"""How much, 0…1, a finish of a family changes what it is put on, on average; `edge` and `break-up` work around it."""


@pytest.mark.parametrize("kind", [k for k in FLYING if k not in (*GIVEN, Letterbox)], ids=lambda k: k.title)
def test_on_what_flies_it_does_what_its_family_does(kind):
    given = figure()
    done = put(SET.get(kind) or kind(), given)
    inside = given[..., 3] > 0.5
    near = within(done, given.shape[:2])
    change = np.abs(near - given).max(-1)
    beyond = (done.rgba[..., 3].sum() - near[..., 3].sum()) / given[..., 3].sum()
    if kind.looks in WITHIN:
        assert change[inside].mean() > WITHIN[kind.looks] * (0.3 if kind is Vignette else 1)
        assert beyond < 0.01
        if kind.looks in ("tone", "fill", "light"):  # which leave the world alone
            assert change[given[..., 3] == 0].max(initial=0) < 1e-3
    elif kind is RimLight:
        rim = inside & (away(1 - given[..., 3]) < 6)
        assert change[rim].mean() > 3 * change[inside & ~rim].mean()
    elif kind.looks == "edge":
        assert change[~inside].mean() + beyond > 0.03
        assert change[inside].mean() < 0.02  # the figure itself stays
    else:
        assert kind.looks == "break-up"
        assert change.mean() + beyond > 0.1


@pytest.mark.parametrize("kind", [k for k in COVERING if k not in (*GIVEN, Repeat)], ids=lambda k: k.title)
def test_on_what_covers_it_does_what_its_family_does(kind):
    given = scene()
    change = np.abs(put(SET.get(kind) or kind(), given, opaque=True).rgba - given).max(-1)
    assert change.mean() > {"lens": 0.005, "light": 0.03, "drawing": 0.04}.get(kind.looks, 0.05)
    if kind is Letterbox:
        assert change[80:240].max() == 0
        assert change[:20].min() > 0.1


SOFT_EDGED = [k for k in FLYING if k.looks in ("tone", "fill", "light") or k in (SoftBlur, DirectionalBlur, ZoomBlur)]


@pytest.mark.parametrize("kind", SOFT_EDGED, ids=lambda k: k.title)
def test_no_rim_at_a_soft_edge(kind):
    """A figure of one grey over that same grey: its edge is not seen, whatever is done with its colours."""
    alpha = figure()[..., 3]
    grey = np.dstack([alpha * 0.5] * 3 + [alpha]).astype(np.float32)
    done = put(kind(), grey).rgba
    inner = done[done[..., 3] > 0.999]
    if not len(inner):
        return
    # Straight colours at the edge lie among those of the inside.
    edge = (done[..., 3] > 0.2) & (done[..., 3] < 0.9)
    straight = done[edge][:, :3] / done[edge][:, 3:]
    low, high = inner[:, :3].min(0) - 0.06, inner[:, :3].max(0) + 0.06
    assert (straight >= low).all()
    assert (straight <= high).all()


def test_lines_leave_nothing_between_them():
    """From the figure through two lines all is covered."""
    look = Outline(width=6, second=6, colour="#FFFFFF", second_colour="#FF0000")
    alpha = within(put(look, figure()), figure().shape[:2])[..., 3]
    far = away(figure()[..., 3])
    assert alpha[far < 10].min() > 0.97


@pytest.mark.parametrize("ground", [(0.9, 0.9, 0.9), (0.05, 0.05, 0.05)])
def test_an_outline_closes_up_with_its_figure(ground):
    """Nothing of the ground shows between a figure and the line around it, over a bright one nor a dark one."""
    alpha = figure()[..., 3]
    done = within(put(Outline(width=10, colour="#808080"), figure()), alpha.shape)
    back = np.ones((*alpha.shape, 4), np.float32)
    back[..., :3] = ground
    seen = over(done, back)[..., 0]
    beside = (alpha > 0.02) & (alpha < 0.98)
    own = figure()[..., 0].max()
    assert seen[beside].max() < own + 0.02
    assert seen[beside].min() > 0.1


@pytest.mark.parametrize("kind", COVERING, ids=lambda k: k.title)
class TestOnWhatCovers:
    def test_the_size_stays_and_it_still_covers(self, kind):
        done = put(kind(), scene(), opaque=True)
        assert done.rgba.shape == scene().shape
        assert np.isfinite(done.rgba).all()
        # The edge of the frame is neither dark nor bright, where all is of one colour.
        grey = np.full_like(scene(), 0.5)
        grey[..., 3] = 1
        flat_ = put(kind(), grey, opaque=True).rgba
        if kind.looks in ("lens", "tone") and kind.title not in ("Grain", "Duotone", "Tritone", "Threshold"):
            assert np.ptp(flat_[..., 0]) < 0.02


EXACT = [Scatter(strength=0), EraseOn(amount=1), Tone(), Duotone(amount=0), Invert(amount=0), SoftBlur(radius=0),
         Halftone(amount=0), BlackAndWhite(amount=0), Flash(amount=0)]  # fmt: skip


@pytest.mark.parametrize("look", EXACT, ids=lambda x: x.title)
def test_at_nothing_it_is_the_picture_itself(look):
    given = figure()
    done = put(look, given)
    assert np.array_equal(within(done, given.shape[:2]), given)


class TestDefinitions:
    def test_the_blur_is_a_gaussian_in_light(self):
        rgba = scene()
        rgba[:, :120, :3], rgba[:, 120:, :3] = 0.2, 0.9
        for radius in (6, 24, 70):
            got = to_light(put(SoftBlur(radius=radius), rgba, opaque=True).rgba)[160, :, 1]
            wanted = cv2.GaussianBlur(to_light(rgba), (0, 0), radius / 2, borderType=cv2.BORDER_REPLICATE)[160, :, 1]
            assert np.abs(got - wanted).max() < 0.012

    def test_a_blur_along_a_line_is_a_box(self):
        rgba = np.zeros((61, 161, 4), np.float32)
        rgba[30, 80] = 1
        done = to_light(put(DirectionalBlur(distance=40, angle=0), rgba).rgba)
        row = done[done[..., 3].sum(1).argmax(), :, 3]
        assert row.sum() == pytest.approx(1, abs=0.02)
        assert row.max() == pytest.approx(1 / 40, rel=0.3)
        assert np.count_nonzero(row > 0.4 / 40) == pytest.approx(40, abs=3)

    def test_inks_at_both_ends(self):
        for look, colours in (
            (Duotone(dark="#102030", light="#F0E0D0", contrast=0), ("#102030", "#F0E0D0")),
            (Tritone(dark="#102030", light="#F0E0D0", contrast=0), ("#102030", "#F0E0D0")),
        ):
            for level, colour in zip((0.0, 1.0), colours, strict=True):
                one = np.full((4, 4, 4), level, np.float32)
                one[..., 3] = 1
                assert put(look, one).rgba[0, 0, :3] == pytest.approx(rgb_of(colour), abs=1e-3)

    def test_a_stop_of_exposure_is_twice_the_light(self):
        given = np.full((2, 2, 4), 0.4, np.float32)
        given[..., 3] = 1
        lit = to_light(put(Tone(exposure=-1), given).rgba)[0, 0, 0]
        assert lit == pytest.approx(to_light(given)[0, 0, 0] / 2, rel=0.01)

    def test_a_curve_goes_through_its_handles_and_never_beyond(self):
        points = [(0.0, 0.1), (0.3, 0.1), (0.5, 0.8), (1.0, 0.9)]
        curve = through_points(points)
        for x, y in points:
            assert np.interp(x, STEPS, curve) == pytest.approx(y, abs=0.004)
        assert (np.diff(curve) >= -1e-9).all()
        assert (curve.min(), curve.max()) == (pytest.approx(0.1, abs=1e-3), pytest.approx(0.9, abs=1e-3))

    def test_steps_are_even(self):
        assert set(np.round(stepped(np.linspace(0, 1, 99), 4, 0), 3)) == {0, 0.333, 0.667, 1}
        done = put(Posterise(levels=3, softness=0, saturation=1), scene(), opaque=True).rgba
        _, counts = np.unique(np.round(done[..., 0], 3), return_counts=True)
        assert np.sort(counts)[-3:].sum() > 0.98 * counts.sum()

    @pytest.mark.parametrize("dark", [0.1, 0.3, 0.5, 0.7, 0.9])
    @pytest.mark.parametrize("shape", ["dots", "lines", "crosses"])
    def test_a_halftone_has_as_much_ink_as_it_is_dark(self, dark, shape):
        given = np.full((240, 240, 4), 1 - dark, np.float32)
        given[..., 3] = 1
        look = Halftone(size=12, contrast=0, shape=shape, colour="#000000", paper="#FFFFFF")
        done = dressed(Patch(0, 0, rgba=given), [Worn(look)], Stage(1.0, canvas=(240, 240), opaque=True)).rgba
        assert 1 - done[..., 0].mean() == pytest.approx(dark, abs=0.035)

    def test_a_shadow_falls_where_it_is_told(self):
        rgba = np.zeros((60, 60, 4), np.float32)
        rgba[20:40, 20:40] = 1
        done = put(DropShadow(angle=0, distance=12, softness=0, opacity=0.5), rgba)
        alpha = within(done, (60, 60))[..., 3]
        assert alpha[30, 46] == pytest.approx(0.5, abs=0.01)
        assert alpha[30, 14] == 0

    def test_grains_reach_the_end_when_it_does(self):
        assert put(Scatter(strength=1, fade=1), figure()).rgba[..., 3].max() < 0.02

    def test_a_flash_holds_and_dies(self):
        look = Flash(holds=2, dies=4)
        much = [look.moment(When(n, 30, 0)) for n in range(8)]
        assert much[:2] == [1, 1]
        assert much == sorted(much, reverse=True)
        assert much[6:] == [0, 0]
        assert Flash(at="landing", holds=1, dies=0).moment(When(9, 30, 10)) == 0

    def test_light_and_back(self):
        given = figure()
        assert np.abs(to_code(to_light(given)) - given).max() < 1e-3
        assert np.array_equal(soft(given, 0.1), given)


FAR = [CastShadow(lean=70, length=0.5), CastShadow(lean=-40, length=1, towards="front"), Tilt(sideways=60, depth=1.5),
       Tilt(back=-55), BackingShape(size=1.6, shear=40), Repeat(count=3, size=1.3, turn=40), ZoomBlur(amount=0.8),
       SpinBlur(turn=120), Bend(amount=-1), Bend(amount=1, upright=False), ChromaticShift(distance=40, outwards=True),
       PixelStretch(direction="up"), Outline(width=60, rough=1, wobble=1, offset=40)]  # fmt: skip


@pytest.mark.parametrize("look", FAR, ids=lambda x: f"{x.title} {x.settings}"[:40])
def test_what_reaches_far_is_not_cut_off(look):
    """Far settings on a large figure: with twice the room it draws nothing more."""
    rgba = figure(2.0, 24)
    stage = Stage(1.0, canvas=(2000, 2000))
    done = dressed(Patch(0, 0, rgba=rgba), [worn(look)], stage).rgba
    reach = look.reach(rgba.shape[1::-1])
    more = 2 * math.ceil(max(reach) if isinstance(reach, tuple) else reach)
    wide = look.dress(np.pad(rgba, ((more, more), (more, more), (0, 0))), Stage(1.0, -more, -more, canvas=(2000, 2000)))
    assert np.abs(wide[..., 3]).sum() == pytest.approx(np.abs(done[..., 3]).sum(), rel=0.004)


def test_the_free_room_goes_again():
    chain = [Worn(Scatter(strength=0.01)), Worn(Tilt(sideways=5))]
    done = dressed(Patch(52, 52, rgba=figure()), chain, Stage(1.0, canvas=CANVAS))
    ys, xs = np.flatnonzero(done.rgba.max((1, 2))), np.flatnonzero(done.rgba.max((0, 2)))
    assert ys[0] in (2, 3)
    assert xs[0] in (2, 3)
    assert (done.left % 2, done.top % 2, done.rgba.shape[0] % 2, done.rgba.shape[1] % 2) == (0, 0, 0, 0)
    empty = dressed(Patch(0, 0, rgba=np.zeros((40, 40, 4), np.float32)), chain, Stage(1.0, canvas=CANVAS))
    assert empty.rgba.max() == 0
    assert empty.rgba.size > 0


class TestNoise:
    def test_it_keeps_to_the_canvas(self):
        one = cloud((80, 90), 60, 5, 10, 20, 2)
        two = cloud((60, 70), 60, 5, 25, 31, 2)
        assert np.abs(one[11:71, 15:85] - two).max() < 0.02
        assert np.abs(one - cloud((80, 90), 60, 6, 10, 20, 2)).max() > 0.2

    def test_it_is_spread_evenly(self):
        whole = cloud((400, 400), 9, 1)
        assert 0.45 < whole.mean() < 0.55
        assert whole.min() >= 0
        assert whole.max() <= 1
        assert whole.std() > 0.12


class TestStages:
    def test_only_what_comes_after_a_change_is_made_anew(self, monkeypatch):
        made = []
        real = SoftBlur.dress
        monkeypatch.setattr(SoftBlur, "dress", lambda self, *a: made.append(self.radius) or real(self, *a))
        stages, patch = stage_cache(), Patch(52, 52, rgba=figure())

        def put_on(*radii):
            made.clear()
            chain = [Worn(SoftBlur(radius=r)) for r in radii]
            return dressed(patch, chain, Stage(1.0, canvas=CANVAS), stages, "one").rgba

        first = put_on(3, 5, 8)
        assert made == [3, 5, 8]
        assert np.array_equal(put_on(3, 5, 8), first)
        assert made == []
        put_on(3, 5, 9)
        assert made == [9]
        put_on(4, 5, 9)
        assert made == [4, 5, 9]

    def test_what_has_no_room_is_made_again(self):
        stages: Kept[Patch] = Kept(1, lambda patch: patch.rgba.nbytes)
        chain = [Worn(SoftBlur(radius=4)), Worn(Tone(exposure=1))]
        one = dressed(Patch(0, 0, rgba=figure()), chain, Stage(1.0, canvas=CANVAS), stages, "k")
        two = dressed(Patch(0, 0, rgba=figure()), chain, Stage(1.0, canvas=CANVAS), stages, "k")
        assert np.array_equal(one.rgba, two.rgba)


class TestOpened:
    def test_planes_come_back_to_the_bit(self):
        from nervykite.core.see.footage.planes import Planes

        rng = np.random.default_rng(3)
        planes = Planes(*(rng.integers(0, 256, s, dtype=np.uint8) for s in ((64, 48), (32, 24), (32, 24))))
        back = closed(opened(planes))
        assert all(np.array_equal(a, b) for a, b in ((planes.y, back.y), (planes.u, back.u), (planes.v, back.v)))

    def test_a_slow_gradient_does_not_band(self):
        ramp = np.linspace(0.40, 0.44, 400, dtype=np.float32)
        rgba = np.dstack([np.broadcast_to(ramp, (100, 400))] * 3 + [np.ones((100, 400), np.float32)])
        planes = closed(np.ascontiguousarray(rgba))
        levels = planes.y.astype(float).mean(0)
        wanted = 16 + 219 * ramp
        # The mean of each column follows the ramp, instead of going up in steps.
        smooth = np.convolve(levels - wanted, np.ones(9) / 9, "valid")
        assert np.abs(smooth).max() < 0.2

    def test_colours_of_clothes(self):
        rgba = figure()
        rgba[..., :3] = 0
        rgba[:110] += flat(rgba[:110, :, 3], "#C83020")
        rgba[110:] += flat(rgba[110:, :, 3], "#2040A0")
        rgba[..., 3] = figure()[..., 3]
        found = swatches(rgba, 5)
        assert len(found) == 2
        for colour in ("#C83020", "#2040A0"):
            assert min(np.abs(np.array(rgb_of(colour)) - rgb_of(f)).max() for f in found) < 0.02
        assert swatches(np.zeros((9, 9, 4), np.float32)) == []
