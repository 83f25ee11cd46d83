"""Properties of time, fitting and reading, over many made-up cases."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.piece.model import Framing, Shot
from nervykite.core.piece.timeline.clock import conform, landing, seconds_of
from nervykite.core.see.footage.framing_matrix import fit_matrix
from nervykite.core.see.footage.library import fitted, place
from nervykite.core.see.footage.planes import Planes
from nervykite.core.see.footage.proxy import proxy_size, shrink

from ..media import number_of

rates = st.sampled_from([Fraction(n) for n in (24, 25, 30, 50, 60)] + [Fraction(30000, 1001), Fraction(24000, 1001)])
steps = st.lists(st.integers(4, 90), min_size=1, max_size=60)


def shot_of(gaps: list[int]) -> Shot:
    ticks = [0, *np.cumsum(gaps).tolist()]
    return Shot(
        name="s", file="f", proxy_file="p", width=100, height=100, rate=Fraction(30), variable=True,
        tick="1/1000", ticks=ticks,
    )  # fmt: skip


class TestConform:
    @given(steps, rates, st.data())
    @settings(max_examples=150)
    def test_never_goes_back_and_stays_inside(self, gaps, rate, data):
        shot = shot_of(gaps)
        first = data.draw(st.integers(0, shot.frames - 1))
        past = data.draw(st.integers(first + 1, shot.frames))
        table = conform(shot, first, past, rate)
        assert len(table) == max(1, round(seconds_of(shot, first, past) * rate))
        if shot.ticks[first + 1] - shot.ticks[first] >= 11:  # longer than any quarter of a project frame
            assert table[0] == first
        assert (np.diff(table) >= 0).all()
        assert first <= table.min()
        assert table.max() < past

    @given(steps, rates)
    @settings(max_examples=100)
    def test_shows_what_is_on_screen_a_little_later(self, gaps, rate):
        """Against the definition, worked out one frame at a time in exact fractions."""
        shot = shot_of(gaps)
        table = conform(shot, 0, shot.frames, rate)
        for k, shown in enumerate(table):
            at = (k / rate + min(1 / (4 * rate), Fraction(1, 60))) * 1000
            expected = max(i for i in range(shot.frames) if shot.ticks[i] <= at)
            assert shown == expected

    @pytest.mark.parametrize(("fast", "every"), [(60, 2), (120, 4), (240, 8)])
    def test_high_speed_footage_shows_every_nth_frame(self, fast, every):
        ticks = list(range(fast + 1))
        shot = shot_of([1] * fast).model_copy(update={"ticks": ticks, "tick": f"1/{fast}", "rate": Fraction(fast)})
        table = conform(shot, 0, fast, Fraction(30))
        assert table.tolist() == list(range(0, fast, every))

    @given(st.integers(2, 200), st.integers(1, 7))
    def test_jitter_below_a_quarter_frame_loses_nothing(self, frames, seed):
        rng = np.random.default_rng(seed)
        ticks = np.round(np.arange(frames + 1) * 1000 / 30 + rng.uniform(-7, 7, frames + 1)).astype(int)
        ticks -= ticks[0]
        shot = shot_of(np.diff(ticks).tolist()) if (np.diff(ticks) > 0).all() else shot_of([33] * frames)
        table = conform(shot, 0, shot.frames, Fraction(30))
        assert np.diff(table).max(initial=0) <= 2

    @given(steps, rates, st.data())
    @settings(max_examples=100)
    def test_landing_is_the_first_place_that_shows_it(self, gaps, rate, data):
        shot = shot_of(gaps)
        table = conform(shot, 0, shot.frames, rate)
        frame = data.draw(st.integers(0, shot.frames - 1))
        at = landing(table, frame)
        if not table[0] <= frame <= table[-1]:
            assert at is None
            return
        assert table[at] <= frame
        assert at == 0 or table[at - 1] < table[at]
        assert at == len(table) - 1 or table[at + 1] > frame or table[at + 1] == table[at]


FILL, FIT = Framing(mode="fill"), Framing(mode="fit")
framings = st.sampled_from([FILL, FIT])
sides = st.integers(8, 60).map(lambda n: 2 * n)


class TestFit:
    @given(sides, sides, sides, sides, framings)
    @settings(max_examples=80)
    def test_middle_stays_in_the_middle(self, w, h, cw, ch, fit):
        matrix = fit_matrix((w, h), (cw, ch), fit)
        assert matrix @ [w / 2, h / 2, 1] == pytest.approx([cw / 2, ch / 2, 1])
        corner = matrix @ [0, 0, 1]
        if fit == FILL:
            assert corner[0] <= 1e-9
            assert corner[1] <= 1e-9
        else:
            assert corner[0] >= -1e-9
            assert corner[1] >= -1e-9

    @given(sides, sides, sides, sides, framings)
    @settings(max_examples=60, deadline=None)
    def test_flat_stays_flat_and_the_rest_is_background(self, w, h, cw, ch, fit):
        half = h // 2, w // 2
        flat = Planes(np.full((h, w), 180, np.uint8), np.full(half, 90, np.uint8), np.full(half, 170, np.uint8))
        out = fitted(flat, (cw, ch), fit)
        assert out.size == (cw, ch)
        assert out.u.shape == (ch // 2, cw // 2)
        if fit == FILL:
            assert np.unique(out.y).tolist() == [180]
            assert np.unique(out.v).tolist() == [170]
        else:
            assert abs(int(out.y[ch // 2, cw // 2]) - 180) <= 1
            assert out.y.min() >= 16

    def test_a_ramp_lands_where_the_matrix_says(self):
        ramp = np.tile(np.arange(200, dtype=np.float32), (100, 1))
        for size, fit in (((100, 50), FILL), ((300, 150), FIT), ((200, 60), FILL)):
            matrix = fit_matrix((200, 100), size, fit)
            out = place(ramp, matrix, (0, 0, *size), 0)
            x = size[0] // 2 + 0.5
            source = (x - matrix[0, 2]) / matrix[0, 0] - 0.5
            assert out[size[1] // 2, size[0] // 2] == pytest.approx(source, abs=0.02)

    @given(st.integers(1, 9000), st.integers(1, 9000))
    def test_proxies_are_even_and_at_most_960(self, w, h):
        pw, ph = proxy_size(w, h)
        assert pw % 2 == ph % 2 == 0
        assert max(pw, ph) <= 960
        assert min(pw, ph) >= 2

    def test_shrinking_takes_means(self):
        y = np.zeros((8, 8), np.uint8)
        y[::2] = 200
        small = shrink(Planes(y, y[:4, :4], y[:4, :4]), 4, 4)
        assert np.unique(small.y).tolist() == [100]


class TestReading:
    @pytest.mark.parametrize("options", [{"bf": "3", "g": "50"}, {"g": "1"}, {"x264-params": "open-gop=1:keyint=9"}])
    @pytest.mark.parametrize("name", ["clip.mp4", "clip.mkv", "clip.ts"])
    def test_any_order_gives_the_same_frames(self, reel, options, name):
        made = reel(name=name, frames=60, options=options)
        library = made.library()
        rng = np.random.default_rng(7)
        for frame in [59, 0, 30, 29, 31, 58, *rng.integers(0, 60, 12)]:
            assert number_of(library.exact(made.shot, int(frame)).y) == frame

    def test_a_frame_that_is_not_there_gets_a_sentence(self, reel):
        from nervykite.core.common.errors import Refusal
        from nervykite.core.see.footage.reader import Reader

        made = reel(frames=5)
        with Reader(made.files["file"], made.shot) as reader:
            for frame in (-1, 5):
                with pytest.raises(Refusal, match="its last one is 4"):
                    reader.frame(frame)

    def test_two_threads_may_read_at_once(self, reel):
        from concurrent.futures import ThreadPoolExecutor

        made = reel(frames=40)
        library = made.library()
        order = np.random.default_rng(3).integers(0, 40, 60)
        with ThreadPoolExecutor(4) as pool:
            exact = list(pool.map(lambda f: number_of(library.exact(made.shot, int(f)).y), order))
            small = list(pool.map(lambda f: number_of(library.proxy(made.shot).planes(int(f)).y), order))
        assert exact == small == order.tolist()
