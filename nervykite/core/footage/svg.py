"""SVG from outside: read only once it is known to be no larger than is worked on."""

import re
import xml.etree.ElementTree as tree

from ..errors import Refusal

HREF = "{http://www.w3.org/1999/xlink}href"
NUMBER = re.compile(r"[-+]?[\d.]+")
MOST_ELEMENTS, MOST_DEEP, MOST_NUMBERS = 5000, 60, 200_000
"""How many elements, one within another, and numbers in paths are read at most."""


def parsed(text: str) -> tree.Element:
    """A document's root. Raises Refusal if it is none, has entities of its own, or is larger than is read."""
    if "<!ENTITY" in text:
        raise Refusal("The SVG document has entities of its own, which are not read. Save it as plain SVG.")
    try:
        root = tree.fromstring(text)
    except (tree.ParseError, ValueError, RecursionError) as error:
        raise Refusal(f"This is not an SVG document with paths that can be read: {error}.") from error
    _bounded(root)
    return root


def _bounded(root: tree.Element) -> None:
    """Raises Refusal if a document is larger than is read, with all its `use` elements followed."""
    named = {e.get("id"): e for e in root.iter() if e.get("id")}
    weights: dict[int, int] = {}

    def weigh(element: tree.Element, depth: int) -> int:
        if depth > MOST_DEEP:
            raise Refusal(
                f"The SVG document is nested more than {MOST_DEEP} deep, or uses itself. Save it as plain paths."
            )
        if id(element) not in weights:
            weight = 1 + sum(weigh(child, depth + 1) for child in element)
            if element.tag.rpartition("}")[2] == "use":
                target = named.get((element.get("href") or element.get(HREF) or "").removeprefix("#"))
                weight += weigh(target, depth + 1) if target is not None else 0
            weights[id(element)] = weight
        return weights[id(element)]

    if weigh(root, 0) > MOST_ELEMENTS:
        raise Refusal(f"The SVG document has more than {MOST_ELEMENTS} elements. Draw it more simply.")
    numbers = sum(len(NUMBER.findall(e.get("d") or e.get("points") or "")) for e in root.iter())
    if numbers > MOST_NUMBERS:
        raise Refusal(f"The paths of the SVG document have more than {MOST_NUMBERS} numbers. Draw them more simply.")
