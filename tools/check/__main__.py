"""`python -m tools.check`: prints what is wrong with the program's words, one a line, and fails if anything is."""

import ast
import sys
from pathlib import Path

from .lengths import too_long
from .names import doubles
from .notes import halves
from .unused import unused

FOLDERS = ("nervykite", "tools")


def main() -> int:
    """The number of the process's end: 1 if anything is wrong."""
    trees = {p: ast.parse(p.read_text()) for f in FOLDERS for p in sorted(Path(f).rglob("*.py"))}
    shipped = {p: tree for p, tree in trees.items() if p.parts[0] == FOLDERS[0]}
    found = [*doubles(shipped), *halves(trees), *too_long(trees), *unused([Path(f) for f in (*FOLDERS, "docs")])]
    print(*found, sep="\n", end="\n" if found else "")
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
