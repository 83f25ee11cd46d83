"""Notes that stand alone: a docstring begins with what a thing is or does, a field's note is a sentence of its own."""

import ast
import re
from collections.abc import Iterator, Mapping
from pathlib import Path

QUESTIONS = ("What", "How", "Whether", "Who", "Which", "Why")
"""Words that put what the thing is behind what is asked about it."""
BEGINS = re.compile(r"[A-ZÀ-ÞΑ-Ω0-9“`*±]")
"""How a sentence begins: with a capital, a figure, or a name."""
ENDS = re.compile(r"[.?!:]”?$")


def halves(trees: Mapping[Path, ast.Module]) -> Iterator[str]:
    """A sentence for each docstring that begins with a question, and for each field's note that is half a sentence."""
    for path, tree in trees.items():
        for node in ast.walk(tree):
            if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
                yield from _questions(path, node)
            if isinstance(node, ast.Module | ast.ClassDef):
                yield from _unfinished(path, node)


def _questions(path: Path, node: ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef) -> Iterator[str]:
    said = (ast.get_docstring(node) or "").split(maxsplit=1)
    if said and said[0] in QUESTIONS:
        name = "the module" if isinstance(node, ast.Module) else node.name
        yield f"{path}:{node.body[0].lineno}: the docstring of {name} begins with “{said[0]}”"


def _unfinished(path: Path, node: ast.Module | ast.ClassDef) -> Iterator[str]:
    for field, note in zip(node.body, node.body[1:], strict=False):
        if not isinstance(field, ast.Assign | ast.AnnAssign) or not isinstance(note, ast.Expr):
            continue
        if isinstance(note.value, ast.Constant) and isinstance(note.value.value, str):
            said = note.value.value.strip()
            if not BEGINS.match(said) or not ENDS.search(said):
                name = ast.unparse(field.target if isinstance(field, ast.AnnAssign) else field.targets[0])
                yield f"{path}:{note.lineno}: the note on {name} is half a sentence: {said[:60]}"
