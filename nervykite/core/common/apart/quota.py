"""The bounds of a call apart, and why there is no answer to one."""

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class Bounds:
    """The bounds of a call.

    seconds: from when it is begun; memory: bytes beyond what its process has before; answer: bytes of what it returns;
    calls: after so many a process gives way to a new one
    """

    seconds: float = 10
    memory: int = 2 << 30
    answer: int = 320 << 20
    calls: int = 100


@dataclass(frozen=True)
class Failed:
    """The reason why there is no answer: what was called took too long, took too much room, or fell over."""

    why: Literal["time", "room", "fall"]
    trace: str = ""

    def sentence(self, name: str, bounds: Bounds) -> str:
        """The sentence that a person is told of it."""
        if self.why == "time":
            return f"{name} takes longer than {bounds.seconds:g} seconds to read. Save it again, more simply."
        if self.why == "room":
            return f"{name} takes more memory to read than it is given. Save it again, smaller or more simply."
        return f"{name} cannot be read: it is damaged in a way that stops what reads it. Get it again, or save it anew."
