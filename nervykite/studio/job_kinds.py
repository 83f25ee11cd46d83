"""The kinds of long work there are."""

from dataclasses import dataclass
from typing import Literal

Line = Literal["long", "send", "quick", "beside"]


@dataclass(frozen=True)
class JobKind:
    """A kind of long work.

    line: what it queues behind (what a person waits for does not wait for what is sent, what goes on beside their work
    for neither); edits: whether it may change the document while it runs; quiet: whether the place it was started from
    says how it ended, so that nobody else has to.
    """

    name: str
    line: Line
    edits: bool = False
    quiet: bool = False


JOBS = {
    kind.name: kind
    for kind in (
        JobKind("import", "long"),
        JobKind("export", "send"),
        JobKind("find", "quick", edits=True, quiet=True),
        JobKind("plate", "beside", edits=True, quiet=True),
        JobKind("carry", "beside", edits=True, quiet=True),
        JobKind("track", "beside", edits=True, quiet=True),
        JobKind("carve", "beside", edits=True, quiet=True),
        JobKind("nudge", "beside", edits=True),
        JobKind("make", "beside", edits=True, quiet=True),
    )
}
