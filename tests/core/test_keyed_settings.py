"""Settings can have keys: numbers, whole ones, switches, choices and colours."""

import numpy as np
import pytest

from nervykite.core.change.edits import ChangeGround, ChangeLayer, DuplicateLayer, RemoveKey, SetKeys, SetValue
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.canvas import Canvas
from nervykite.core.draw.picture.evaluate import Evaluation, evaluate
from nervykite.core.draw.picture.render import Renderer
from nervykite.core.piece.model import Finish, Key, Matte
from nervykite.core.piece.motion.channels import channel_of, keyable
from nervykite.core.see.footage.planes import to_bgr

from ..conftest import box, held


@pytest.fixture
def outlined(reel):
    made = reel(size=(320, 240))
    document, layer = held(made.document(), 4, Matte(pieces=[box(100, 80, 200, 160)]))
    line = Finish(kind="outline", settings={"width": 4, "colour": "#FF0000"})
    return made, ChangeLayer(layer=layer, finishes=[line]).apply(document), layer, f"{line.id}.width"


def test_all_settings_but_chance_can_have_keys(outlined):
    _, document, layer, channel = outlined
    (line,) = document.layer(layer).finishes
    known = keyable(line)
    assert {"width", "opacity", "offset", "second", "rough", "colour", "style", "boils"} <= set(known)
    assert "seed" not in known
    assert known["style"].sort == "choice"
    assert known["boils"].sort == "whole"
    assert channel_of(document.layer(layer), channel).high == 80
    with pytest.raises(Refusal, match="no longer there"):
        channel_of(document.layer(layer), f"{line.id}.seed")


@pytest.mark.parametrize(
    ("setting", "first", "last", "between"),
    [
        ("colour", [1, 0, 0], [0, 0, 1], "#8C53A2"),
        ("style", [0], [2], "solid"),
        ("boils", [0], [9], 4),
    ],
)
def test_a_setting_of_any_sort_goes_from_key_to_key(outlined, setting, first, last, between):
    """A colour is mixed as `color-mix(in oklab, …)` of CSS mixes it, a choice is held, a whole number is whole."""
    _, document, layer, channel = outlined
    channel = channel.replace("width", setting)
    for frame, value in ((4, first), (20, last)):
        document = SetValue(layer=layer, channel=channel, frame=frame, value=value, key=True).apply(document)
    keyed = Evaluation(document).keyed(document.layer(layer))
    known = keyable(document.layer(layer).finishes[0])[setting]
    seen = [getattr(keyed.looks(f)[0], setting) for f in (4, 12, 19, 20)]
    assert seen[0] == known.value(first)
    assert seen[1] == between
    assert (seen[2] == between) == known.held
    assert seen[3] == known.value(last)


def test_what_begins_to_boil_by_a_key_changes_from_then_on(outlined):
    _, document, layer, channel = outlined
    (line,) = document.layer(layer).finishes
    line = line.model_copy(update={"settings": {**line.settings, "wobble": 0.8}})
    document = ChangeLayer(layer=layer, finishes=[line]).apply(document)
    channel = channel.replace("width", "boils")
    for frame, value in ((4, 0), (12, 2)):
        document = SetValue(layer=layer, channel=channel, frame=frame, value=[value], key=True).apply(document)
    looks = [evaluate(document, f).layers[0].sprite.digest for f in (4, 5, 14, 16)]
    assert looks[0] == looks[1]
    assert len(set(looks[1:])) == 3


def test_a_key_of_a_colour_is_three_numbers_that_a_screen_can_show(outlined):
    _, document, layer, channel = outlined
    channel = channel.replace("width", "colour")
    with pytest.raises(Refusal, match="is 3 numbers"):
        SetValue(layer=layer, channel=channel, frame=4, value=[1], key=True).apply(document)
    with pytest.raises(Refusal, match="Colour goes from 0 to 1"):
        SetValue(layer=layer, channel=channel, frame=4, value=[0, 0, 255], key=True).apply(document)


def test_a_choice_without_keys_is_set_by_its_place(outlined):
    _, document, layer, channel = outlined
    document = SetValue(layer=layer, channel=channel.replace("width", "style"), frame=9, value=[1]).apply(document)
    (line,) = document.layer(layer).finishes
    assert line.settings["style"] == keyable(line)["style"].options[1]


def test_without_keys_a_value_holds_all_along(outlined):
    _, document, layer, channel = outlined
    document = SetValue(layer=layer, channel=channel, frame=9, value=[12]).apply(document)
    assert document.layer(layer).finishes[0].settings["width"] == 12
    assert document.layer(layer).keys == []
    with pytest.raises(Refusal, match="Width goes from 0 to 80"):
        SetValue(layer=layer, channel=channel, frame=9, value=[200]).apply(document)


def test_a_line_that_grows_is_drawn_growing(outlined):
    made, document, layer, channel = outlined
    for frame, width in ((4, 2.0), (20, 34.0)):
        document = SetValue(layer=layer, channel=channel, frame=frame, value=[width], key=True).apply(document)
    evaluation = Evaluation(document)
    assert evaluation.values(document.layer(layer), 12)[channel] == [18]
    renderer = Renderer(made.library())
    widths = []
    for frame in (4, 12, 20):
        rgb = to_bgr(renderer.render(Canvas.of(document), evaluate(document, frame)))[..., ::-1].astype(int)
        widths.append(int((rgb[120, 40:100] - [255, 0, 0]).__abs__().max(-1).__lt__(40).sum()))
    assert np.diff(widths).tolist() == [16, 16]


def test_the_ground_can_have_keys_too(reel):
    document = reel().document()
    item = document.project.ground[0].id
    blur = Finish(kind="soft-blur", settings={"radius": 0})
    document = ChangeGround(item=item, finishes=[blur]).apply(document)
    for frame, radius in ((0, 0.0), (23, 46.0)):
        edit = SetValue(item=item, channel=f"{blur.id}.radius", frame=frame, value=[radius], key=True)
        assert edit.title(document) == "change radius of clip"
        document = edit.apply(document)
    evaluation = Evaluation(document)
    assert [round(evaluation.at(t).ground.finishes[0].look.radius, 3) for t in (0, 11.5, 23)] == [0, 23, 46]
    key = document.project.ground[0].keys[0]
    assert len(RemoveKey(item=item, key=key.id).apply(document).project.ground[0].keys) == 1


def test_keys_go_with_their_finish(outlined):
    _, document, layer, channel = outlined
    document = SetValue(layer=layer, channel=channel, frame=6, value=[9], key=True).apply(document)
    copy = DuplicateLayer(layer=layer).apply(document).project.layers[1]
    assert copy.keys[0].channel == f"{copy.finishes[0].id}.width" != channel
    assert ChangeLayer(layer=layer, finishes=[]).apply(document).layer(layer).keys == []
    # What is pasted on a layer that does not wear it is left out.
    bare, other = held(document, 8)
    turn = Key(channel="rotation", tie="start", offset=0, value=[20])
    pasted = SetKeys(layer=other, keys=[*document.layer(layer).keys, turn]).apply(bare)
    assert [k.channel for k in pasted.layer(other).keys] == ["rotation"]


def test_one_owner_is_named(outlined):
    _, document, layer, channel = outlined
    both = SetValue(layer=layer, item=document.project.ground[0].id, channel=channel, frame=0, value=[1])
    with pytest.raises(Refusal, match="only one of them"):
        both.apply(document)
