"""The limits of a piece: every edit is held against them before it is stored."""

from ...common.errors import Refusal
from ..model import Document

MOST_HOURS = 6


def within_limits(document: Document, length: int) -> None:
    """Raises Refusal, with a sentence, if a piece of so many frames is longer than the program can show."""
    if length > int(MOST_HOURS * 3600 * document.project.rate):
        raise Refusal(f"A piece is at most {MOST_HOURS} hours long, and this would make it longer. Shorten it first.")
