"""A network cut off behind some of its layers."""

import numpy as np
import pytest

from nervykite.core.common.errors import Refusal
from nervykite.core.see.find.judge import MODEL
from nervykite.core.see.matte.networks import THINGS, Network, network
from nervykite.core.see.matte.trimmed import trimmed


def steps_of(model: bytes) -> int:
    from ai_edge_litert import schema_py_generated as schema

    return len(schema.ModelT.InitFromPackedBuf(model, 0).subgraphs[0].operators)


def answer_of(model: bytes) -> int:
    """The number of the tensor that holds its answer."""
    from ai_edge_litert.interpreter import Interpreter

    return Interpreter(model_content=model).get_output_details()[0]["index"]


class TestTrimmed:
    def test_cut_off_behind_its_answer_it_answers_the_same(self):
        model = MODEL.read_bytes()
        whole, cut = Network(model), Network(trimmed(model, (answer_of(model),)))
        rng = np.random.default_rng(1)
        shown = [rng.normal(0, 1, shape).astype(np.float32) for shape in whole.shapes]
        assert np.allclose(whole(*shown)[0], cut(*shown)[0], atol=1e-4)

    def test_what_comes_after_a_layer_is_left_out(self):
        model = MODEL.read_bytes()
        from ai_edge_litert import schema_py_generated as schema

        operators = schema.ModelT.InitFromPackedBuf(model, 0).subgraphs[0].operators
        middle = int(operators[len(operators) // 2].outputs[0])
        assert steps_of(trimmed(model, (middle,))) < steps_of(model)

    def test_layers_are_answered_in_the_order_in_which_they_are_asked_for(self):
        try:
            first, second = network(THINGS, (150, 190)), network(THINGS, (190, 150))
        except Refusal:
            pytest.skip("the network is not installed")
        picture = np.random.default_rng(2).uniform(-1, 1, first.shapes[0]).astype(np.float32)
        one, other = first(picture), second(picture)
        assert one[0].shape == other[1].shape != one[1].shape
        assert np.array_equal(one[0], other[1])
        assert np.array_equal(one[1], other[0])
