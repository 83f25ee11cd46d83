"""Tables of colours as files: “Cube LUT Specification 1.0” (2013), 1D and 3D."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ...common.errors import Refusal

MOST_SIDE = {1: 65_536, 3: 129}
"""How many entries a table may have along each side, by how many sides it has."""
MOST_BYTES = 96 << 20
"""How many bytes of a file are read."""


@dataclass(frozen=True)
class CubeLut:
    """The table of what becomes of R'G'B'. `values`: float32, (n, 3) of each by itself, or (n, n, n, 3) by blue, green,
    red.

    `low` and `high` are the R'G'B' of its first and last entries, float32 (3,).
    """

    values: np.ndarray
    low: np.ndarray
    high: np.ndarray

    @property
    def size(self) -> int:
        """The number of entries it has along each side."""
        return len(self.values)

    @property
    def sides(self) -> int:
        """1 if each of red, green and blue goes by itself, 3 if they go together."""
        return 1 if self.values.ndim == 2 else 3

    @property
    def nbytes(self) -> int:
        """The room it takes, in bytes."""
        return self.values.nbytes


def is_table(head: bytes, name: str) -> bool:
    """True if a file of that name that begins so, with some kilobytes, is a table."""
    return b"\0" not in head and (name.lower().endswith(".cube") or b"LUT_3D_SIZE" in head or b"LUT_1D_SIZE" in head)


def read_table(path: Path, name: str) -> CubeLut:
    """The table of a file. Raises Refusal with what is wrong with it."""
    if path.stat().st_size > MOST_BYTES:
        raise Refusal(f"{name} is too large: the most is {MOST_BYTES >> 20} MB for a table. Save a smaller one.")
    size, sides, bounds = 0, 0, {"DOMAIN_MIN": [0.0] * 3, "DOMAIN_MAX": [1.0] * 3}
    rows: list[str] = []
    for number, line in enumerate(path.read_text("utf-8", "replace").lstrip("\ufeff").splitlines(), 1):
        word, _, rest = line.strip().partition(" ")
        if not word or word.startswith("#") or word == "TITLE":
            continue
        if word[0] in "+-.0123456789":
            rows.append(line)
            continue
        sized = word in ("LUT_1D_SIZE", "LUT_3D_SIZE")
        if sized and sides:
            raise Refusal(f"{name} holds two tables. Save one of them by itself.")
        try:
            if sized:
                sides, size = int(word[4]), int(rest)
            elif word in bounds:
                bounds[word] = _three(rest)
        except ValueError:
            raise Refusal(
                f"{name} is no table that can be read: line {number} is not understood. Save it again as .cube."
            ) from None
    if not sides:
        raise Refusal(f"{name} does not say how large its table is. Save it as a .cube file with LUT_3D_SIZE.")
    if not 2 <= size <= MOST_SIDE[sides]:
        raise Refusal(
            f"The table of {name} has {size} entries a side; it may have 2 to {MOST_SIDE[sides]}. Save it so."
        )
    low, high = (np.array(bounds[n], np.float32) for n in ("DOMAIN_MIN", "DOMAIN_MAX"))
    if not (low < high).all():
        raise Refusal(f"{name} says that its table ends below where it begins. Save it again.")
    return CubeLut(_values(rows, size, sides, name), low, high)


def written_table(values: np.ndarray, title: str) -> str:
    """The file of a table, float32 (n, n, n, 3) by blue, green, red, 0…1, under a title."""
    name = title.replace('"', "'").replace("\n", " ")
    rows = "\n".join(f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in values.reshape(-1, 3))
    return f'TITLE "{name}"\nLUT_3D_SIZE {len(values)}\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 1 1 1\n{rows}\n'


def _values(rows: list[str], size: int, sides: int, name: str) -> np.ndarray:
    """The values in the lines of numbers, in the order that the specification gives: red runs quickest."""
    wanted = size**sides
    if len(rows) != wanted:
        raise Refusal(f"{name} has {len(rows)} lines of numbers; there should be {wanted}. Copy it here once more.")
    try:
        with np.errstate(over="ignore"):
            values = np.array(" ".join(rows).split(), np.float32).reshape(wanted, 3)
    except ValueError:
        raise Refusal(f"{name} is no table: each line has to have three numbers. Save it again.") from None
    if not np.isfinite(values).all():
        raise Refusal(f"{name} has entries that are no numbers. Save it again.")
    return np.ascontiguousarray(values.reshape(*[size] * sides, 3))


def _three(text: str) -> list[float]:
    r, g, b = (float(v) for v in text.split())
    return [r, g, b]
