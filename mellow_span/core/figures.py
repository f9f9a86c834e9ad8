"""How the core words a number in a sentence: the digits an electrician would write down."""

from __future__ import annotations

from functools import lru_cache

_PLACES = {"A": 1, "V": 1, "%": 2, "Ω": 3, "m": 2, "s": 2, "mm²": 2, "kA": 2, "W": 0, "A²s": 0, "mV/A/m": 2, "mΩ/m": 2}
_FORMATS = ("%.0f", "%.1f", "%.2f", "%.3f")
# An electrode's ohms are not known to the thousandth.
_COARSE_FROM = 10
# Units whose trailing noughts say how fine the figure is.
_ALL_PLACES = frozenset(["Ω", "%"])


def figure(value: float, unit: str = "") -> str:
    """Return value as text without its unit.

    value [any unit], unit: decides how many decimals are shown. A whole number of A, V, m, s or mm² drops its decimals.

    >>> figure(37.999, "A"), figure(36.0, "A"), figure(1.3656, "Ω"), figure(1666.7, "Ω")
    ('38', '36', '1.366', '1 667')
    """
    places = _PLACES.get(unit)
    if unit == "Ω" and abs(value) >= _COARSE_FROM:
        return f"{value:,.{0 if abs(value) >= 10 * _COARSE_FROM else 1}f}".replace(",", " ")
    if places is None:
        return f"{value:.4g}" if abs(value) < 1000 else f"{value:,.0f}".replace(",", " ")
    # Every check words a figure or two, so the common case stays short.
    text = _FORMATS[places] % value if abs(value) < 1000 else f"{value:,.{places}f}".replace(",", " ")
    if places == 0 or unit in _ALL_PLACES:
        return text
    return text.rstrip("0").rstrip(".")


def places_of(unit: str) -> int:
    """Return how many decimals a number of a unit is shown with at most.

    >>> places_of("Ω"), places_of("W")
    (3, 0)
    """
    return _PLACES.get(unit, 2)


def apart(value: float, limit: float, unit: str) -> tuple[str, str]:
    """Return a figure and its limit with their unit, with as many digits as it takes to see that they are not the same.

    >>> apart(3.004, 3.0, "%"), apart(31.9, 32.0, "A"), apart(5.0, 5.0, "s")
    (('3.004 %', '3 %'), ('31.9 A', '32 A'), ('5 s', '5 s'))
    """
    one, other = quantity(value, unit), quantity(limit, unit)
    if one != other or abs(value - limit) <= 1e-9 * max(abs(value), abs(limit)):
        return one, other
    for digits in range(4, 11):
        one, other = (f"{x:.{digits}g} {unit}" for x in (value, limit))
        if one != other:
            break
    return one, other


@lru_cache(maxsize=65536)
def quantity(value: float, unit: str) -> str:
    """Return value with its unit, e.g. '36 A'; a current of 1000 A and more reads in kA.

    >>> quantity(4.5, "%"), quantity(2100.0, "A")
    ('4.50 %', '2.1 kA')
    """
    if unit == "A" and abs(value) >= 1000:
        return f"{figure(value / 1000, 'kA')} kA"
    return f"{figure(value, unit)} {unit}".rstrip()
