"""Recipes of one's own: what is kept of a piece, and what is made of it elsewhere."""

from fractions import Fraction

import numpy as np
import pytest

from nervykite.core.change.edits import AddGround, AddLayer, ChangeMatte, HoldFrame, PutRecipe, SetPalette
from nervykite.core.change.recipes.own_recipe import OwnRecipe
from nervykite.core.change.recipes.saving import saved
from nervykite.core.common.errors import Refusal
from nervykite.core.kinds.sources.shape import DrawnShape
from nervykite.core.piece.model import Caught, Document, Matte
from nervykite.core.piece.model.saved import Saved
from nervykite.core.piece.timeline.timeline import Timeline

from ..conftest import box
from .test_ground import even, of
from .test_recipes import KINDS, ground, put, take

KEPT = sorted(set(KINDS) - {"window", "spin-under"})
"""Those of ours that show no other footage."""


def kept(kind: str, **changes) -> tuple[Document, Saved]:
    """What a recipe of ours makes, and that kept as one of one's own."""
    document = put(ground(90), kind, 90)
    return document, saved(document, document.project.made[0].layers, "Mine", True, False).model_copy(update=changes)


def made(what: Saved, document: Document, frames: int, **settings) -> Document:
    """A document in which that was made of its first takes."""
    recipe = OwnRecipe(what=what, **settings)
    items = [g.id for g in document.project.ground]
    caught = [Caught(item=items[n], frame=f) for n, f in recipe.catch([take(frames)] * recipe.needs)]
    for one in caught:
        edit = HoldFrame(item=one.item, frame=one.frame)
        document = edit.apply(document)
        hold = document.layer(edit.layer).source.hold
        document = ChangeMatte(hold=hold, matte=Matte(pieces=[box(30, 20, 60, 90)])).apply(document)
    return PutRecipe(recipe=recipe, caught=caught).apply(document)


def shape_of(document: Document) -> list[tuple]:
    """What a piece is like, whatever its ids: its layers with what they wear and do, and its sounds."""
    order = {x.id: n for n, x in enumerate(document.project.layers)}
    layers = [
        (
            x.source.kind, x.arrangement.kind, order.get(x.group or ""), x.blend, len(x.keys),
            [(f.kind, f.settings) for f in x.finishes], [b.kind for b in x.behaviours], x.entrance, x.exit,
        )
        for x in document.project.layers
    ]  # fmt: skip
    cues = [(c.sound.kind, order.get(c.tie.layer or ""), c.tie.to, c.tie.offset, c.gain) for c in document.project.cues]
    return [layers, cues, [g.source.kind for g in document.project.ground if g.source.stands]]


def lying(document: Document) -> list[tuple[int, int]]:
    timeline = Timeline(document)
    spans = [timeline.span(x) for x in document.project.layers]
    first = min(s.landing for s in spans)
    return [(s.start - first, s.end - first) for s in spans]


@pytest.mark.parametrize("kind", KEPT)
def test_made_of_the_same_footage_it_is_the_same_piece(kind):
    before, what = kept(kind)
    what = Saved.model_validate_json(what.model_dump_json())
    after = made(what, ground(90), 90)
    assert shape_of(after) == shape_of(before)
    assert lying(after) == lying(before)
    assert not {x.id for x in after.project.layers} & {x.id for x in before.project.layers}
    Document.model_validate(after.model_dump())


@pytest.mark.parametrize("kind", KEPT)
@pytest.mark.parametrize(("rate", "frames"), [(60, 240), (25, 60), (30, 4)])
def test_made_of_other_footage_it_fits_or_says_why_not(kind, rate, frames):
    _, what = kept(kind)
    document = of(even(frames, Fraction(rate)), Fraction(rate))
    for _ in range(what.takes - 1):
        document = AddGround(shot=next(iter(document.shots))).apply(document)
    try:
        document = made(what, document, frames)
    except Refusal as refusal:
        said = str(refusal)
        assert said.endswith(".")
        return
    timeline = Timeline(document)
    for layer in document.project.layers:
        span = timeline.span(layer)
        assert span is not None
        assert 0 <= span.start < span.end <= timeline.length


def test_on_a_canvas_twice_as_large_all_is_twice_as_large_and_at_twice_the_rate_it_lasts_as_long():
    before, what = kept("name-strips")
    large = of(even(180, Fraction(60)), Fraction(60))
    project = before.project
    sides = {"width": 2 * project.width, "height": 2 * project.height}
    large = large.model_copy(update={"project": large.project.model_copy(update=sides)})
    after = made(what, large, 180)
    widths = [
        [f.settings["width"] for x in d.project.layers for f in x.finishes if f.kind == "outline"]
        for d in (before, after)
    ]
    assert widths[1] == pytest.approx([2 * w for w in widths[0]], abs=0.001)
    lasts = [
        [g.source.lasts(d) / float(d.project.rate) for g in d.project.ground if g.source.stands]
        for d in (before, after)
    ]
    assert lasts[0] == pytest.approx(lasts[1], abs=0.05)
    names = [next(x for x in d.project.layers if x.source.kind == "lettering") for d in (before, after)]
    assert names[1].pose.scale == pytest.approx(2 * names[0].pose.scale)
    assert names[1].pose.position == pytest.approx([2 * v for v in names[0].pose.position])


def test_words_are_asked_for_once_each_and_put_into_all_that_show_them():
    _, what = kept("name-strips")
    (asked,) = what.asks
    assert asked.words == "Your name"
    after = made(what, ground(90), 90, texts=["Juno Abara"])
    words = {x.source.words for x in after.project.layers if x.source.kind == "lettering"}
    assert words == {"Juno Abara"}
    assert saved(after, [x.id for x in after.project.layers], "Again", False, False).asks == []


def test_it_comes_in_the_colours_of_the_piece_that_it_is_made_in():
    _, what = kept("pops")
    palette = ["#0040FF", "#FFFFFF", "#000000", "#00A040"]
    document = SetPalette(colours=palette).apply(ground(90))
    after = made(what, document, 90)
    colours = {f.settings["colour"].upper() for x in after.project.layers for f in x.finishes if f.kind == "outline"}
    assert colours <= set(palette)
    assert after.project.palette == palette


def test_longer_and_farther_apart_as_asked():
    _, what = kept("trail")
    short, long = (made(what, ground(90), 90, length=length) for length in (50, 200))
    ends = [max(end for _, end in lying(d)) for d in (short, long)]
    assert ends[1] > 1.5 * ends[0]
    near, far = (made(what, ground(90), 90, spacing=s) for s in (50, 150))
    apart = [np.ptp([h.frame for h in d.holds.values()]) for d in (near, far)]
    assert apart[1] == pytest.approx(3 * apart[0], abs=2)


def test_what_cannot_be_kept_is_refused_with_a_sentence():
    document = put(ground(90), "trail", 90)
    with pytest.raises(Refusal, match="Choose the layers"):
        saved(document, [], "Mine", True, False)
    made_of = AddLayer(source=DrawnShape.family["box"](), at=0, frames=20)
    document = made_of.apply(document)
    with pytest.raises(Refusal, match="choose a cutout as well"):
        saved(document, [made_of.layer], "Mine", True, False)
    window = put(ground(90), "window", 90)
    with pytest.raises(Refusal, match=r"runs along|footage of this"):
        saved(window, window.project.made[0].layers, "Mine", True, False)


@pytest.mark.parametrize(
    "broken",
    [
        {"wanted": []},
        {"layers": []},
        {"takes": 0},
        {"lies": [{"layer": "0" * 16, "wanted": "0" * 16, "since": 0, "until": 1}]},
        {"asks": [{"layers": ["0" * 16], "title": "Name"}]},
        {"inks": ["#000000"]},
        {"cues": [{"name": "Bang", "sound": {"kind": "slam"}, "tie": {"to": "start"}}]},
        {"more": 1},
    ],
)
def test_what_does_not_hold_together_is_no_recipe(broken):
    _, what = kept("trail")
    with pytest.raises(ValueError):
        Saved.model_validate({**what.model_dump(mode="json"), **broken})


def test_of_three_cutouts_that_of_one_moment_is_made_three_times():
    _, what = kept("ink-panel")
    document = ground(90)
    item = document.project.ground[0].id
    caught = [Caught(item=item, frame=f) for f in (20, 40, 60)]
    after = PutRecipe(recipe=OwnRecipe(what=what), caught=caught).apply(document)
    assert [x.source.kind for x in after.project.layers] == ["wash", "hold"] * 3
    assert [g.source.stands for g in after.project.ground[:7]] == [False, True] * 3 + [False]
    timeline = Timeline(after)
    starts = [timeline.span(x).start for x in after.project.layers if x.source.kind == "hold"]
    assert starts == sorted(starts)
    _, trail = kept("trail")
    with pytest.raises(Refusal, match="is made of 3 moments"):
        PutRecipe(recipe=OwnRecipe(what=trail), caught=caught[:2]).apply(document)
