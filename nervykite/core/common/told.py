"""JSON from outside: what it comes to is known before any of it is read, and is no more than it can be meant to say."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from .errors import Refusal

BLOCK = 1 << 20


@dataclass(frozen=True)
class Most:
    """The bounds of a text: so many bytes; so many values and names, each of which takes a hundred bytes once read."""

    size: int
    parts: int


def bounded(read: Callable[[int], bytes], most: Most, name: str) -> bytes:
    """All that a stream holds, which is given by a function of how many bytes are wanted. Raises Refusal if it is more.

    What parts there are is known by what stands between them: in texts too, so that a little more is counted.
    """
    text, parts = bytearray(), 0
    while block := read(BLOCK):
        text += block
        parts += sum(block.count(sign) for sign in (b",", b"{", b"["))
        if len(text) > most.size or parts > most.parts:
            raise Refusal(f"{name} says more than it can mean: it is damaged, or was made to do harm. Get it anew.")
    return bytes(text)


def told(text: bytes, name: str) -> dict[str, Any]:
    """The object that a JSON text says (RFC 8259). Raises Refusal if it says none."""
    try:
        said = json.loads(text.decode("utf-8-sig"))
    except (ValueError, RecursionError) as error:
        raise Refusal(f"{name} cannot be read: it is damaged, or only half of it is there.") from error
    if not isinstance(said, dict):
        raise Refusal(f"{name} is not what it seems to be: it holds a list or a single value.")
    return said
