"""Functions, classes and properties that nothing in the program calls, tests aside."""

from collections.abc import Iterator
from pathlib import Path

from vulture import Vulture

FAMILIES = ("nervykite/core/kinds", "nervykite/core/change", "nervykite/core/draw/send/writers")
"""Where a class is found by lying there: kinds, edits, checks, formats."""
CALLED = (
    "migrate", "qCurveTo", "curveTo", "closePath", "endPath", "penned", "located", "speed_lines", "checks", "brushed",
)  # fmt: skip
"""What is called by a name in text: migrations, the methods of a pen, what a source can, kernels of backdrops."""
BY_NAME = ("@*router.*", "@app.*", "@field_validator*", "@model_validator*", "@field_serializer*")
"""Decorators whose functions a library calls."""


def unused(folders: list[Path]) -> Iterator[str]:
    """A sentence for each thing in folders that nothing there refers to."""
    vulture = Vulture(ignore_names=list(CALLED), ignore_decorators=list(BY_NAME))
    vulture.scavenge(folders)
    for item in vulture.get_unused_code():
        kept = item.typ == "class" and any(f in str(item.filename) for f in FAMILIES)
        # Attributes and fields are read by name, in JSON and by libraries.
        if item.typ not in ("attribute", "variable") and not kept:
            yield f"{item.filename}:{item.first_lineno}: nothing uses the {item.typ} {item.name}"
