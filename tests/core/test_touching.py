"""What comes down: the moment at which it is where it rests, is heard, and shakes what it comes down on, is one."""

import numpy as np
import pytest

from nervykite.core.change.edits import ChangeLayer, PutMove, SoundMove, SplitGround
from nervykite.core.craft.synthesis.sample_rate import RATE
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.draw.sound.mix import mix
from nervykite.core.draw.sound.plan import plan_of
from nervykite.core.piece.model import Document, MoveKind, PutOn
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.core.see.footage.framing_matrix import fit_matrix

from ..conftest import held
from .test_flying import MATTE, frames
from .test_recipes import ground, put

SETTINGS = {
    "drop": [{}, {"overshoot": 0}, {"overshoot": 0.6, "lasts": 18}],
    "rebound": [{}, {"bounces": 1, "bounciness": 0.2}],
    "rise": [{"lands": "hard"}, {"lands": "hard", "lasts": 20, "overshoot": 0.3}],
}
DOWN = [(kind, settings) for kind, several in SETTINGS.items() for settings in several]


def no_sound(file: str) -> np.ndarray:
    raise AssertionError(f"{file} is not heard here")


def loudest(document: Document) -> int:
    """The first frame that is as loud as any, to within one and a half decibels, which nobody tells apart."""
    heard = mix(plan_of(Timeline(document)), no_sound)
    rate = RATE // 30
    power = np.array([np.square(heard[:, n : n + rate]).sum() for n in range(0, heard.shape[1], rate)])
    return int(np.argmax(power > 0.7 * power.max()))


def shaken(document: Document) -> int:
    """The frame at which the picture is shaken most."""
    evaluation, far = Evaluation(document), []
    project = document.project
    for frame in range(evaluation.length):
        item = evaluation.timeline.item_at(frame).item
        size = item.source.size(document)
        lies = (evaluation.lying(item).framing(frame), item.framing)
        here, rest = (fit_matrix(size, (project.width, project.height), framing) for framing in lies)
        far.append(np.abs((here - rest)[:2, 2]).max())
    assert max(far) > 0.5
    return int(np.argmax(far))


def distances(document: Document, layer: str) -> np.ndarray:
    """How far a layer is from where it rests as its move ends, at each of its frames, in pixels."""
    evaluation, found = Evaluation(document), document.layer(layer)
    span = evaluation.timeline.spans[layer]
    end = frames(document, layer, "in")["position"][-1]
    rest = np.array(evaluation.keyed(found).position(end))
    ways = [evaluation.keyed(found).position(f) - rest for f in range(span.start, max(span.end, end + 1))]
    return np.hypot(*np.transpose(ways))


def test_these_are_all_that_come_down():
    assert {k for k, move in MoveKind.family.all().items() if move().touches()} | {"rise"} == set(SETTINGS)


@pytest.mark.parametrize(("kind", "settings"), DOWN)
def test_a_thud_is_heard_as_it_first_touches_down(reel, kind, settings):
    document, layer = held(reel(frames=60).document(), 20, MATTE)
    put_on = PutMove(layers=[layer], side="in", move=PutOn(kind=kind, settings=settings))
    document = SoundMove(layer=layer).apply(put_on.apply(document))
    far = distances(document, layer)
    # Where what falls is first where it rests: it passed no such place before, but for what rose past it.
    low = np.flatnonzero(far < 0.02 * far.max())
    touch = low[-1] if kind == "rise" and len(low) < 3 else next(f for f in low if f > 2 and far[f - 2] > far[f])
    first = Timeline(document).spans[layer].start
    move = put_on.move.move
    assert abs(first + round(move.touches()[0].at * move.lasts) - loudest(document)) <= 1
    if kind != "rise":
        assert abs(first + touch - loudest(document)) <= 1


@pytest.mark.parametrize(("kind", "settings"), DOWN)
def test_what_arrives_touches_down_on_the_cut(reel, kind, settings):
    document, layer = held(reel(frames=60).document(), 30, MATTE)
    document = ChangeLayer(layer=layer, arrangement="arrival").apply(SplitGround(at=30).apply(document))
    put_on = PutMove(layers=[layer], side="in", move=PutOn(kind=kind, settings=settings))
    document = put_on.apply(document)
    touches, span = put_on.move.move.touches(), Timeline(document).spans[layer]
    if len(touches) == 1:
        # It is still on its way in its last frame, and there in the first of the take that goes on.
        far = distances(document, layer)
        assert far[30 - span.start] < 1e-6 < far[29 - span.start]
        assert loudest(SoundMove(layer=layer).apply(document)) in (29, 30)
    else:
        assert frames(document, layer, "in")["position"][-1] == 30


@pytest.mark.parametrize("lasts", [2, 3, 7, 12, 90])
def test_however_long_it_may_take_it_arrives_in_time(reel, lasts):
    document, layer = held(reel(frames=60).document(), 30, MATTE)
    document = ChangeLayer(layer=layer, arrangement="arrival").apply(SplitGround(at=30).apply(document))
    document = PutMove(layers=[layer], side="in", move={"kind": "drop", "settings": {"lasts": lasts}}).apply(document)
    span, keys = Timeline(document).spans[layer], frames(document, layer, "in")["position"]
    assert 30 in keys
    assert span.start <= keys[0] < 30


@pytest.mark.parametrize("kind", ["drop-on-the-cut", "rise-on-the-cut"])
@pytest.mark.parametrize("length", [90, 20])
def test_recipes_that_come_down_on_a_cut_do_all_of_it_on_the_cut(kind, length):
    document = put(ground(length), kind, length)
    (layer,) = document.project.made[0].layers
    span = Timeline(document).spans[layer]
    far = distances(document, layer)
    assert span.end == length
    assert far[span.end - span.start] < 1e-6
    assert far[0] > 0.9 * far.max() > 50
    assert far[-2 if span.end - span.start < len(far) - 1 else -1] < far.max()
    assert abs(loudest(document) - length) <= 1
    assert abs(shaken(document) - length) <= 1


@pytest.mark.parametrize("kind", ["fling-past", "spin-under"])
def test_what_follows_a_figure_that_leaves_jolts_as_it_is_heard(kind):
    document = put(ground(90), kind, 90)
    assert abs(loudest(document) - shaken(document)) <= 1
