"""The rules of the job, each by its name."""

from fractions import Fraction

import numpy as np
import pytest

from nervykite.core.change.edits import (
    ChangeLayer,
    ChangeMatte,
    DuplicateLayer,
    MakeSeparate,
    SetCanvas,
    SetKey,
    SetValue,
)
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation, evaluate
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.draw.send.export import Output, export
from nervykite.core.draw.send.writers.mp4 import Mp4
from nervykite.core.piece.model import Key, Matte
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.core.see.footage.planes import to_bgr
from nervykite.core.see.matte.combine import matte_alpha

from ..conftest import box, held
from ..media import decode_luma, number_of
from .test_send import silent

WHOLE = Matte(pieces=[box(20, 10, 140, 110)])


class TestExactFrames:
    """Rule 1: a hold shows precisely the source frame that the footage shows at its moment."""

    @pytest.mark.parametrize(
        ("arguments", "rate"),
        [
            ({}, None),
            ({"times": [0, 33, 70, 95, 140, 166, 199, 240, 266, 301, 340, 366], "frames": 12}, Fraction(30)),
            ({"rate": 60, "frames": 40}, Fraction(30)),
            ({"rate": Fraction(24000, 1001)}, Fraction(30)),
            ({"rotation": 90}, None),
            ({"codec": "libx265", "options": {"x265-params": "log-level=none:keyint=8"}}, None),
        ],
        ids=["plain", "variable", "60 in 30", "23.976 in 30", "rotated", "HEVC"],
    )
    def test_hold_and_footage_agree(self, reel, arguments, rate):
        made = reel(**arguments)
        document = made.document(rate)
        evaluation = Evaluation(document)
        table = evaluation.timeline.tables[document.project.ground[0].id]
        library = made.library()
        for project_frame in range(0, evaluation.length, 3):
            source = int(table[project_frame])
            shown = library.exact(made.shot, source)
            upright = np.rot90(shown.y, 1) if made.probe.rotation else shown.y
            assert number_of(upright) == source
            assert evaluation.timeline.item_at(project_frame).frame == source
            held_document, layer = held(document, source, WHOLE)
            span = Evaluation(held_document).timeline.spans[layer]
            assert table[span.landing] == source
            assert span.landing <= project_frame

    def test_every_frame_by_random_access(self, reel):
        made = reel(frames=50)
        library = made.library()
        for frame in np.random.default_rng(1).permutation(50):
            assert number_of(library.exact(made.shot, int(frame)).y) == frame
            assert number_of(library.proxy(made.shot).planes(int(frame)).y) == frame


class TestInvisibleLanding:
    """Rule 2: a bare cutout at rest over its own frame changes no pixel by more than 1/255."""

    @pytest.mark.parametrize("canvas", [(160, 120), (200, 300), (90, 160)])
    @pytest.mark.parametrize("soften", [0.0, 9.0])
    def test_nothing_changes(self, reel, canvas, soften):
        made = reel()
        document = made.document()
        document = SetCanvas(width=canvas[0], height=canvas[1], rate=Fraction(30)).apply(document)
        renderer = Renderer(made.library())
        matte = Matte(
            pieces=[box(31.3, 22.7, 120.2, 99.4), box(50, 40, 70, 60, combine="cut away")],
            soften_in=soften,
            soften_out=soften,
        )
        with_cutout, layer = held(document, 7, matte)
        plain = renderer.render(Canvas.of(document), evaluate(document, 7))
        drawn = renderer.render(Canvas.of(with_cutout), evaluate(with_cutout, 7))
        assert len(evaluate(with_cutout, 7).layers) == 1
        for a, b in zip((plain.y, plain.u, plain.v), (drawn.y, drawn.u, drawn.v), strict=True):
            assert np.abs(a.astype(int) - b).max() == 0
        assert np.abs(to_bgr(plain).astype(int) - to_bgr(drawn)).max() <= 1


class TestNobodyTwice:
    """Rule 3: around the moment exactly one of the live subject and the cutout is in the place."""

    def test_trail_begins_with_its_own_frame(self, reel):
        document, layer = held(reel().document(), 9, WHOLE)
        shown = [bool(evaluate(document, f).layers) for f in range(24)]
        assert shown == [f >= 9 for f in range(24)]

    def test_ahead_ends_before_its_own_frame(self, reel):
        document, layer = held(reel().document(), 9, WHOLE, arrangement="ahead")
        shown = [bool(evaluate(document, f).layers) for f in range(24)]
        assert shown == [f < 9 for f in range(24)]

    def test_one_is_there_before_and_one_after(self, reel):
        """A trail and one that waits, of the same hold, meet without a gap and without an overlap."""
        document, layer = held(reel().document(), 9, WHOLE)
        document = DuplicateLayer(layer=layer).apply(document)
        other = document.project.layers[1].id
        document = ChangeLayer(layer=other, arrangement="ahead").apply(document)
        assert [len(evaluate(document, f).layers) for f in range(24)] == [1] * 24


class TestKeysStayPut:
    """Rule 4: keys keep their distance to what they are tied to."""

    def test_trimming_moves_only_what_is_tied_to_the_end(self, reel):
        document, layer = held(reel().document(), 5, WHOLE)
        for tie, offset in (("start", 2), ("landing", 4), ("end", -3)):
            key = Key(channel="opacity", tie=tie, offset=offset, value=[0.5])
            document = SetKey(layer=layer, key=key).apply(document)

        def frames(d):
            ties = Timeline(d).ties_of(d.layer(layer))
            return {k.tie: ties.frame(k) for k in d.layer(layer).keys}

        assert frames(document) == {"start": 7, "landing": 9, "end": 21}
        shorter = ChangeLayer(layer=layer, until=16).apply(document)
        assert frames(shorter) == {"start": 7, "landing": 9, "end": 13}

    def test_pasted_on_a_longer_layer_the_entrance_and_the_exit_fit(self, reel):
        document, short = held(reel().document(), 12, WHOLE)
        for tie, value in (("start", 0.0), ("end", 0.0)):
            document = SetKey(layer=short, key=Key(channel="opacity", tie=tie, offset=0, value=[value])).apply(document)
        document, long = held(document, 2, WHOLE)
        pasted = document.layer(short).keys
        ties = Timeline(document).ties_of(document.layer(long))
        assert [ties.frame(k) for k in pasted] == [2, 24]


class TestSharedHolds:
    """Rule 5: a hold's matte belongs to every layer that uses it, until one is made separate."""

    def test_change_reaches_both_until_separated(self, reel):
        document, layer = held(reel().document(), 3, WHOLE)
        document = DuplicateLayer(layer=layer).apply(document)
        first, second = document.project.layers
        document = ChangeMatte(hold=first.source.hold, matte=Matte(pieces=[box(0, 0, 9, 9)])).apply(document)
        mattes = [document.holds[x.source.hold].matte for x in document.project.layers]
        assert mattes[0] == mattes[1]
        document = MakeSeparate(layer=second.id).apply(document)
        first, second = document.project.layers
        document = ChangeMatte(hold=first.source.hold, matte=WHOLE).apply(document)
        assert document.holds[first.source.hold].matte != document.holds[second.source.hold].matte


class TestMatteOrder:
    """Rule 7: pieces in order, then invert, grow, soften; whatever the size it is looked at."""

    def test_order_counts(self):
        outer, inner = box(10, 10, 50, 50), box(20, 20, 40, 40, combine="cut away")
        ring = matte_alpha(Matte(pieces=[outer, inner]), 60, 60)
        assert ring[30, 30] == 0
        assert ring[15, 15] == 1
        again = matte_alpha(Matte(pieces=[outer, inner, box(25, 25, 35, 35)]), 60, 60)
        assert again[30, 30] == 1

    def test_whole_is_inverted_before_it_grows(self):
        alpha = matte_alpha(Matte(pieces=[box(20, 20, 40, 40)], invert=True, grow=5), 60, 60)
        assert alpha[30, 22] == 1
        assert alpha[30, 30] == 0

    def test_preview_size_matters_no_more_than_resampling(self, reel):
        made = reel(size=(320, 240))
        document, layer = held(
            made.document(), 4, Matte(pieces=[box(50.5, 40.25, 250, 200)], soften_in=6, soften_out=6)
        )
        renderer = Renderer(made.library())
        document = SetValue(layer=layer, channel="position", frame=4, value=[0, 0]).apply(document)
        spec = evaluate(document, 4).layers[0].sprite
        full = renderer.sprites.sprite(Canvas(document, (320, 240)), spec)
        half = renderer.sprites.sprite(Canvas(document, (160, 120)), spec)
        canvas = np.zeros((240, 320))
        h, w = full.alpha.shape
        canvas[full.top : full.top + h, full.left : full.left + w] = full.alpha
        small = np.zeros((120, 160))
        h, w = half.alpha.shape
        small[half.top : half.top + h, half.left : half.left + w] = half.alpha
        assert np.abs(canvas.reshape(120, 2, 160, 2).mean((1, 3)) - small).max() <= 0.006


class TestOverIsPremultiplied:
    """Rule 8: over is premultiplied."""

    def test_half_opaque_is_the_mean(self, reel):
        made = reel()
        document, layer = held(made.document(), 3, WHOLE)
        document = SetValue(layer=layer, channel="opacity", frame=3, value=[0.5]).apply(document)
        renderer, library = Renderer(made.library()), made.library()
        drawn = renderer.render(Canvas.of(document), evaluate(document, 12)).y[20:100, 30:130].astype(float)
        mean = (library.exact(made.shot, 3).y.astype(float) + library.exact(made.shot, 12).y) / 2
        assert np.abs(drawn - mean[20:100, 30:130]).max() <= 1


class TestPreviewIsTheExport:
    """Rule 11: preview and export come from one compositor."""

    def test_export_shows_what_was_drawn(self, reel, tmp_path):
        made = reel(size=(320, 240))
        document, layer = held(made.document(), 6, Matte(pieces=[box(60, 40, 240, 200)], soften_in=3, soften_out=3))
        document = SetValue(layer=layer, channel="position", frame=6, value=[40, -20]).apply(document)
        document = SetValue(layer=layer, channel="rotation", frame=6, value=[12]).apply(document)
        out = tmp_path / "out.mp4"
        export(document, made.library, silent, [Output(out, Mp4())])
        frames = decode_luma(out)
        renderer = Renderer(made.library())
        assert len(frames) == 24
        for f in (0, 5, 6, 17, 23):
            drawn = renderer.render(Canvas.of(document), evaluate(document, f)).y
            assert np.abs(frames[f].astype(int) - drawn).mean() < 1.5
