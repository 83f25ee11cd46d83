"""Networks: what they are asked again they answer from memory."""

import numpy as np
import pytest

from nervykite.core.see.matte import tracer
from nervykite.core.see.matte.networks import Network

pytestmark = pytest.mark.network


@pytest.fixture
def questions():
    rng = np.random.default_rng(5)
    return [rng.normal(size=(tracer.SIDE, tracer.SIDE, 4)).astype(np.float32) for _ in range(3)]


@pytest.fixture
def asked(monkeypatch):
    """How many questions networks were asked in earnest."""
    ask, count = Network._asked, []
    monkeypatch.setattr(Network, "_asked", lambda self, given: count.append(1) or ask(self, given))
    return count


class TestMemory:
    def test_the_last_answers_are_remembered(self, questions, asked):
        plain, remembering = (Network(tracer.MODEL.read_bytes(), n) for n in (0, 2))
        first, second, third = questions
        for question in (first, second, first, second):
            assert np.array_equal(remembering(question.copy())[0], plain(question)[0])
        assert len(asked) == 4 + 2
        remembering(third)
        remembering(first)  # which was used longest ago
        assert len(asked) == 4 + 4
        remembering.forget()
        remembering(first)
        assert len(asked) == 4 + 5

    def test_another_value_is_another_question(self, questions, asked):
        network = Network(tracer.MODEL.read_bytes(), 4)
        before = network(questions[0])[0].copy()
        questions[0][30:34, 30:34] += 3
        assert not np.array_equal(network(questions[0])[0], before)
        assert len(asked) == 2
