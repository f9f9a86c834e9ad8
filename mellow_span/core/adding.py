"""Adding up, the same to the last place wherever this program runs."""

from __future__ import annotations

from collections.abc import Iterable
from functools import reduce
from operator import add
from typing import TypeVar

N = TypeVar("N", int, float, complex)


def added(values: Iterable[N], start: N = 0) -> N:
    """Return the sum of values, added one after the other from the left.

    Used in the place of `sum`, which from Python 3.12 on carries what rounding loses: a device (3.14) and the server (3.11) would part in the last
    place of a figure.

    >>> added([0.1] * 10), added([]), added([[], [1]][1])
    (0.9999999999999999, 0, 1)
    """
    return reduce(add, values, start)
