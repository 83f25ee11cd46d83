"""One name, one thing: no second public class or module of the same name in the program."""

import ast
from collections import defaultdict
from collections.abc import Iterator, Mapping
from pathlib import Path

ALLOWED = ("__init__", "base", "kinds")
"""Modules that a package may have whatever others have."""


def doubles(trees: Mapping[Path, ast.Module]) -> Iterator[str]:
    """A sentence for each name that more than one public class or module has, given modules by their paths."""
    found: dict[tuple[str, str], list[str]] = defaultdict(list)
    for path, tree in trees.items():
        if path.stem not in ALLOWED:
            found["module", path.stem].append(str(path))
        for node in tree.body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                found["class", node.name].append(f"{path}:{node.lineno}")
    for (sort, name), places in sorted(found.items()):
        if len(places) > 1:
            yield f"{name} is the name of more than one {sort}: {', '.join(places)}"
