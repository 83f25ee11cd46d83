"""The directions of imports, and that what evaluates a document needs neither decoder nor compiler."""

import ast
import subprocess
import sys
from pathlib import Path

import pytest

import nervykite

HOME = Path(nervykite.__file__).parent
LAYERS = ("core", "store", "studio", "server")
"""From the lowest to the highest: each may import those below it."""
CORE = (
    "model", "timeline", "footage", "matte", "scene", "find", "carry", "catch", "motion", "finishing", "lettering",
    "sources", "finishes", "cards", "edits", "recipes", "picture", "sound", "snags", "send", "shown", "bundled",
)  # fmt: skip
"""Core's packages from the lowest to the highest."""
ROOT = ("errors", "kept", "aside", "colour", "told", "apart")
"""Small modules that any of them may use."""


def imports() -> dict[str, set[str]]:
    """For each module the modules that it imports when it is loaded or run, type checks apart."""
    found: dict[str, set[str]] = {}
    for path in HOME.rglob("*.py"):
        parts = ("nervykite", *path.relative_to(HOME).with_suffix("").parts)
        name = ".".join(p for p in parts if p != "__init__")
        package = parts[:-1]
        tree = ast.parse(path.read_text())
        skipped = {
            n
            for b in ast.walk(tree)
            if isinstance(b, ast.If) and "TYPE_CHECKING" in ast.dump(b.test)
            for n in ast.walk(b)
        }
        found[name] = set()
        for node in ast.walk(tree):
            if node in skipped:
                continue
            if isinstance(node, ast.Import):
                found[name] |= {a.name for a in node.names}
            elif isinstance(node, ast.ImportFrom):
                base = package[: len(package) - node.level + 1] if node.level else ()
                module = ".".join([*base, *([node.module] if node.module else [])])
                found[name] |= {module, *(f"{module}.{a.name}" for a in node.names)}
    return found


def crossings(name: str) -> set[tuple[str, str]]:
    """Pairs of parts, one of which imports the other; parts are packages right below the one given."""
    depth = name.count(".") + 1
    pairs = set()
    for module, others in imports().items():
        for other in others:
            if module.startswith(name + ".") and other.startswith(name + "."):
                one, two = (x.split(".")[depth] for x in (module, other))
                if one != two:
                    pairs.add((one, two))
    return pairs


def test_the_program_is_built_upwards():
    for one, other in crossings("nervykite"):
        if one in LAYERS and other in LAYERS:
            assert LAYERS.index(one) > LAYERS.index(other), f"{one} imports {other}"
        elif one in LAYERS:
            assert other not in ("cli", "demo"), f"{one} imports {other}"


def test_core_is_built_upwards():
    for one, other in crossings("nervykite.core"):
        if other in ROOT or one == "warm":
            continue
        assert CORE.index(other) < CORE.index(one), f"core.{one} imports core.{other}"


@pytest.mark.parametrize("package", ["store"])
def test_the_store_knows_documents_and_nothing_else_of_the_core(package):
    known = {m for k, others in imports().items() if k.startswith(f"nervykite.{package}") for m in others}
    core = {m for m in known if m.startswith("nervykite.core.")}
    assert {m.split(".")[2] for m in core} <= {"model", "errors", "kept"}


def test_the_model_needs_pydantic_and_numpy_only():
    outside = {
        m.split(".")[0]
        for k, others in imports().items()
        if k.startswith("nervykite.core.piece.model")
        for m in others
        if not m.startswith("nervykite")
    }
    assert outside - set(sys.stdlib_module_names) <= {"pydantic", "pydantic_core", "numpy"}


def test_to_evaluate_takes_no_decoder_and_no_compiler():
    code = (
        "import sys; from nervykite.core.draw.picture.evaluate import Evaluation; import nervykite.core.change.edits;"
        "from nervykite.core.piece.model import Source, FinishKind, Arrangement;"
        "[f.family.all() for f in (Source, FinishKind, Arrangement)];"
        "print([m for m in ('av', 'numba', 'sqlite3', 'fastapi') if m in sys.modules])"
    )
    answer = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert answer.stdout.strip() == "[]"
