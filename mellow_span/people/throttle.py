"""Wrong passwords are counted for a name, an address and the two together, each in its own measure.

Nobody can lock another person out for good: a count reaches back a few minutes only, and a browser in which the person has signed in before is not
held up by what others try under their name.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from math import ceil

from django.db.models import QuerySet
from django.utils import timezone

from mellow_span.people.models import Attempt
from mellow_span.people.tokens import masked

# Within this time so many wrong passwords are taken under one name from one address, from one address, and under one name from strange browsers.
WITHIN = timedelta(minutes=10)
TOGETHER, FROM_ADDRESS, UNDER_NAME = 5, 40, 20


@dataclass(frozen=True, slots=True)
class Held:
    """That another try has to wait. by: name, address or both; seconds: for how long."""

    by: str
    seconds: int


class Throttle:
    """The count for one try. name: as it was typed; known: the browser is one in which this person signed in before."""

    def __init__(self, name: str, address: str, known: bool) -> None:
        self.name, self.address, self.known = masked("name", name.casefold()), masked("address", address), known

    def held(self) -> Held | None:
        """Return what has to be waited for, None where the password may be tried."""
        recent = Attempt.objects.filter(at__gt=timezone.now() - WITHIN)
        counts = [
            ("both", recent.filter(name=self.name, address=self.address), TOGETHER),
            ("address", recent.filter(address=self.address), FROM_ADDRESS),
        ]
        if not self.known:
            counts.append(("name", recent.filter(name=self.name), UNDER_NAME))
        for by, found, most in counts:
            if seconds := _wait(found, most):
                return Held(by, seconds)
        return None

    def wrong(self) -> None:
        """Count a wrong password, and forget those that count no more."""
        Attempt.objects.filter(at__lt=timezone.now() - WITHIN).delete()
        Attempt.objects.create(name=self.name, address=self.address)

    def right(self) -> None:
        """Forget the wrong ones of this person from here."""
        Attempt.objects.filter(name=self.name, address=self.address).delete()


def _wait(found: QuerySet[Attempt], most: int) -> int:
    """Seconds until fewer than `most` count: then the oldest of the last so many is out of reach."""
    last = list(found.order_by("-at").values_list("at", flat=True)[:most])
    if len(last) < most:
        return 0
    return max(1, ceil((last[-1] + WITHIN - timezone.now()).total_seconds()))
