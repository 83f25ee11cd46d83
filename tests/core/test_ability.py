"""What can be done with a source: it says so itself, so that whoever shows it need not know which there are."""

import pytest

from nervykite.core.kinds.sources.group import GroupSource
from nervykite.core.kinds.sources.lettering import LetteringSource
from nervykite.core.kinds.sources.plain_colour import ColourSource
from nervykite.core.kinds.sources.stroke_shapes import PenShape
from nervykite.core.kinds.sources.wash import WashSource
from nervykite.core.piece.model import Source


@pytest.mark.parametrize(
    ("source", "can"),
    [
        (ColourSource(), {"located"}),
        (GroupSource(), {"gathers", "located"}),
        (WashSource(), {"washes"}),
        (WashSource(where="oval"), {"washes", "located"}),
        (LetteringSource(), {"worded", "located"}),
        (LetteringSource(shape="along"), {"worded", "penned", "located"}),
        (PenShape(), {"penned", "located"}),
    ],
)
def test_each_says_what_can_be_done_with_it(source, can):
    assert set(source.can()) == can


def test_all_that_stand_still_in_time_say_so():
    kinds = Source.family.all()
    assert [name for name, kind in kinds.items() if kind.stands] == ["standstill"]
    assert [name for name, kind in kinds.items() if kind.cut] == ["hold"]
