"""Words: shaped as their scripts ask, laid out, painted; and as layers."""

import io
import itertools
from typing import get_args

import numpy as np
import pytest
import skia
from fontTools.ttLib import TTFont

from nervykite.core.change.edits import AddLayer, ChangeLayer, SetValue
from nervykite.core.common.errors import Refusal
from nervykite.core.craft.lettering.coming import Coming, come
from nervykite.core.craft.lettering.faces import FALLBACK, SHIPPED, face_files, home, unpacked
from nervykite.core.craft.lettering.layout import Override, Typesetting, laid
from nervykite.core.craft.lettering.outlines import outline
from nervykite.core.craft.lettering.paint import LetterStyle, painted
from nervykite.core.craft.lettering.shaping import shaped
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.kinds.sources.lettering import LetteringSource
from nervykite.core.kinds.sources.plain_colour import ColourSource
from nervykite.core.see.footage.planes import to_bgr


def numbers(text: str, face: str = "anton", **more) -> list[int]:
    return [g.number for g in shaped(text, face_files(face), **more).glyphs]


class TestFaces:
    def test_all_are_there_and_have_what_a_name_needs(self):
        assert len(SHIPPED) >= 14
        assert {f.sort for f in SHIPPED.values()} >= {
            "condensed", "slab", "brush", "rounded", "comic", "stencil", "serif", "mono", "hand",
        }  # fmt: skip
        for id_ in SHIPPED:
            known = set().union(*(f.has for f in face_files(id_)))
            assert {ord(c) for c in "AZaz09 .,!?&-éñüß"} <= known, id_

    def test_what_is_varied_varies(self):
        widths = [
            shaped("Name", face_files("anybody", (("wdth", w), ("wght", 400)))).width for w in (50.0, 100.0, 150.0)
        ]
        assert widths == sorted(widths)
        assert widths[2] > 1.6 * widths[0]
        assert [a.tag for a in face_files("anybody")[0].axes] == ["wdth", "wght"]

    def test_woff2_holds_what_it_was_made_of(self):
        path = home() / SHIPPED["anton"].files[0]
        font = TTFont(path)
        font.flavor = "woff2"
        packed = io.BytesIO()
        font.save(packed)
        assert TTFont(io.BytesIO(unpacked(packed.getvalue(), "x"))).getBestCmap() == TTFont(path).getBestCmap()
        with pytest.raises(Refusal, match="cannot be read as a font"):
            unpacked(b"wOF2 and nothing else", "Some face")

    def test_one_that_there_is_not_is_refused(self):
        with pytest.raises(Refusal, match="no such face"):
            face_files("nonsense")


class TestShaping:
    def test_latin_is_kerned_and_accents_stand_on_their_letters(self):
        pair, apart = shaped("AV", face_files("abril-fatface")), [shaped(c, face_files("abril-fatface")) for c in "AV"]
        assert pair.width < sum(x.width for x in apart) - 0.02
        composed, typed_apart = shaped("é", face_files("anton")), shaped("e\u0301", face_files("anton"))
        assert composed.width == pytest.approx(typed_apart.width, abs=1e-6)

    def test_tracking_lies_between_letters_and_parts_ligatures(self):
        plain, wide = (shaped("abc", face_files("anton"), t) for t in (0.0, 0.1))
        assert wide.width == pytest.approx(plain.width + 0.2)
        joined, parted = numbers("office", "pacifico"), numbers("office", "pacifico", tracking=0.1)
        assert len(joined) <= len(parted) == 6

    def test_hebrew_reads_from_right_to_left(self):
        line = shaped("שלום", face_files("rubik"))
        assert [g.letter for g in line.glyphs] == [3, 2, 1, 0]
        assert line.backwards

    def test_arabic_letters_are_joined(self):
        word, alone = numbers("بيت", "rubik"), [numbers(c, "rubik")[0] for c in "تيب"]
        assert len(word) >= 3
        assert word != alone

    def test_devanagari_makes_conjuncts(self):
        """क्ष is one glyph, and the vowel sign of कि stands before its consonant."""
        assert len(numbers("क्ष", "baloo-2")) == 1
        ki, k = shaped("कि", face_files("baloo-2")), numbers("क", "baloo-2")[0]
        assert [g.number for g in ki.glyphs].index(k) == 1

    def test_greek_and_cyrillic(self):
        for text in ("Ωκεανός", "Чайка"):
            line = shaped(text, face_files("sofia-sans-extra-condensed"))
            assert len(line.glyphs) == len(text)
            assert all(g.number for g in line.glyphs)
            assert line.missing == ()

    def test_directions_mix_as_unicode_says(self):
        """Within a line from right to left, Latin and digits still read from left to right."""
        line = shaped("שלום AB 12", face_files("rubik"))
        text = "".join("שלום AB 12"[g.letter] for g in line.glyphs)
        assert text == "AB 12 םולש"

    def test_what_a_face_lacks_comes_from_another_and_what_none_has_is_said(self):
        line = shaped("Aش漢B", face_files("bangers"))
        assert line.missing == ("漢",)
        assert [g.letter for g in line.glyphs] == [0, 1, 3]
        assert line.glyphs[1].face is not line.glyphs[0].face

    def test_nothing_is_nothing(self):
        assert shaped("", face_files("anton")).width == 0
        assert laid(Typesetting("  \n \n")).box is None


@pytest.mark.parametrize("face", ["anton", "pacifico", "rubik"])
def test_outlines_are_within_a_tenth_of_a_pixel_of_skias(face):
    path = home() / SHIPPED[face].files[0]
    font = skia.Font(skia.Typeface.MakeFromFile(str(path)), 200)
    font.setHinting(skia.FontHinting.kNone)
    (own,) = face_files(face)
    for c in "RagS&é":
        number = own.font.get_nominal_glyph(ord(c))
        mine = skia.Path()
        outline(own, number).transform(skia.Matrix.Scale(200, 200), mine)
        theirs = font.getPath(number)
        for a, b in zip(mine.computeTightBounds(), theirs.computeTightBounds(), strict=True):
            assert a == pytest.approx(b, abs=0.1)
        measure = skia.PathMeasure(mine, False), skia.PathMeasure(theirs, False)
        assert measure[0].getLength() == pytest.approx(measure[1].getLength(), rel=2e-3)


def points(path: skia.Path, step: float = 1.5) -> np.ndarray:
    """Places along a path."""
    found = []
    measure = skia.PathMeasure(path, False)
    while True:
        for at in np.arange(0, measure.getLength(), step):
            place, _ = measure.getPosTan(float(at))
            found.append((place.x(), place.y()))
        if not measure.nextContour():
            return np.array(found)


def gaps(setting: Typesetting) -> list[float]:
    """How near each letter comes to the next."""
    paths = [points(x.path) for x in laid(setting).letters]
    return [float(np.sqrt(((a[:, None] - b[None]) ** 2).sum(-1)).min()) for a, b in zip(paths, paths[1:], strict=False)]


class TestLayout:
    def test_lines_lie_about_the_middle(self):
        for align, edge in (("left", 0), ("right", 2), ("middle", None)):
            letters = laid(Typesetting("HHHH\nHH", align=align)).letters
            lines = [[x.path.computeTightBounds() for x in letters if x.line == n] for n in (0, 1)]
            lefts, rights = [min(b.left() for b in r) for r in lines], [max(b.right() for b in r) for r in lines]
            if edge == 0:
                assert lefts[0] == pytest.approx(lefts[1], abs=0.01)
            elif edge == 2:
                assert rights[0] == pytest.approx(rights[1], abs=0.01)
            else:
                assert lefts[0] + rights[0] == pytest.approx(lefts[1] + rights[1], abs=0.01)
        left, top, right, bottom = laid(Typesetting("HHH\nHHH")).box
        assert left + right == pytest.approx(0, abs=2)
        assert top + bottom == pytest.approx(0, abs=2)

    def test_even_lines_are_equally_wide(self):
        letters = laid(Typesetting("THE\nLAST ONE OF ALL", align="even", face="archivo-black")).letters
        widths = []
        for n in (0, 1):
            boxes = [x.path.computeTightBounds() for x in letters if x.line == n]
            widths.append(max(b.right() for b in boxes) - min(b.left() for b in boxes))
        assert widths[0] == pytest.approx(widths[1], rel=0.04)

    def test_words_lines_and_letters_are_counted(self):
        letters = laid(Typesetting("ab cd\nef")).letters
        assert [(x.letter, x.word, x.line) for x in letters] == [
            (0, 0, 0), (1, 0, 0), (3, 1, 0), (4, 1, 0), (0, 2, 1), (1, 2, 1),
        ]  # fmt: skip

    @pytest.mark.parametrize("bend", [40, 120, 300, -40, -120])
    def test_letters_on_an_arc_do_not_crowd(self, bend):
        straight, bent = (
            gaps(Typesetting("MOUNTAINS", "archivo-black", tracking=0.04, shape=s, bend=bend))
            for s in ("straight", "arc")
        )
        assert all(b > 0.75 * a - 0.5 for a, b in zip(straight, bent, strict=True))

    def test_an_arc_turns_by_what_it_says(self):
        letters = laid(Typesetting("IIIIIIIIIII", shape="arc", bend=180, tracking=0.3)).letters
        assert letters[5].middle[0] == pytest.approx(0, abs=0.5)
        # The middle is highest, and both ends are equally low.
        assert letters[5].middle[1] < letters[0].middle[1] - 50
        assert letters[0].middle[1] == pytest.approx(letters[-1].middle[1], abs=0.5)
        wide = [x.path.computeTightBounds() for x in letters]
        # At its ends upright strokes lie: nearly a quarter of a turn each way.
        assert wide[0].width() > 2 * wide[0].height()
        assert wide[5].height() > 2 * wide[5].width()

    def test_case_and_width(self):
        assert len(laid(Typesetting("straße", case="capitals")).letters) == 7
        plain, wide = (laid(Typesetting("name", width=w)).box for w in (1.0, 2.0))
        assert wide[2] - wide[0] == pytest.approx(2 * (plain[2] - plain[0]), rel=0.01)
        assert wide[3] - wide[1] == pytest.approx(plain[3] - plain[1], rel=0.01)


def paint(setting: Typesetting, look: LetterStyle, size=(400, 200), scale=1.0) -> np.ndarray:
    matrix = np.array([[scale, 0, size[0] / 2], [0, scale, size[1] / 2], [0, 0, 1]])
    return painted(laid(setting), look, matrix, (0, 0, *size))


class TestPaint:
    BIG = Typesetting("HO", "archivo-black", size=120)

    def test_lines_lie_one_around_the_other(self):
        look = LetterStyle(("#FF0000",), lines=((6, "#00FF00"), (4, "#0000FF")))
        rgba = paint(self.BIG, look)
        row = rgba[100]
        solid = row[..., 3] > 0.99
        order = [int(np.argmax(p[:3])) for p in row[solid] if p[:3].max() > 0.9]
        runs = [k for n, k in enumerate(order) if n == 0 or order[n - 1] != k]
        assert runs[:3] == [2, 1, 0]
        widths = [order[: order.index(1)].count(2), order[order.index(1) : order.index(0)].count(1)]
        assert widths == [pytest.approx(4, abs=1.5), pytest.approx(6, abs=1.5)]

    def test_hollow_letters_are_clean_where_they_overlap(self):
        tight = Typesetting("OOO", "archivo-black", size=120, tracking=-0.15)
        bodies = paint(tight, LetterStyle())[..., 3]
        hollow = paint(tight, LetterStyle(None, lines=((4, "#FFFFFF"),)))[..., 3]
        assert hollow[bodies > 0.999].max() < 0.01
        assert hollow.max() > 0.99

    def test_a_gradient_goes_from_one_colour_to_the_other(self):
        rgba = paint(Typesetting("HHHH", "archivo-black", size=140), LetterStyle(("#FF0000", "#0000FF"), angle=90))
        column = rgba[rgba[..., 3] > 0.999]
        ys = np.nonzero(rgba[..., 3] > 0.999)[0]
        top, bottom = (column[ys == y].mean(0) for y in (ys.min(), ys.max()))
        assert top[0] > 0.95
        assert bottom[2] > 0.95

    def test_depth_lies_behind_and_to_its_side(self):
        flat, deep = (
            paint(self.BIG, LetterStyle(("#FFFFFF",), depth=d, towards=0, side=("#FF0000",))) for d in (0, 30)
        )
        cover = [x[..., 3] > 0.5 for x in (flat, deep)]
        xs = [np.flatnonzero(c.any(0)) for c in cover]
        assert xs[0][0] == xs[1][0]
        assert xs[1][-1] - xs[0][-1] == pytest.approx(30, abs=1)
        assert np.array_equal(deep[cover[0] & (flat[..., 3] > 0.999)], flat[cover[0] & (flat[..., 3] > 0.999)])
        assert np.array_equal(np.flatnonzero(cover[0].any(1)), np.flatnonzero(cover[1].any(1)))

    def test_at_half_size_it_looks_like_half_of_it(self):
        look = LetterStyle(("#FFE08A", "#FF6A2B"), lines=((8, "#1E2530"),), depth=16, side=("#7A2413", "#000000"))
        whole, half = paint(self.BIG, look), paint(self.BIG, look, (200, 100), 0.5)
        mean = whole.reshape(100, 2, 200, 2, 4).mean((1, 3))
        assert np.abs(mean - half).mean() < 0.006

    def test_no_dark_rim(self):
        rgba = paint(self.BIG, LetterStyle(("#FFFFFF",)))
        assert np.abs(rgba[..., :3] - rgba[..., 3:]).max() < 1e-6


WAYS = [w for w in get_args(LetteringSource.model_fields["way"].annotation) if w != "all there"]


class TestComing:
    WORDS = Typesetting("MARA DUNE\nTWO", "titan-one", size=70)

    @pytest.mark.parametrize("way", WAYS)
    def test_at_the_end_each_lies_exactly_in_place_and_at_the_start_none_is_there(self, way):
        words = laid(self.WORDS)
        assert come(words, Coming(way, 1.0), 70) is words
        assert come(words, Coming(way, 0.0), 70).letters == ()
        assert come(words, Coming(way, 1.0, gone=1.0), 70).letters == ()
        half = come(words, Coming(way, 0.5), 70)
        assert 0 < len(half.letters) <= len(words.letters)
        # What has come already lies exactly where it will stay.
        assert half.letters[0] is words.letters[0]

    def test_by_word_and_line_they_come_together(self):
        words = laid(self.WORDS)
        for by, counts in (("letter", 5), ("word", 4), ("line", 8)):
            there = come(words, Coming("typed", 0.45 if by == "letter" else 0.3, by=by, stagger=1.0), 70).letters
            assert len(there) == counts

    def test_all_at_once_and_in_another_order(self):
        words = laid(self.WORDS)
        together = come(words, Coming("pop", 0.5, stagger=0.0, ease="even"), 70)
        widths = [
            a.path.computeTightBounds().width() / b.path.computeTightBounds().width()
            for a, b in zip(together.letters, words.letters, strict=True)
        ]
        assert widths == pytest.approx([0.5] * 11, abs=0.01)
        last = come(words, Coming("typed", 0.15, order="backwards", stagger=1.0), 70).letters
        assert last[-1] is words.letters[-1]
        middle = come(words, Coming("typed", 0.05, order="from the middle", stagger=1.0), 70).letters
        assert middle == (words.letters[5],)
        some = [
            come(words, Coming("typed", 0.5, order="by chance", stagger=1.0, seed=s), 70).letters for s in (1, 1, 2)
        ]
        assert some[0] == some[1] != some[2]

    def test_they_go_out_the_way_they_came(self):
        words = laid(self.WORDS)
        one = come(words, Coming("rise", 0.5, stagger=0.0), 70)
        other = come(words, Coming("rise", 1.0, gone=0.5, stagger=0.0), 70)
        assert [x.middle for x in one.letters] == [x.middle for x in other.letters]
        for a, b in zip(one.letters, other.letters, strict=True):
            assert a.path.computeTightBounds() == b.path.computeTightBounds()

    def test_half_there_they_are_painted_fainter_or_half_drawn(self):
        words, matrix = (
            laid(Typesetting("HO", "archivo-black", size=120)),
            np.array([[1, 0, 200], [0, 1, 100], [0, 0, 1]]),
        )

        def cover(coming: Coming) -> float:
            moved = come(words, coming, 120)
            return float(painted(moved, LetterStyle(), matrix, (0, 0, 400, 200))[..., 3].sum())

        whole = cover(Coming())
        faint = cover(Coming("rise", 0.2, stagger=0.0))
        drawn = [cover(Coming("drawn", p, stagger=0.0)) for p in (0.1, 0.3, 0.6, 0.9)]
        assert 0.3 * whole < faint < 0.7 * whole
        assert drawn == sorted(drawn)
        assert drawn[0] < 0.1 * whole


class TestAsALayer:
    @pytest.fixture
    def named(self, reel):
        made = reel(size=(320, 240))
        add = AddLayer(source=LetteringSource(words="Mara", high=120, line=0), at=2)
        return made, add.apply(made.document()), add.layer

    def test_words_are_drawn_over_the_footage_and_the_layer_is_called_by_them(self, named):
        made, document, layer = named
        assert document.layer(layer).name == "Mara"
        renderer = Renderer(made.library())
        shown, before = (to_bgr(renderer.render(Canvas.of(document), Evaluation(document).at(f))) for f in (4, 1))
        box = LetteringSource(words="Mara", high=120, line=0).bounds(document)
        inside = shown[int(box[1]) : int(box[3]), int(box[0]) : int(box[2])]
        assert (inside.min(-1) > 245).mean() > 0.3
        assert (before.min(-1) > 245).mean() < 0.05

    def test_its_name_follows_its_words_unless_somebody_named_it(self, named):
        _, document, layer = named
        source = document.layer(layer).source
        typed = ChangeLayer(layer=layer, source=source.model_copy(update={"words": "Ilse\nReel"})).apply(document)
        assert typed.layer(layer).name == "Ilse"
        called = ChangeLayer(layer=layer, name="Card").apply(document)
        again = ChangeLayer(layer=layer, source=source.model_copy(update={"words": "Ilse"})).apply(called)
        assert again.layer(layer).name == "Card"

    def test_larger_it_is_painted_anew_and_sharp(self, named):
        made, document, layer = named
        pose = document.layer(layer).pose.model_copy(update={"scale": 3.0})
        project = document.project
        layers = [x.model_copy(update={"pose": pose}) if x.id == layer else x for x in project.layers]
        large = document.model_copy(update={"project": project.model_copy(update={"layers": layers})})
        renderer = Renderer(made.library())
        seen = to_bgr(renderer.render(Canvas.of(large), Evaluation(large).at(4))).astype(int)
        # From letter to footage within two pixels.
        steps = np.abs(np.diff(seen[120].min(-1)))
        assert steps.max() > 60

    def test_what_has_no_letters_is_not_there(self, named):
        made, document, layer = named
        source = document.layer(layer).source.model_copy(update={"words": " "})
        empty = ChangeLayer(layer=layer, source=source).apply(document)
        assert empty.layer(layer).source.empty(empty)
        assert Evaluation(empty).at(4).key
        Renderer(made.library()).render(Canvas.of(empty), Evaluation(empty).at(4))

    def test_letters_as_large_as_a_house_get_a_sentence(self, named):
        made, document, layer = named
        source = LetteringSource(words="WWWWWWWWWWWWWWWWWWWW\n" * 12, high=4000)
        huge = ChangeLayer(layer=layer, source=source).apply(document)
        with pytest.raises(Refusal, match="Make it smaller"):
            Renderer(made.library()).render(Canvas.of(huge), Evaluation(huge).at(4))

    def test_a_face_that_is_not_installed_here_is_replaced(self, named, monkeypatch, tmp_path):
        kept = laid(Typesetting("Mara", "rubik")).box
        rubik = tmp_path / SHIPPED["rubik"].files[0]
        rubik.parent.mkdir(parents=True)
        rubik.write_bytes((home() / SHIPPED["rubik"].files[0]).read_bytes())
        for id_ in FALLBACK[1:]:
            other = tmp_path / SHIPPED[id_].files[0]
            other.parent.mkdir(parents=True)
            other.write_bytes(rubik.read_bytes())
        monkeypatch.setenv("NERVYKITE_FACES", str(tmp_path))
        laid.cache_clear()
        assert laid(Typesetting("Mara", "bangers")).box == kept
        laid.cache_clear()

    def test_a_face_that_there_is_not_is_refused(self, named):
        _, document, layer = named
        with pytest.raises(Refusal, match="no such face"):
            ChangeLayer(layer=layer, source=LetteringSource(face="nonsense")).apply(document)

    def test_its_settings_can_have_keys(self, named):
        _, document, layer = named
        for frame, high in ((4, 60.0), (14, 160.0)):
            edit = SetValue(layer=layer, channel="source.high", frame=frame, value=[high], key=True)
            document = edit.apply(document)
        colour = SetValue(layer=layer, channel="source.colour", frame=4, value=[1, 0, 0], key=True)
        document = colour.apply(document)
        evaluation = Evaluation(document)
        sizes = [evaluation.at(f).layers[0].sprite.picture.inked.high for f in (4, 9, 14, 20)]
        assert sizes[0] == 60
        assert 60 < sizes[1] < 160
        assert sizes[2:] == [160, 160]
        # What goes around it goes with it, and what stands still is one sprite.
        boxes = [evaluation.box(document.layer(layer), f) for f in (4, 14)]
        assert boxes[1][2] - boxes[1][0] > 2 * (boxes[0][2] - boxes[0][0])
        assert evaluation.at(15).layers[0].sprite is evaluation.at(20).layers[0].sprite
        assert evaluation.values(document.layer(layer), 4)["source.colour"] == [1, 0, 0]

    def test_letters_come_in_by_keys_and_then_are_one_sprite(self, named):
        made, document, layer = named
        source = document.layer(layer).source.model_copy(update={"way": "typed", "stagger": 1.0})
        document = ChangeLayer(layer=layer, source=source).apply(document)
        for frame, entered in ((2, 0.0), (12, 1.0)):
            edit = SetValue(layer=layer, channel="source.entered", frame=frame, value=[entered], key=True)
            document = edit.apply(document)
        evaluation, renderer = Evaluation(document), Renderer(made.library())
        assert evaluation.at(2).layers == ()
        white = []
        for frame in (4, 7, 12):
            shown = to_bgr(renderer.render(Canvas.of(document), evaluation.at(frame)))
            white.append(int((shown.min(-1) > 245).sum()))
        assert white[0] < white[1] < white[2]
        assert evaluation.at(12).layers[0].sprite.digest == evaluation.at(20).layers[0].sprite.digest
        still = Evaluation(
            ChangeLayer(layer=layer, source=LetteringSource(words="Mara", high=120, line=0)).apply(document)
        )
        assert still.at(20).layers[0].sprite.digest == evaluation.at(20).layers[0].sprite.digest

    def test_keys_of_settings_go_with_what_had_them(self, named):
        _, document, layer = named
        keyed = SetValue(layer=layer, channel="source.high", frame=4, value=[60], key=True).apply(document)
        typed = ChangeLayer(layer=layer, source=LetteringSource(words="Ilse")).apply(keyed)
        assert len(typed.layer(layer).keys) == 1
        other = ChangeLayer(layer=layer, source=ColourSource(colour="#102030")).apply(keyed)
        assert other.layer(layer).keys == []
        with pytest.raises(Refusal, match="Size goes from 4 to 4000"):
            SetValue(layer=layer, channel="source.high", frame=4, value=[1]).apply(document)
        plain = SetValue(layer=layer, channel="source.align", frame=4, value=[2]).apply(document)
        assert plain.layer(layer).source.align == "right"


class TestApart:
    def test_a_word_is_larger_and_the_rest_makes_room(self):
        plain = laid(Typesetting("Over the dune", "anton", size=80))
        apart = laid(Typesetting("Over the dune", "anton", size=80, aparts=(Override(2, size=2.0),)))
        high = [x.path.computeTightBounds().height() for x in apart.letters]
        was = [x.path.computeTightBounds().height() for x in plain.letters]
        assert high[:7] == pytest.approx(was[:7], rel=1e-3)
        assert high[7:] == pytest.approx([2 * h for h in was[7:]], rel=1e-3)
        # Nothing lies over anything else, and all of it stays about the middle.
        edges = [x.path.computeTightBounds() for x in apart.letters]
        assert all(a.right() < b.left() + 6 for a, b in itertools.pairwise(edges))
        assert edges[0].left() + edges[-1].right() == pytest.approx(0, abs=12)

    def test_a_letter_goes_before_its_word_and_is_raised_and_turned(self):
        one = laid(
            Typesetting("ab cd", "anton", size=80, aparts=(Override(1, up=0.5), Override(2, letter=True, turn=90)))
        )
        plain = laid(Typesetting("ab cd", "anton", size=80))
        down = [p.middle[1] - x.middle[1] for p, x in zip(plain.letters, one.letters, strict=True)]
        assert down == pytest.approx([0, 0, 0, 40], abs=0.01)
        c = one.letters[2].path.computeTightBounds(), plain.letters[2].path.computeTightBounds()
        assert c[0].width() == pytest.approx(c[1].height(), rel=0.01)

    def test_its_own_colour_is_painted_over_that_of_the_rest(self):
        words = laid(Typesetting("ab cd", "anton", size=80, aparts=(Override(1, colour="#00FF00"),)))
        rgba = painted(
            words, LetterStyle(("#FF0000",)), np.array([[1, 0, 150], [0, 1, 60], [0, 0, 1.0]]), (0, 0, 300, 120)
        )
        red, green = ((np.abs(rgba[..., :3] - c).max(-1) < 0.02) for c in ((1, 0, 0), (0, 1, 0)))
        assert red.sum() > 300
        assert green.sum() > 300
        assert np.flatnonzero(red.any(0)).max() < np.flatnonzero(green.any(0)).min()

    def test_a_picture_fills_the_words_as_it_covers_them(self):
        words = laid(Typesetting("MMM", "anton", size=200))
        left, top, right, bottom = words.box
        half = np.zeros((40, 120, 4), np.uint8)
        half[..., 3] = 255
        half[:, :60, 0] = half[:, 60:, 2] = 255
        matrix = np.array([[1, 0, 200], [0, 1, 120], [0, 0, 1.0]])
        rgba = painted(words, LetterStyle(("#00FF00",)), matrix, (0, 0, 400, 240), words.box, half)
        inside = rgba[..., 3] > 0.99
        x = np.arange(400)[None, :] * np.ones((240, 1))
        assert rgba[inside & (x < 190)][:, 0].min() > 0.95
        assert rgba[inside & (x > 210)][:, 2].min() > 0.95
        assert rgba[inside][:, 1].max() < 0.05
