"""What a question is asked of: a job with its log, and what its firm goes by."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Protocol

from mellow_span.core.design.prices import PriceBook
from mellow_span.core.model.parts import Installation
from mellow_span.core.site.ends import Neutral
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.pulls import Slack

# Lengths in which cable is mostly sold [m].
DRUMS = (25.0, 50.0, 100.0)


@dataclass(frozen=True, slots=True)
class SiteWays:
    """What a firm goes by on site: what it cuts more, which drums it buys [m], which core of three is the neutral."""

    slack: Slack
    drums: list[float]
    neutral: Neutral


@dataclass(frozen=True, slots=True)
class Kept:
    """A copy of a job that is kept beside it: its changes as plain data, by whom and when."""

    id: str
    name: str
    changes: tuple[dict[str, Any], ...]
    by: str
    at: datetime | None


class Given(Protocol):
    """A job, its log and its firm. What costs a look at a database is asked for when it is wanted."""

    @property
    def inputs(self) -> Installation:
        """The job as it stands, its routes still apart."""

    @property
    def whole(self) -> Installation:
        """The job at all its stages, where `inputs` is it at one of them; else the same."""

    def at(self, inputs: Installation) -> Given:
        """Return the same, seen as the job stands at one of its stages."""

    @property
    def version(self) -> int:
        """The version it stands at."""

    def entries(self, *kinds: str) -> Sequence[Entry]:
        """Return its log in the order of times, of some kinds alone where they are named."""

    @property
    def ways(self) -> SiteWays:
        """What the firm goes by on site."""

    @property
    def book(self) -> PriceBook:
        """The prices of the firm for this job."""

    @property
    def own_prices(self) -> bool:
        """Whether these are the firm's own."""

    @property
    def copies(self) -> Sequence[Kept]:
        """What is kept beside the job."""

    @property
    def settled(self) -> Callable[[Installation], Installation]:
        """Gives the job under another book what belongs to that one."""
