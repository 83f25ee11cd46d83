"""What is left out of a run is what was proved and has not changed; what it is about is found by its imports."""

from types import SimpleNamespace

import pytest

from . import proved


@pytest.fixture
def tree(tmp_path, monkeypatch):
    """A small project: a test, what it imports, and what that imports."""
    files = {
        "nervykite/__init__.py": "",
        "nervykite/core/__init__.py": "",
        "nervykite/core/near.py": "from .far import number\nFAMILY = 'nervykite.core.kinds'\n",
        "nervykite/core/far.py": "number = 1\n",
        "nervykite/core/other.py": "number = 2\n",
        "nervykite/core/net.tflite": "weights",
        "nervykite/core/kinds/__init__.py": "",
        "nervykite/core/kinds/one.py": "",
        "tests/__init__.py": "",
        "tests/help.py": "",
        "tests/test_a.py": "import numpy\nfrom nervykite.core import near\nfrom .help import *\n",
        "requirements.lock": "numpy==2\n",
        "web/package-lock.json": "{}",
    }
    for name, text in files.items():
        path = tmp_path / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)
    monkeypatch.setattr(proved, "ROOT", tmp_path)
    monkeypatch.setattr(proved, "KEPT", tmp_path / "tests/proved.json")
    monkeypatch.setattr(proved, "SLOW", tmp_path / "tests/slow.json")
    proved._imported.cache_clear()
    yield tmp_path
    proved._imported.cache_clear()


def test_a_test_is_about_all_that_it_imports_and_what_that_imports(tree):
    found = {str(p.relative_to(tree)) for p in proved.about(tree / "tests/test_a.py")}
    assert found >= {"tests/test_a.py", "tests/help.py", "nervykite/core/near.py", "nervykite/core/far.py"}
    assert found >= {"nervykite/core/kinds/one.py", "nervykite/core/net.tflite"}
    assert "nervykite/core/other.py" not in found


@pytest.mark.parametrize(
    ("changed", "noticed"),
    [
        ("nervykite/core/far.py", True), ("nervykite/core/net.tflite", True), ("tests/test_a.py", True),
        ("requirements.lock", True), ("nervykite/core/kinds/one.py", True), ("nervykite/core/other.py", False),
    ],
)  # fmt: skip
def test_what_was_proved_is_run_again_once_something_that_it_is_about_has_changed(tree, changed, noticed):
    proved.KEPT.write_text('{"tests/test_a.py": "' + proved.digest(tree / "tests/test_a.py") + '"}')
    assert proved._unchanged("tests/test_a.py")
    (tree / changed).write_text((tree / changed).read_text() + "# more")
    proved._imported.cache_clear()
    assert proved._unchanged("tests/test_a.py") is not noticed


class Item:
    """A test as a run collects it."""

    def __init__(self, nodeid: str, *marks: str) -> None:
        self.nodeid, self._marks = nodeid, marks

    def get_closest_marker(self, name: str) -> bool:
        return name in self._marks


def test_quick_leaves_out_what_is_slow_long_or_a_journey(tree):
    proved.SLOW.write_text('["tests/test_b.py::test_slow"]')
    names = ("tests/test_b.py::test_quick", "tests/test_b.py::test_slow", "tests/journeys/test_c.py::test_quick")
    items = [*map(Item, names), Item("tests/test_b.py::test_long", "world")]
    gone: list[Item] = []
    hook = SimpleNamespace(pytest_deselected=lambda items: gone.extend(items))
    config = SimpleNamespace(getoption={"--all": False, "--quick": True}.get, hook=hook)
    left = list(items)
    proved.pytest_collection_modifyitems(config, left)
    assert left == items[:1]
    assert gone == items[1:]


def test_what_was_never_proved_is_run(tree):
    assert not proved._unchanged("tests/test_a.py")
