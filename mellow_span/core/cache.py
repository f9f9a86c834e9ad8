"""A bounded cache that threads share: what was used least lately is forgotten first."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Cache(Generic[K, V]):
    """Values by key, never more than `most`. What is asked for and what is kept are single steps, so no thread finds half of one.

    >>> cache = Cache(2)
    >>> for key in "abc": cache.put(key, key.upper())
    >>> cache.get("a"), cache.get("c"), len(cache)
    (None, 'C', 2)
    """

    def __init__(self, most: int) -> None:
        self.most = most
        self._kept: OrderedDict[K, V] = OrderedDict()
        self._lock = Lock()

    def __len__(self) -> int:
        return len(self._kept)

    def get(self, key: K) -> V | None:
        """Return the value of a key, or None."""
        with self._lock:
            value = self._kept.get(key)
            if value is not None:
                self._kept.move_to_end(key)
            return value

    def put(self, key: K, value: V) -> None:
        """Keep a value; forget the one used least lately where there are too many."""
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > self.most:
                self._kept.popitem(last=False)

    def drop(self, unwanted: Callable[[K], bool]) -> None:
        """Forget the keys for which `unwanted` says so."""
        with self._lock:
            for key in [k for k in self._kept if unwanted(k)]:
                del self._kept[key]
