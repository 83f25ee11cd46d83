"""What the page's own tests take for the server's answers is what the server answers."""

import json

import pytest

from ..recorded import KEPT, record


def alike(one, other, where: str = "") -> None:
    """The same, but for what encoders and arithmetic of another machine make of numbers."""
    if isinstance(one, dict) and isinstance(other, dict):
        assert one.keys() == other.keys(), where
        for name in one:
            alike(one[name], other[name], f"{where}/{name}")
    elif isinstance(one, list) and isinstance(other, list):
        assert len(one) == len(other), where
        for number, (a, b) in enumerate(zip(one, other, strict=True)):
            alike(a, b, f"{where}/{number}")
    elif isinstance(one, float) or (isinstance(one, int) and ("bytes" in where or "/room" in where)):
        assert other == pytest.approx(one, rel=0.02, abs=0.02), where
    else:
        assert one == other, f"{where}: `python -m tests.recorded` records it anew"


def test_answers_are_as_they_were_recorded():
    alike(json.loads(KEPT.read_text()), json.loads(json.dumps(record())))
