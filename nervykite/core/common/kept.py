"""A store of things made, kept as long as there is room for them."""

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator
from typing import Generic, TypeVar

T = TypeVar("T")


class Kept(Generic[T]):
    """Things by key; those used least go when all together weigh more than `limit`. Safe for several threads.

    `weight` says what a thing weighs, for example its bytes; without one, each counts as one.
    """

    def __init__(self, limit: int, weight: Callable[[T], int] = lambda thing: 1) -> None:
        self._limit, self._weight, self._held = limit, weight, 0
        self._things: OrderedDict[Hashable, T] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The thing under a key, made if it is not there. Two threads may make the same one; the first one stays."""
        with self._lock:
            if key in self._things:
                self._things.move_to_end(key)
                return self._things[key]
        made = make()
        with self._lock:
            if key not in self._things:
                self._put(key, made)
            return self._things.get(key, made)

    def peek(self, key: Hashable) -> T | None:
        """The thing under a key, or None."""
        with self._lock:
            if key in self._things:
                self._things.move_to_end(key)
            return self._things.get(key)

    def __setitem__(self, key: Hashable, thing: T) -> None:
        with self._lock:
            if key in self._things:
                self._held -= self._weight(self._things.pop(key))
            self._put(key, thing)

    def _put(self, key: Hashable, thing: T) -> None:
        self._things[key] = thing
        self._held += self._weight(thing)
        while self._held > self._limit and len(self._things) > 1:
            self._held -= self._weight(self._things.popitem(last=False)[1])

    def clear(self) -> None:
        """Forgets all of it."""
        with self._lock:
            self._things.clear()
            self._held = 0

    def __iter__(self) -> Iterator[Hashable]:
        """The keys of what is kept, those used least first."""
        with self._lock:
            return iter(list(self._things))

    def __len__(self) -> int:
        return len(self._things)
