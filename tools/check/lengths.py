"""Functions that can be read at once: none of the core is over sixty lines."""

import ast
from collections.abc import Iterator, Mapping
from pathlib import Path

MOST = 60
"""The lines of a function of the core at most, its docstring among them."""


def too_long(trees: Mapping[Path, ast.Module]) -> Iterator[str]:
    """A sentence for each function of the core that is too long, given modules by their paths."""
    for path, tree in trees.items():
        if path.parts[:2] != ("nervykite", "core"):
            continue
        for node in ast.walk(tree):
            if isinstance(node, ast.FunctionDef) and node.end_lineno is not None:
                lines = node.end_lineno - node.lineno + 1
                if lines > MOST:
                    yield f"{path}:{node.lineno}: {node.name} has {lines} lines, more than {MOST}"
