"""Work that goes on beside other work, in a few threads."""

import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

import numba

T = TypeVar("T")
THREADS = 2


def cores() -> int:
    """Number of threads one call may take: NUMBA_NUM_THREADS where that is set, as it is for kernels; at most two."""
    return max(1, min(THREADS, int(os.environ.get("NUMBA_NUM_THREADS", THREADS))))


def crew(threads: int = THREADS) -> ThreadPoolExecutor:
    """Threads that work beside each other: a kernel that one of them calls does not take the others' cores."""
    return ThreadPoolExecutor(threads, "aside", initializer=lambda: numba.set_num_threads(1))


def side_by_side(calls: Iterable[Callable[[], T]], ahead: int = THREADS) -> Iterator[T]:
    """The answers of calls, in their order, while the next `ahead` calls are already being answered.

    The calls themselves are asked for here, one after the other, so that what makes them need not bear threads. What
    a call raises is raised in its turn. Whoever stops asking stops the rest.
    """
    waiting: deque[Future[T]] = deque()
    with crew(ahead) as pool:
        try:
            for call in calls:
                waiting.append(pool.submit(call))
                if len(waiting) > ahead:
                    yield waiting.popleft().result()
            while waiting:
                yield waiting.popleft().result()
        finally:
            for future in waiting:
                future.cancel()
