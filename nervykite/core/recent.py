"""What was used last, remembered."""

import threading
from collections import OrderedDict
from collections.abc import Hashable
from typing import Generic, TypeVar

T = TypeVar("T")


class Recent(Generic[T]):
    """Keeps the `most` things that were asked for last, by a key. Safe for several threads."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._known: OrderedDict[Hashable, T] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: Hashable) -> T | None:
        """What is known under a key, or None."""
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
            return self._known.get(key)

    def __setitem__(self, key: Hashable, value: T) -> None:
        with self._lock:
            self._known[key] = value
            self._known.move_to_end(key)
            while len(self._known) > self._most:
                self._known.popitem(last=False)
