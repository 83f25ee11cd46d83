"""Whatever is done to ground and sky, in whatever order: nothing breaks, undo restores it, the database has it."""

import json
import random
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nervykite.core.change.edits import (
    AddAsset,
    AddColour,
    AddGround,
    AddLayer,
    AddPicture,
    AddShot,
    AddStandstill,
    AlignLayers,
    ArrangeLayers,
    BringBack,
    ChangeGround,
    ChangeKeys,
    ChangeLayer,
    ChangePiece,
    ChosenKeys,
    Dissolve,
    DressLike,
    DuplicateGround,
    DuplicateLayer,
    FrameByHand,
    HoldFrame,
    IntoKeys,
    KeepSet,
    KeysApart,
    MakeGroup,
    MirrorExit,
    MoveGround,
    MoveKeys,
    MoveLayer,
    PasteLayers,
    PutMove,
    PutSet,
    RemoveAsset,
    RemoveGround,
    RemoveLayer,
    ReverseKeys,
    SetPalette,
    SetValue,
    Several,
    SlipGround,
    SlowPush,
    SplitGround,
    SpreadKeys,
    StaggerKeys,
    clip_of,
)
from nervykite.core.common.errors import Refusal
from nervykite.core.draw.picture.affected import FrameKeys
from nervykite.core.draw.picture.evaluate import Evaluation
from nervykite.core.kinds.sources.image import ImageSource
from nervykite.core.kinds.sources.lettering import LetteringSource
from nervykite.core.kinds.sources.plain_colour import ColourSource
from nervykite.core.kinds.sources.sky_take import TakeSource
from nervykite.core.kinds.sources.wash import WashSource
from nervykite.core.piece.model import (
    Asset,
    Behaviour,
    Blur,
    Document,
    Finish,
    Framing,
    MoveKind,
    Project,
    Shot,
    Spring,
)
from nervykite.core.piece.model.base import new_id
from nervykite.core.piece.timeline.timeline import Timeline
from nervykite.server.views import ViewState
from nervykite.store.database import Database
from nervykite.store.projects import Projects
from nervykite.store.rows import read_document, write_shot

from ..views import whole

RATES = [Fraction(24), Fraction(25), Fraction(30000, 1001), Fraction(30), Fraction(60)]


OWN = ("base", "stale", "told")
"""What an answer says of itself, and not of the project."""


def shot_of(rate: Fraction, frames: int, jitter: int) -> Shot:
    rng = random.Random(jitter)
    gaps = [round(1000 / rate) + (rng.randint(-6, 6) if jitter else 0) for _ in range(frames)]
    ticks = [0, *np.cumsum(gaps).tolist()]
    return Shot(
        name="Take", file="a" * 64, proxy_file="b" * 64, width=200, height=300, rate=rate, variable=bool(jitter),
        tick="1/1000", ticks=ticks,
    )  # fmt: skip


def some_edit(document: Document, pick: random.Random):
    """An edit that somebody might make now; it may well be one that is refused."""
    length = Timeline(document).length
    ground = [g.id for g in document.project.ground] or [new_id()]
    layers = [x.id for x in document.project.layers] or [new_id()]
    groups = [x.id for x in document.project.layers if x.source.gathers] or layers
    shots, assets = list(document.shots), list(document.assets) or [new_id()]
    item, layer, frame = pick.choice(ground), pick.choice(layers), pick.randrange(length + 2)
    several = pick.sample(layers, min(len(layers), pick.randint(1, 4)))
    shot = document.shots[pick.choice(shots)]
    first = pick.randrange(shot.frames)
    arrangement = pick.choice(["trail", "ahead", "arrival", "departure", "standstill", "free"])

    def source():
        kind = pick.choice(["colour", "take", "image", "wash", "lettering"])
        if kind == "lettering":
            words, shape = pick.choice(["Mara", "two\nlines", " "]), pick.choice(["straight", "arc", "wave"])
            return LetteringSource(words=words, shape=shape, high=40, depth=pick.choice([0, 9]))
        if kind == "wash":
            where = pick.choice(["all", "oval", "cover"])
            return WashSource(where=where, of=layer, outside=pick.random() < 0.5)
        if kind == "image" and document.assets:
            return ImageSource.of(document, pick.choice(list(document.assets)))
        if kind == "take":
            freezes = pick.choice([None, first])
            past = pick.randint(first + 1, shot.frames)
            return TakeSource(shot=shot.id, first=first, past=past, speed=pick.choice([50, 100, 300]), freezes=freezes)
        return ColourSource(colour="#102030")

    def finishes(*kinds: str) -> list[Finish]:
        return [Finish(kind=k) for k in pick.sample(kinds, pick.randint(1, len(kinds)))]

    def behaviours():
        kinds = ["jolt", "drift", "sway", "breathe"]
        return [Behaviour(kind=k, seed=pick.randrange(9), fade_in=pick.randrange(9)) for k in pick.sample(kinds, 2)]

    def worn(id_: str) -> list[str]:
        found = document.layer(id_)
        return [b.id for b in found.behaviours] if found and found.behaviours else [new_id()]

    made = {
        "split": lambda: SplitGround(at=frame),
        "stand": lambda: AddStandstill(at=frame, frames=pick.randint(1, 20), hold=pick.random() < 0.5),
        "move ground": lambda: MoveGround(item=item, to=pick.randrange(6)),
        "remove ground": lambda: RemoveGround(items=[item]),
        "duplicate ground": lambda: DuplicateGround(item=item),
        "slip": lambda: SlipGround(item=item, by=pick.randint(-9, 9)),
        "add ground": lambda: AddGround(shot=shot.id, at=pick.choice([None, 0, 1])),
        "add colour": lambda: AddColour(source=ColourSource(lasting=pick.randint(1, 30)), at=pick.choice([None, 0, 1])),
        "add picture": lambda: AddPicture(asset=pick.choice(assets), frames=7),
        "trim": lambda: ChangeGround(item=item, first=first, past=first + pick.randint(1, 30)),
        "speed": lambda: ChangeGround(
            item=item, source=_faster(document, item, pick.choice([25, 50, 100, 200, 800])), fade=pick.randint(0, 9)
        ),
        "frame": lambda: FrameByHand(item=item, across=pick.uniform(-90, 90), scale=pick.uniform(0.5, 2), turn=9.0),
        "hold": lambda: HoldFrame(item=item, frame=first, arrangement=arrangement),
        "add layer": lambda: AddLayer(source=source(), at=frame, above=pick.choice([None, layer])),
        "dress": lambda: ChangeLayer(layer=layer, finishes=finishes("echo", "tone", "flash", "grain", "scatter")),
        "dress ground": lambda: ChangeGround(item=item, finishes=finishes("tone", "flash", "grain")),
        "dress like": lambda: DressLike(layer=layer, to=several),
        "keep set": lambda: KeepSet(layer=layer, called="Set"),
        "put set": lambda: PutSet(layer=layer, set=pick.choice([s.id for s in document.project.sets] or [new_id()])),
        "palette": lambda: SetPalette(colours=["#102030", "#d0e0f0"]),
        "until": lambda: ChangeLayer(layer=layer, until=frame),
        "since": lambda: ChangeLayer(layer=layer, since=frame),
        "slide": lambda: ChangeLayer(layer=layer, slide=pick.randint(-30, 30)),
        "arrange": lambda: ChangeLayer(layer=layer, arrangement=arrangement),
        "arrange several": lambda: ArrangeLayers(
            layers=several,
            arrangement=arrangement,
            lasts=pick.choice([None, 5, 40]),
            together=pick.random() < 0.5,
            steps=True,
        ),
        "look": lambda: ChangeLayer(
            layer=layer,
            visible=pick.random() < 0.8,
            solo=pick.random() < 0.1,
            tag=pick.choice([None, "far"]),
            blend=pick.choice([None, "screen"]),
            framing=pick.choice([None, Framing(mode="fit", mirrored=True)]),
        ),
        "lock": lambda: ChangeLayer(layer=layer, locked=pick.random() < 0.3),
        "value": lambda: SetValue(
            layer=layer, channel="position", frame=min(frame, 900), value=[3.0, 4.0], key=pick.random() < 0.7
        ),
        "opacity": lambda: SetValue(layer=layer, channel="opacity", frame=0, value=[pick.random()]),
        "come or go": lambda: PutMove(
            layers=several,
            side=pick.choice(["in", "out"]),
            stagger=pick.randint(0, 5),
            move=pick.choice([None, *({"kind": k} for k in sorted(MoveKind.family.all()))]),
        ),
        "mirror": lambda: MirrorExit(layers=several),
        "behave": lambda: ChangeLayer(layer=layer, behaviours=behaviours(), blur=pick.choice([None, Blur()])),
        "shake": lambda: ChangeGround(item=item, behaviours=behaviours()),
        "shake all": lambda: ChangePiece(behaviours=behaviours(), blur=Blur(shutter=pick.choice([0, 180]))),
        "into keys": lambda: IntoKeys(layer=layer, behaviour=pick.choice(worn(layer))),
        "move keys": lambda: MoveKeys(
            of=[ChosenKeys(layer=x) for x in several], frames=pick.randint(-9, 9), stretch=pick.uniform(0.3, 3)
        ),
        "tie": lambda: ChangeKeys(
            of=[ChosenKeys(layer=layer)], tie=pick.choice(["start", "landing", "end"]), easing=Spring()
        ),
        "tie to a cut": lambda: ChangeKeys(of=[ChosenKeys(layer=layer)], tie="cut", to=item),
        "bend": lambda: ChangeKeys(of=[ChosenKeys(layer=layer)], bend=(-9.0, 0.0, 9.0, 30.0)),
        "reverse": lambda: ReverseKeys(of=[ChosenKeys(layer=x) for x in several]),
        "spread": lambda: SpreadKeys(of=[ChosenKeys(layer=layer)]),
        "stagger": lambda: StaggerKeys(layers=several, frames=3, by=pick.choice(["order", "distance"])),
        "apart": lambda: KeysApart(layer=layer, apart=pick.random() < 0.6),
        "push": lambda: SlowPush(
            of=[{"item": item}, {"layer": layer, "opposite": True}], start={"size": 1.0}, end={"size": 0.8, "down": 0.1}
        ),
        "align": lambda: AlignLayers(layers=several, edge=pick.choice(["left", "middle"]), frame=min(frame, 900)),
        "group": lambda: MakeGroup(layers=several),
        "dissolve": lambda: Dissolve(group=pick.choice(groups)),
        "move": lambda: MoveLayer(layers=several, to=pick.randrange(9), group=pick.choice([None, *groups])),
        "remove": lambda: RemoveLayer(layer=layer),
        "duplicate": lambda: DuplicateLayer(layer=layer, separate=pick.random() < 0.3),
        "paste": lambda: PasteLayers(clip=clip_of(document, several), at=frame),
        "back": lambda: BringBack(layer=layer),
        "asset": lambda: AddAsset(
            asset=Asset(kind="picture", name="Badge", file=f"{pick.randrange(16):x}" * 64, width=60, height=40)
        ),
        "remove asset": lambda: RemoveAsset(asset=pick.choice(assets)),
        "several": lambda: Several(
            edits=[ChangeLayer(layer=x, visible=False) for x in several] + [SplitGround(at=frame)]
        ),
    }
    return made[pick.choice(list(made))]()


def _faster(document: Document, item: str, speed: int):
    found = document.item(item)
    if found is None or not hasattr(found.source, "speed"):
        raise Refusal("no take")
    return found.source.model_copy(update={"speed": speed})


def check(document: Document) -> None:
    """What has to hold of any document."""
    timeline = Timeline(document)
    at = 0
    for item in document.project.ground:  # no gaps, and every frame has one of the item's own
        assert timeline.starts[item.id] == at
        lasts = item.source.lasts(document)
        assert lasts >= 1
        assert len(timeline.tables[item.id]) == lasts
        at += lasts
    assert timeline.length == at
    ids = {x.id for x in document.project.layers}
    for layer in document.project.layers:
        assert layer.group is None or layer.group in ids
        assert layer.over is None or document.item(layer.over) is not None
        assert all(hold in document.holds for hold in layer.source.needs)
        span = timeline.span(layer)
        if span is None:
            continue
        assert span.start <= span.end
        assert 0 <= span.start <= timeline.length
        assert span.end <= timeline.length
        moment = layer.source.moment(document)
        if moment is None or layer.arrangement.kind == "free" or layer.over is None:
            continue
        # A hold lands where its very frame is shown, or what is shown in its place: never before, never after.
        shown = timeline.item_at(min(span.landing, timeline.length - 1))
        if layer.arrangement.kind in ("trail", "ahead", "standstill"):
            assert shown.item.id == layer.over
            table = timeline.tables[layer.over]
            assert shown.frame == max(f for f in table if f <= moment[1])
        if layer.arrangement.kind == "trail":
            assert span.start == span.landing
        if layer.arrangement.kind == "ahead":
            assert span.end == span.landing
    evaluation = Evaluation(document, timeline)
    for frame in {0, timeline.length // 2, timeline.length - 1} if timeline.length else ():
        draws = evaluation.at(frame)
        assert draws.key == Evaluation(document).at(frame).key


@pytest.fixture(scope="module")
def projects(tmp_path_factory):
    database = Database(tmp_path_factory.mktemp("any") / "any.sqlite")
    with database.writing() as connection:
        for name in ("a" * 64, "b" * 64):
            connection.execute("INSERT INTO files (hash, size) VALUES (?, 1)", (name,))
    return Projects(database)


@pytest.mark.parametrize("share", range(3))
@given(seed=st.integers(0, 2**32), rate=st.sampled_from(RATES), jitter=st.integers(0, 3))
@settings(max_examples=5, deadline=None)
def test_any_edits_in_any_order(projects, share, seed, rate, jitter):
    pick = random.Random(f"{share} {seed}")
    state = projects.create(Document(project=Project(name="Any")))
    id_ = state.document.project.id
    for n in range(2):
        shot = shot_of(rate, 40 + 10 * n, jitter)
        state = projects.edit(id_, AddShot(shot=shot), None, lambda c, shot=shot: write_shot(c, shot))
    made, undone, sentences = [state.document], [], []
    before_it, page = None, None
    for _ in range(30):
        what = pick.random()
        if what < 0.12 and len(made) > 1:
            undone.append(made.pop())
            state = projects.undo(id_)
        elif what < 0.2 and undone:
            made.append(undone.pop())
            state = projects.redo(id_)
        else:
            before, revision = state.document, state.revision
            try:
                edit = some_edit(before, pick)
                assert edit.title(before)
                state = projects.edit(id_, edit, None)
            except Refusal as refusal:
                sentences.append(str(refusal))
                continue
            if state.revision == revision:  # nothing was different afterwards
                continue
            undone.clear()
            made.append(state.document)
            # Frames that are said to be as they were are as they were.
            keys = FrameKeys(Evaluation(before))
            keys.of(0, 40)
            after = FrameKeys(Evaluation(state.document), keys)
            fresh = Evaluation(state.document)
            assert after.of(0, 40) == [fresh.at(f).key for f in range(min(40, fresh.length))]
        assert state.document == made[-1]
        check(state.document)
        # A page that is told only what has changed has the same as one that is told all.
        seen = ViewState(state, FrameKeys(Evaluation(state.document)), before_it)
        told = whole(json.loads(seen.view(before_it).model_dump_json()), page)
        fresh = whole(json.loads(ViewState(state, seen.keys).view().model_dump_json()))
        assert {k: v for k, v in told.items() if k not in OWN} == {k: v for k, v in fresh.items() if k not in OWN}
        before_it, page = seen, told
        with projects._database.reading() as connection:
            assert read_document(connection, id_) == state.document
    assert len(sentences) < 30
    assert not [x for x in sentences if "That cannot be done" in x]  # what nobody has thought of
