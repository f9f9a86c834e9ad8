"""What goes with a job from the server to a device that is to work it out by itself."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from mellow_span.answers.given import DRUMS
from mellow_span.core.site.ends import Neutral


@dataclass(slots=True)
class Kit:
    """What a job needs beside its inputs and its log, as its firm has it.

    program: which rules, tables and program the server works by; packs: those over the book of the job, each with its files; prices: the firm's own
    book as CSV, empty for the made-up one; slack: what is cut more, drums: what is bought [m]; neutral: which core of three it is; key: the public
    half of the firm's; currency, vat [%]: as it shows amounts; cells: what it read in each book; copies: what is kept beside the job.
    """

    program: str = ""
    packs: list[dict[str, Any]] = field(default_factory=list)
    prices: str = ""
    slack: dict[str, float] = field(default_factory=dict)
    drums: list[float] = field(default_factory=lambda: list(DRUMS))
    neutral: Neutral = "black"
    currency: str = "£"
    vat: float | None = None
    key: str = ""
    cells: dict[str, list[dict[str, Any]]] = field(default_factory=dict)
    copies: list[dict[str, Any]] = field(default_factory=list)
