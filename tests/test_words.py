"""The checks of the program's own words find what they are there for."""

import ast
from pathlib import Path

import pytest

from tools.check.lengths import MOST, too_long
from tools.check.names import doubles
from tools.check.notes import halves
from tools.check.unused import unused


def parsed(**modules: str) -> dict[Path, ast.Module]:
    return {Path(f"{name.replace('__', '/')}.py"): ast.parse(text) for name, text in modules.items()}


class TestNames:
    def test_a_class_of_the_same_name_elsewhere_is_told_with_both_places(self):
        (said,) = doubles(parsed(see__scene="class Scene: ...", draw__stage="x = 1\nclass Scene: ..."))
        assert said == "Scene is the name of more than one class: see/scene.py:1, draw/stage.py:2"

    def test_so_is_a_module(self):
        (said,) = doubles(parsed(see__colour="", draw__colour=""))
        assert said.startswith("colour is the name of more than one module")

    def test_what_is_private_or_inside_another_may_be_called_alike(self):
        assert not list(doubles(parsed(a="class _Seen: ...", b="class _Seen: ...\nclass B:\n class A: ...")))
        assert not list(doubles(parsed(see__base="", draw__base="")))


class TestNotes:
    @pytest.mark.parametrize("begins", ["What", "How", "Whether", "Who"])
    def test_a_docstring_that_asks_is_told(self, begins):
        (said,) = halves(parsed(a=f'def far():\n    """{begins} it goes."""'))
        assert said == f"a.py:2: the docstring of far begins with “{begins}”"

    def test_half_a_sentence_about_a_field_is_told(self):
        fields = 'class S:\n    a: int = 1\n    """Pixels beside it,"""\n    b: int = 2\n    """and below it."""'
        assert [said.split(":")[1] for said in halves(parsed(a=fields))] == ["3", "5"]

    def test_a_sentence_is_none(self):
        text = '"""Names."""\nA = 1\n"""10 px, and not more."""\ndef far():\n    """The distance, px."""'
        assert not list(halves(parsed(a=text)))


class TestLengths:
    def test_a_function_of_the_core_that_is_too_long_is_told(self):
        text = "def far():\n" + "    pass\n" * MOST
        (said,) = too_long(parsed(nervykite__core__a=text, nervykite__server__a=text))
        assert said == f"nervykite/core/a.py:1: far has {MOST + 1} lines, more than {MOST}"


class TestUnused:
    def test_what_nothing_calls_is_told_and_what_something_calls_is_not(self, tmp_path):
        (tmp_path / "a.py").write_text("def one():\n    return 1\n\n\ndef two():\n    return one()\n")
        (said,) = unused([tmp_path])
        assert said == f"{tmp_path}/a.py:5: nothing uses the function two"

    def test_a_kind_is_found_by_lying_in_its_place(self, tmp_path):
        folder = tmp_path / "nervykite/core/kinds"
        folder.mkdir(parents=True)
        (folder / "a.py").write_text("class Hop:\n    pass\n")
        assert not list(unused([tmp_path]))
