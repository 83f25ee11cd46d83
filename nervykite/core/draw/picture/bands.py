"""Bands of rows of a picture, each worked on by a thread of its own."""

from collections.abc import Callable
from concurrent.futures import Executor


class Bands:
    """So many bands of rows; with a pool each but the first is worked on by one of its threads, else it is one."""

    def __init__(self, count: int = 1, pool: Executor | None = None) -> None:
        self.count, self._pool = count if pool else 1, pool

    def run(self, work: Callable[..., None], first: int, past: int, *given: object) -> None:
        """Has rows first…past (half-open) worked on, and returns when all are done.

        work: called for each band with its first row, the one after its last, and what is `given`.
        """
        edges = [first + (past - first) * k // self.count for k in range(self.count + 1)]
        bands = list(zip(edges, edges[1:], strict=False))
        others = [self._pool.submit(work, a, b, *given) for a, b in bands[1:]] if self._pool else []
        work(*bands[0], *given)
        for other in others:
            other.result()


WHOLE = Bands()
"""All rows at once, in the thread that asks."""
