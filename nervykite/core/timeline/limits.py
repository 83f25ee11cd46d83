"""How long a piece may be: every edit is held against this before it is stored."""

from ..errors import Refusal
from ..model import Document

MOST_HOURS = 6


def within_limits(document: Document) -> None:
    """Raises Refusal, with a sentence, if the piece is longer than the program can show."""
    rate = document.project.rate
    most = int(MOST_HOURS * 3600 * rate)
    length = 0
    for item in document.project.ground:
        length += item.source.lasts(document)
        if length > most:
            raise Refusal(
                f"A piece is at most {MOST_HOURS} hours long, and this would make it longer. Shorten it first."
            )
