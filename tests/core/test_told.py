"""JSON from outside: as large as it may be it is read, larger it is refused before it is."""

import io

import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.common.told import Most, bounded, told

MOST = Most(size=1000, parts=10)


def test_as_much_as_may_be_is_read():
    text = b'{"a": [1, 2, 3, 4, 5, 6, 7, 8, 9]}'
    assert bounded(io.BytesIO(text).read, MOST, "a.json") == text
    assert told(text, "a.json") == {"a": [1, 2, 3, 4, 5, 6, 7, 8, 9]}
    assert bounded(io.BytesIO(b"x" * 1000).read, MOST, "a.json") == b"x" * 1000


@pytest.mark.parametrize("text", [b"x" * 1001, b"{" * 11, b"[" * 11, b"," * 11, b"[{," * 4])
def test_more_is_refused(text):
    with pytest.raises(Refusal, match=r"^a\.json says more than it can mean"):
        bounded(io.BytesIO(text).read, MOST, "a.json")


def test_no_more_is_read_than_is_wanted():
    asked = []

    def endless(count: int) -> bytes:
        asked.append(count)
        return b"{}," * 300

    with pytest.raises(Refusal):
        bounded(endless, MOST, "a.json")
    assert len(asked) == 1


@pytest.mark.parametrize(
    ("text", "says"),
    [
        (b"{", "damaged, or only half"),
        (b"[" * 100_000, "damaged, or only half"),
        (b"\xff\xfe{", "damaged, or only half"),
        (b"9" * 5000, "damaged, or only half"),
        (b"[1]", "a list or a single value"),
        (b"3", "a list or a single value"),
    ],
)
def test_what_is_no_object_gets_a_sentence(text, says):
    with pytest.raises(Refusal, match=says):
        told(text, "a.json")


def test_a_mark_of_the_byte_order_is_passed_over():
    assert told(b'\xef\xbb\xbf{"a": 1}', "a.json") == {"a": 1}
