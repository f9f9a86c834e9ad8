"""A bounded cache that threads share: what was kept first is forgotten first."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Cache(Generic[K, V]):
    """Values by key, never more than `most`. Asking is one step of the interpreter and needs no lock; whoever keeps holds one.

    >>> cache = Cache(2)
    >>> for key in "abc": cache.put(key, key.upper())
    >>> cache.get("a"), cache.get("c"), len(cache)
    (None, 'C', 2)
    """

    def __init__(self, most: int) -> None:
        self.most = most
        self._kept: dict[K, V] = {}
        self._lock = Lock()
        # The method itself: asked thousands of times for each answer.
        self.get: Callable[[K], V | None] = self._kept.get

    def __len__(self) -> int:
        return len(self._kept)

    def put(self, key: K, value: V) -> None:
        """Keep a value; forget the oldest where there are too many."""
        with self._lock:
            self._kept[key] = value
            while len(self._kept) > self.most:
                del self._kept[next(iter(self._kept))]

    def drop(self, unwanted: Callable[[K], bool]) -> None:
        """Forget the keys for which `unwanted` says so."""
        with self._lock:
            for key in [k for k in self._kept if unwanted(k)]:
                del self._kept[key]

    def clear(self) -> None:
        """Forget everything."""
        self.drop(lambda _: True)


class Latest(Generic[K, V]):
    """What was worked out of the last few objects, each known by being that very one: nothing is compared, however large it is.

    An object that never changes has one answer for as long as it is held here.

    >>> latest, one = Latest(1), (1, 2)
    >>> latest.put(one, "its answer"); latest.get(one), latest.get((1, 2, 3)[:2])
    ('its answer', None)
    """

    def __init__(self, most: int) -> None:
        # Each with the object itself, so that no other can come to have its identity.
        self._kept: Cache[int, tuple[K, V]] = Cache(most)

    def get(self, of: K) -> V | None:
        """Return what was worked out of an object, None where it is not known."""
        known = self._kept.get(id(of))
        return None if known is None else known[1]

    def put(self, of: K, value: V) -> None:
        """Keep what was worked out of an object."""
        self._kept.put(id(of), (of, value))

    def cache_clear(self) -> None:
        """Forget everything."""
        self._kept.clear()
