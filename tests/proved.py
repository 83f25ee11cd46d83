"""Tests that take long and seldom change what they say: left out while nothing that they test has changed.

They are marked `world` (film is rendered, or a world made up), `learn` (what the networks learn from) or `network` (the
networks that find people are run). What a module of tests is about is all that it imports, and what that imports.
`tests/proved.json` has the digest of that from the last run in which all of the module's tests passed, and belongs to
the project: another machine leaves out the same. `--all` runs everything (`make test ALL=1`).
"""

import ast
import hashlib
import json
import re
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
KEPT = ROOT / "tests/proved.json"
SLOW = ROOT / "tests/slow.json"
"""The other tests that took longer than SECONDS in that run: `make quick` leaves them out."""
SECONDS = 1.0
LONG = ("world", "learn", "network")
LOCKS = ("requirements.lock", "web/package-lock.json")
"""What else decides what they say: the packages, which bring the networks."""
DATA = (".tflite", ".json", ".npz", ".sql")
_passed: dict[str, bool] = {}


def about(test: Path) -> set[Path]:
    """All files of the project that a file of tests depends on, itself among them; fixtures of `conftest.py` aside."""
    found: set[Path] = set()
    left = [test]
    while left:
        path = left.pop()
        if path not in found:
            found.add(path)
            left += _imported(path)
    folders = {path.parent for path in found if ROOT / "nervykite" in path.parents}
    data = {f for folder in folders for f in folder.iterdir() if f.suffix in DATA}
    if ROOT / "nervykite/demo/__init__.py" in found:
        data |= {f for f in (ROOT / "nervykite/demo/footage").rglob("*") if f.is_file()}
    return found | data


@cache
def _imported(path: Path) -> tuple[Path, ...]:
    """The files that a file imports, and the packages of kinds that it names."""
    package = path.parent.relative_to(ROOT).parts
    names: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            base = ".".join((*package[: len(package) - node.level + 1], *(node.module or "").split("."))).strip(".")
            base = base if node.level else node.module or ""
            names |= {base, *(f"{base}.{alias.name}" for alias in node.names)}
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and re.fullmatch(r"[\w.]+", node.value):
            folder = ROOT.joinpath(*node.value.split("."))
            if node.value.startswith("nervykite.") and folder.is_dir():
                names |= {f"{node.value}.{f.stem}" for f in folder.glob("*.py")}
    files: set[Path] = set()
    for name in names:
        parts = name.split(".")
        if parts[0] in ("nervykite", "tests", "tools"):
            for many in range(1, len(parts) + 1):
                folder = ROOT.joinpath(*parts[:many])
                files |= {f for f in (folder / "__init__.py", folder.with_suffix(".py")) if f.is_file()}
    return tuple(files)


def digest(test: Path) -> str:
    """A digest of all that a file of tests depends on, by content."""
    whole = hashlib.sha256()
    for path in sorted({*about(test), *(ROOT / name for name in LOCKS)}):
        whole.update(f"{path.relative_to(ROOT)}\n".encode())
        whole.update(hashlib.sha256(path.read_bytes()).digest())
    return whole.hexdigest()[:16]


def pytest_addoption(parser):
    """`--all` and `--quick`."""
    parser.addoption("--all", action="store_true", help="run also what has been proved and has not changed since")
    parser.addoption("--quick", action="store_true", help="leave out journeys, those that take long, and slow ones")


def _kept() -> dict[str, str]:
    return json.loads(KEPT.read_text()) if KEPT.exists() else {}


def _unchanged(module: str) -> bool:
    """Whether a file of tests was proved, and all that it is about is still the same."""
    return (ROOT / module).is_file() and _kept().get(module) == digest(ROOT / module)


def _is_long(item: pytest.Item) -> bool:
    return any(item.get_closest_marker(name) for name in LONG)


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(config, items):
    """Leaves out what has been proved; a file that is asked for by its name is run."""
    if config.getoption("--all"):
        return
    if config.getoption("--quick"):
        slow = set(json.loads(SLOW.read_text())) if SLOW.exists() else set()
        gone = [i for i in items if i.nodeid in slow or _is_long(i) or "/journeys/" in i.nodeid]
        config.hook.pytest_deselected(items=gone)
        items[:] = [i for i in items if i not in set(gone)]
        return
    asked = {Path(str(a).split("::")[0]).resolve() for a in config.args}
    modules = {i.path for i in items if _is_long(i)} - asked
    proved = {path for path in modules if _unchanged(str(path.relative_to(ROOT)))}
    gone = [i for i in items if i.path in proved and _is_long(i)]
    if gone:
        config.hook.pytest_deselected(items=gone)
        items[:] = [i for i in items if not (i.path in proved and _is_long(i))]


@pytest.hookimpl(tryfirst=True)
def pytest_runtest_setup(item):
    """Says in the report of a test that it is one of these."""
    if _is_long(item):
        item.user_properties.append(("long", True))


def take_down(report) -> None:
    """Takes down whether a test of these passed, where reports come together."""
    if ("long", True) in map(tuple, report.user_properties):
        module = report.nodeid.split("::")[0]
        _passed[module] = _passed.get(module, True) and report.outcome == "passed"


def whole(config) -> bool:
    """Whether a run is one of all tests, or of all but what was proved."""
    everywhere = [Path(a).resolve() for a in config.args] == [ROOT / "tests"]
    return everywhere and not config.option.keyword and not config.option.markexpr


def tell(config, write, seconds: dict[str, float]) -> None:
    """Keeps what was proved by a run of everything, and what was slow; tells what was left out of any other.

    seconds: how long each test took, by its node's id.
    """
    if config.getoption("--all"):
        if whole(config):
            KEPT.write_text(json.dumps({m: digest(ROOT / m) for m in sorted(_passed) if _passed[m]}, indent=1) + "\n")
            slow = sorted(test for test, took in seconds.items() if took > SECONDS and "/journeys/" not in test)
            SLOW.write_text(json.dumps(slow, indent=1) + "\n")
        return
    if not whole(config):
        return
    if same := [module for module in _kept() if module not in _passed and _unchanged(module)]:
        write(f"left out, as nothing that they test has changed since they last passed: {', '.join(sorted(same))}")
