"""Would a test notice? Changes statements of core and store, one at a time, and runs the quick tests about it.

    python -m tests.mutate --count 200 --seed 1 [--workers 2] [--json FILE]

Tells the share that was noticed, and each change that survived. Works in copies of the project; no part of a run.
"""

import argparse
import ast
import json
import random
import shutil
import subprocess
import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue
from tempfile import TemporaryDirectory

import pytest

from .proved import ROOT, _imported, about

WHERE = ("nervykite/core", "nervykite/store")
NEAREST = 60
"""So many files of tests are run for a change at most: those that are about the least besides."""
SECONDS = 240
"""After so long a change counts as noticed: what never ends is."""
COMPARED = {ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq}
WORKED = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}


@dataclass(frozen=True)
class Change:
    """A statement of a file, by its line, as it is and as it would be."""

    path: Path
    line: int
    was: str
    becomes: str

    def __str__(self) -> str:
        return f"{self.path}:{self.line}: {self.was}  →  {self.becomes}"


def changed(node: ast.AST) -> ast.AST | None:
    """Another node in the place of one, if it is of a sort that can be changed."""
    if isinstance(node, ast.Compare) and type(node.ops[0]) in COMPARED:
        return ast.Compare(node.left, [COMPARED[type(node.ops[0])](), *node.ops[1:]], node.comparators)
    if isinstance(node, ast.BinOp) and type(node.op) in WORKED:
        return ast.BinOp(node.left, WORKED[type(node.op)](), node.right)
    if isinstance(node, ast.BoolOp):
        return ast.BoolOp(ast.Or() if isinstance(node.op, ast.And) else ast.And(), node.values)
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
        return node.operand
    if isinstance(node, ast.Constant) and type(node.value) in (int, float):
        return ast.Constant(node.value + 1)
    if isinstance(node, ast.Return) and node.value is not None and not isinstance(node.value, ast.Constant):
        return ast.Return(ast.Constant(None))
    return None


def changes(path: Path) -> Iterator[tuple[Change, str]]:
    """Each change that can be made to a file, and the file with it; what stands on one line alone, outside of hints."""
    text = (ROOT / path).read_text()
    lines = text.split("\n")
    tree = ast.parse(text)
    # What is said of types is not run, and what stands in a text does not know its place.
    apart: list[ast.AST] = [a.annotation for a in ast.walk(tree) if isinstance(a, ast.AnnAssign)]
    apart += [a for a in ast.walk(tree) if isinstance(a, ast.JoinedStr)]
    left_out = {id(n) for a in apart for n in ast.walk(a)}
    for node in ast.walk(tree):
        new = None if id(node) in left_out else changed(node)
        if new is None or node.lineno != node.end_lineno:  # type: ignore[attr-defined]
            continue
        row, first, past = node.lineno - 1, node.col_offset, node.end_col_offset  # type: ignore[attr-defined]
        line = lines[row].encode()
        becomes = ast.unparse(ast.fix_missing_locations(new))
        becomes = becomes if isinstance(new, ast.Return) else f"({becomes})"
        whole = (line[:first] + becomes.encode() + line[past:]).decode()
        changed_text = "\n".join([*lines[:row], whole, *lines[row + 1 :]])
        yield Change(path, row + 1, line[first:past].decode(), becomes), changed_text


def tests_of(path: Path, known: dict[Path, set[Path]]) -> list[str]:
    """The files of tests that are about a file, those that import it themselves and are about the least first."""
    near = [test for test, files in known.items() if ROOT / path in files]
    near.sort(key=lambda test: (ROOT / path not in _imported(test), len(known[test])))
    return [str(test.relative_to(ROOT)) for test in near[:NEAREST]]


def copied(to: Path) -> Path:
    """A copy of the project to change, with the page's packages by reference: faces and networks come with them."""
    left_out = shutil.ignore_patterns("node_modules", ".git", ".venv", ".stamps")
    shutil.copytree(ROOT, to, ignore=left_out)
    (to / "web/node_modules").symlink_to(ROOT / "web/node_modules")
    return to


def fails(copy: Path, tests: list[str], seconds: float) -> bool:
    """Whether one of some quick tests fails in a copy, or does not end; with no tests at all none does."""
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-n", "0", "--quick", "-p", "no:cacheprovider", *tests]
    try:
        ended = subprocess.run(command, cwd=copy, capture_output=True, timeout=seconds, check=False).returncode
    except subprocess.TimeoutExpired:
        return True
    return ended not in (pytest.ExitCode.OK, pytest.ExitCode.NO_TESTS_COLLECTED)


def noticed(copy: Path, change: Change, text: str, tests: list[str]) -> bool:
    """Whether one of the tests fails, or never ends, in a copy of the project with the change."""
    place = copy / change.path
    kept = place.read_text()
    place.write_text(text)
    try:
        return fails(copy, tests, SECONDS)
    finally:
        place.write_text(kept)


def main() -> None:
    """Tries so many changes, by a seed."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--json", type=Path)
    options = parser.parse_args()
    files = sorted(p.relative_to(ROOT) for folder in WHERE for p in (ROOT / folder).rglob("*.py"))
    every = [one for path in files for one in changes(path)]
    chosen = random.Random(options.seed).sample(every, options.count)
    tests = [test for kind in ("core", "store", "server") for test in (ROOT / "tests" / kind).glob("test_*.py")]
    known = {test: about(test) for test in tests}
    copies: Queue[Path] = Queue()
    with TemporaryDirectory() as folder, ThreadPoolExecutor(options.workers) as pool:
        for number in range(options.workers):
            copies.put(copied(Path(folder) / str(number)))
        near = sorted({test for change, _ in chosen for test in tests_of(change.path, known)})
        if fails(copies.queue[0], near, 10 * SECONDS):
            raise SystemExit("Some of the tests fail as it is: whatever is changed would seem to be noticed.")

        def tried(one: tuple[Change, str]) -> bool:
            change, text = one
            copy = copies.get()
            try:
                seen = noticed(copy, change, text, tests_of(change.path, known))
            finally:
                copies.put(copy)
            print("noticed " if seen else "SURVIVED", change, flush=True)
            return seen

        found = list(pool.map(tried, chosen))
    survived = [str(change) for (change, _), seen in zip(chosen, found, strict=True) if not seen]
    print(f"{sum(found)} of {len(found)} noticed ({100 * sum(found) / len(found):.0f} %)")
    if options.json:
        options.json.write_text(json.dumps({"noticed": sum(found), "of": len(found), "survived": survived}, indent=1))


if __name__ == "__main__":
    main()
