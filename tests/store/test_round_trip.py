"""Any document comes back from the database as it went in."""

import json

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from nervykite.core.change.edits import client_edit
from nervykite.core.piece.model import (
    Behaviour,
    Bezier,
    Blur,
    Document,
    Finish,
    Found,
    Framing,
    GroundItem,
    Hold,
    Key,
    Layer,
    Mark,
    Matte,
    Node,
    Pose,
    Project,
    PutOn,
    Raster,
    Shape,
    Spring,
    Stay,
    Steps,
    Stop,
    Tied,
    Travel,
    Way,
)  # fmt: skip
from nervykite.core.piece.model.shot import Moment
from nervykite.store.codec import apply_changes
from nervykite.store.rows import TABLES, difference, read_document
from nervykite.studio.importing import import_shot

from ..media import make_video

names = st.text(
    st.characters(min_codepoint=33, max_codepoint=0x2FFF, exclude_categories=["C", "Z"]), min_size=1, max_size=30
)
numbers = st.floats(-5000, 5000, allow_nan=False)
pairs = st.tuples(numbers, numbers)
shares = st.floats(0, 1)
nodes = st.builds(Node, x=numbers, y=numbers, arrive=pairs, leave=pairs, smooth=st.booleans())
common = {
    "name": names, "combine": st.sampled_from(["add", "cut away", "overlap"]), "invert": st.booleans(),
    "opacity": shares, "visible": st.booleans(), "grow": st.floats(-60, 60), "soften_in": st.floats(0, 120),
    "soften_out": st.floats(0, 120),
}  # fmt: skip
corners = st.integers(0, 900)
rasters = st.builds(
    Raster, file=st.sampled_from(["0" * 64, "c" * 64]), box=st.tuples(corners, corners, corners, corners)
)
marks = st.lists(st.builds(Mark, points=st.lists(pairs, min_size=1, max_size=3), width=st.floats(1, 90)), max_size=2)
shapes = st.builds(
    Shape, kind=st.sampled_from(["pen", "oval", "box", "lasso", "cling"]),
    nodes=st.lists(nodes, min_size=2, max_size=5), **common,
)  # fmt: skip
finds = st.builds(
    Found, kind=st.sampled_from(["marks", "mover", "person", "difference", "picture", "carried"]), raster=rasters,
    base=st.none() | rasters, doubt=st.none() | rasters, keep=marks, drop=marks, **common,
)  # fmt: skip
pieces = shapes | finds
mattes = st.builds(
    Matte,
    pieces=st.lists(pieces, max_size=3),
    invert=st.booleans(),
    grow=st.floats(-60, 60),
    soften_in=st.floats(0, 120),
    soften_out=st.floats(0, 120),
    smooth=st.floats(0, 40),
    fine_edge=st.floats(0, 40),
    fringe=shares,
)
stops = st.lists(
    st.builds(Stop, frame=st.integers(0, 23), pieces=st.lists(pieces, max_size=2), carried=st.booleans(),
              locked=st.booleans(), doubt=shares),
    max_size=3, unique_by=lambda s: s.frame,
).map(lambda found: sorted(found, key=lambda s: s.frame))  # fmt: skip
travels = st.builds(Travel, first=st.just(0), past=st.just(24), stops=stops)
easings = st.one_of(
    st.builds(Bezier, x1=shares, y1=st.floats(-5, 5), x2=shares, y2=st.floats(-5, 5)),
    st.just(Stay()),
    st.builds(Steps, count=st.integers(2, 9), jump=st.sampled_from(["start", "end", "none", "both"])),
    st.builds(Spring, stiffness=st.floats(1, 900), damping=st.floats(0, 90), mass=st.floats(0.1, 9)),
)
ties = st.sampled_from(["start", "landing", "end"])
bends = st.tuples(numbers, numbers, numbers, numbers)
keys = st.one_of(
    st.builds(Key, channel=st.just("position"), tie=ties, offset=st.integers(-90, 90),
              value=st.lists(numbers, min_size=2, max_size=2), easing=easings,
              made=st.sampled_from([None, "in", "out"]), bend=st.none() | bends),
    st.builds(Key, channel=st.just("scale"), tie=st.sampled_from(["moment", "cut"]), to=st.just("d" * 16),
              offset=st.integers(-90, 90), value=st.just([1.0]), easing=easings),
    st.builds(Key, channel=st.just("opacity"), tie=ties, offset=st.integers(-90, 90),
              value=st.lists(shares, min_size=1, max_size=1), easing=easings),
)  # fmt: skip
outlines = st.builds(
    Finish, kind=st.just("outline"), settings=st.fixed_dictionaries({"width": st.floats(0, 80)}), visible=st.booleans()
)
poses = st.builds(
    Pose, position=pairs, scale=st.floats(0, 50), width=st.floats(-9, 9), height=st.floats(-9, 9), rotation=numbers,
    shear=st.floats(-80, 80), opacity=shares,
)  # fmt: skip
behaviours = st.lists(
    st.builds(Behaviour, kind=st.sampled_from(["jolt", "drift"]), strength=st.floats(0, 9), seed=st.integers(0, 99),
              settings=st.fixed_dictionaries({"amplitude": st.floats(0, 90)}), fade_in=st.integers(0, 9),
              fade_out=st.integers(0, 9), before=st.integers(-9, 9), after=st.integers(-9, 9), visible=st.booleans()),
    max_size=2,
)  # fmt: skip
motion_blurs = st.builds(Blur, shutter=st.floats(0, 720), phase=st.floats(-360, 360))
put = st.none() | st.builds(PutOn, kind=st.sampled_from(["drop", "fade"]), settings=st.just({"lasts": 7}))
ways = st.builds(Way, whole=st.booleans(), turns=st.booleans())


@pytest.fixture
def shot(studio, tmp_path):
    """A shot that is in the database."""
    project = studio.projects.new("Source").document.project.id
    return import_shot(studio, project, studio.keep_file(make_video(tmp_path / "clip.mp4")), "clip.mp4")[0]


sources = [{"kind": "shot"}, {"kind": "plate", "plate": "e" * 64}]
blurs = st.builds(Finish, kind=st.just("soft-blur"), settings=st.fixed_dictionaries({"radius": st.floats(0, 200)}))


def tied(ground):
    """A free end of a layer: none, or tied to anything that it can be tied to."""
    offsets = st.integers(-500, 500)
    plain = st.builds(Tied, to=st.sampled_from(["landing", "piece start", "piece end"]), offset=offsets)
    ids = st.sampled_from([g.id for g in ground])
    items = st.builds(Tied, to=st.sampled_from(["item start", "item end"]), item=ids, offset=offsets)
    return st.none() | plain | items


@st.composite
def documents(draw, shot):
    """A document over a shot: ground, holds shared or not, layers with everything on them."""
    ground = [
        GroundItem(
            source=draw(st.sampled_from(sources)) | {"shot": shot.id, "first": a, "past": a + n},
            framing=Framing(mode=draw(st.sampled_from(["fill", "fit"]))),
            finishes=draw(st.lists(blurs, max_size=2)),
            keys=draw(st.lists(keys, max_size=2)),
            behaviours=draw(behaviours),
        )
        for a, n in draw(st.lists(st.tuples(st.integers(0, 10), st.integers(1, 12)), min_size=1, max_size=3))
    ]
    holds = [
        Hold(
            shot=shot.id, frame=draw(st.integers(0, 23)), name=draw(names), matte=draw(mattes),
            plate=draw(st.sampled_from([None, "b" * 64])), travel=draw(st.none() | travels),
        )
        for _ in range(draw(st.integers(1, 3)))
    ]  # fmt: skip
    layers = [
        Layer(
            name=draw(names), over=draw(st.sampled_from(ground)).id,
            source={"kind": draw(st.sampled_from(["hold", "moving"])), "hold": draw(st.sampled_from(holds)).id,
                    "fill": draw(st.booleans())},
            arrangement=draw(st.sampled_from(["trail", "ahead", "along"])),
            starts=draw(tied(ground)), ends=draw(tied(ground)),
            anchor=draw(st.none() | pairs), visible=draw(st.booleans()), locked=draw(st.booleans()),
            pose=draw(poses), keys=draw(st.lists(keys, max_size=3)), finishes=draw(st.lists(outlines, max_size=2)),
            behaviours=draw(behaviours), blur=draw(st.none() | motion_blurs), way=draw(ways), apart=draw(st.booleans()),
            entrance=draw(put), exit=draw(put),
        )
        for _ in range(draw(st.integers(0, 4)))
    ]  # fmt: skip
    moments = [Moment(frame=f, name=draw(names)) for f in sorted(draw(st.sets(st.integers(0, 23), max_size=3)))]
    project = Project(
        name=draw(names), width=2 * draw(st.integers(8, 900)), height=2 * draw(st.integers(8, 900)),
        rate=draw(st.sampled_from(["24", "30000/1001", "60"])), ground=ground, layers=layers,
        loop=draw(st.none() | st.just((1, 9))), behaviours=draw(behaviours), blur=draw(motion_blurs),
    )  # fmt: skip
    return Document(
        project=project,
        shots={shot.id: shot.model_copy(update={"moments": moments})},
        holds={h.id: h for h in holds},
    )


@given(st.data())
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_what_is_kept_is_what_was_there(studio, shot, data):
    document = data.draw(documents(shot))
    assert studio.projects.create(document).document == document
    assert Document.model_validate(json.loads(document.model_dump_json())) == document
    with studio.database.reading() as connection:
        assert read_document(connection, document.project.id) == document
    copy = studio.duplicate(document.project.id).document
    assert len(difference(None, copy)) == len(difference(None, document))


@given(st.data())
@settings(max_examples=15, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_differences_lead_there_and_back(studio, shot, data):
    """Between any two documents of one project, the changes written forwards and backwards are each other's inverse."""
    first, second = data.draw(documents(shot)), data.draw(documents(shot))
    same = second.project.model_copy(update={"id": first.project.id})
    second = second.model_copy(update={"project": same})
    studio.projects.create(first)
    changes = difference(first, second)
    with studio.database.writing() as connection:
        apply_changes(connection, TABLES, changes)
    with studio.database.reading() as connection:
        assert read_document(connection, first.project.id) == second
    with studio.database.writing() as connection:
        apply_changes(connection, TABLES, changes, backwards=True)
    with studio.database.reading() as connection:
        assert read_document(connection, first.project.id) == first


def test_edits_are_read_from_json_as_they_were_written():
    for body in (
        {"kind": "set loop", "loop": None},
        {"kind": "put at rest", "layer": "0" * 16},
        {"kind": "change layer", "layer": "0" * 16, "clear": ["until"], "anchor": [1.5, 2]},
        {"kind": "change matte", "hold": "0" * 16, "matte": {"pieces": [], "grow": 2}},
    ):
        edit = client_edit.validate_python(body)
        assert client_edit.validate_json(edit.model_dump_json()) == edit
