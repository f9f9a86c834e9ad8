"""Which shrinking sleeve goes over a cable or a core, to be marked or coloured: it must slip over and, shrunk, hold."""

from __future__ import annotations

from math import pi

from mellow_span.core.site.trade import rows

# A sleeve is slipped on with so much to spare; good practice.
SPARE = 1.1


def sleeve(width: float, height: float) -> float | None:
    """Return the bore [mm] of the smallest usual sleeve that slips over a body and holds it when shrunk; None where none does.

    width, height: size over all [mm]; a flat one counts with the round one of its girth.

    >>> sleeve(14.7, 14.7), sleeve(10.3, 5.9)
    (19.0, 12.7)
    """
    across = width if width == height else 2 * (width + height) / pi
    for row in rows("sleeves"):
        bore, shrunk = float(row["bore_mm"]), float(row["recovered_mm"])
        if across * SPARE <= bore and shrunk < across:
            return bore
    return None
