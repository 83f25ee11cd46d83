"""SVG from outside: read only once it is known to be no larger than is worked on, and no more to draw."""

import re
import xml.etree.ElementTree as tree
from collections.abc import Callable, Iterator

from ...common.errors import Refusal

HREF = "{http://www.w3.org/1999/xlink}href"
NUMBER = re.compile(r"[-+]?[\d.]+")
REFERS = re.compile(r"url\(\s*['\"]?#([^'\")\s]+)")
MOST_ELEMENTS, MOST_DEEP, MOST_NUMBERS = 5000, 60, 200_000
"""How many elements, one within another, and numbers in paths are read at most."""
MOST_IN_ONE = 50_000
"""How many numbers one path has at most: what draws it looks at all its lines in each row that they cross."""
MOST_FILTERS = 20
"""How many times something is filtered at most: each time goes over the whole picture."""
FILTERS = {
    "feGaussianBlur", "feDropShadow", "feTurbulence", "feMorphology", "feConvolveMatrix", "feDisplacementMap",
    "feDiffuseLighting", "feSpecularLighting", "feTile", "feImage",
}  # fmt: skip
"""Filters that take their time (Filter Effects 1, 9)."""
PAINTED = {"pattern", "mask", "marker", "filter", "clipPath"}
"""What is drawn anew for each element that refers to it."""


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
    """Raises Refusal if a document is more than is read and drawn, with all that its elements refer to followed."""
    if _weight(root, lambda element: 1, PAINTED) > MOST_ELEMENTS:
        raise Refusal(f"The SVG document has more than {MOST_ELEMENTS} elements. Draw it more simply.")
    if _weight(root, lambda element: _kind(element) in FILTERS, set()) > MOST_FILTERS:
        raise Refusal(f"The SVG document is blurred or filtered in more than {MOST_FILTERS} places. Save it as PNG.")
    numbers = [len(NUMBER.findall(e.get("d") or e.get("points") or "")) for e in root.iter()]
    if sum(numbers) > MOST_NUMBERS:
        raise Refusal(f"The paths of the SVG document have more than {MOST_NUMBERS} numbers. Draw them more simply.")
    if max(numbers) > MOST_IN_ONE:
        raise Refusal(f"A path of the SVG document has more than {MOST_IN_ONE} numbers. Draw it more simply.")


def _kind(element: tree.Element) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _weight(root: tree.Element, cost: Callable[[tree.Element], int], also: set[str]) -> int:
    """The cost of all elements together, each as often as it is drawn.

    also: the kinds of what is kept to be referred to that count where they are kept as well
    """
    named = {e.get("id"): e for e in root.iter() if e.get("id")}
    weights: dict[int, int] = {}

    def weigh(element: tree.Element, depth: int) -> int:
        if depth > MOST_DEEP:
            raise Refusal(
                f"The SVG document is nested more than {MOST_DEEP} deep, or uses itself. Save it as plain paths."
            )
        if id(element) not in weights:
            here = (child for child in element if _kind(child) not in PAINTED or _kind(child) in also)
            parts = [*here, *(named[i] for i in _referred(element, named))]
            weights[id(element)] = cost(element) + sum(weigh(part, depth + 1) for part in parts)
        return weights[id(element)]

    return weigh(root, 0)


def _referred(element: tree.Element, named: dict[str | None, tree.Element]) -> Iterator[str]:
    """The ids of what is drawn where an element is: what it uses, and what it is painted, cut and filtered with."""
    target = (element.get("href") or element.get(HREF) or "").removeprefix("#")
    if target in named and (_kind(element) == "use" or _kind(element) in PAINTED):
        yield target
    for value in element.attrib.values():
        for id_ in REFERS.findall(value) if "url(" in value else ():
            if id_ in named and _kind(named[id_]) in PAINTED:
                yield id_
