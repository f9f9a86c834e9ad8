"""A paper as PDF, with word of how far it is: the only place where the layout engine is met, and it fetches nothing from anywhere."""

from __future__ import annotations

import atexit
import logging
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

from mellow_span.core.adding import added
from mellow_span.core.design.effort import StoppedError
from mellow_span.papers.html import html
from mellow_span.papers.page import Paper

HERE = Path(__file__).parent
# So many rows fill a page, roughly: how far it is is told by them.
ROWS = 26


class _Told(logging.Handler):
    """Turns the engine's word on each page into a share of the pages seen to lie ahead."""

    def __init__(self, ahead: int, go_on: Callable[[float], bool]) -> None:
        super().__init__()
        self.ahead, self.go_on, self.pages = ahead, go_on, 0

    def emit(self, record: logging.LogRecord) -> None:
        if "Page" in record.getMessage():
            self.pages += 1
        if not self.go_on(min(0.95, self.pages / self.ahead)):
            raise StoppedError


def _local(url: str, *_: Any, **__: Any) -> Any:
    """Fetch what a page asks for: the type beside this file, and nothing else."""
    raise ValueError(f"a page may not fetch {url[:60]}")


@cache
def _style() -> Any:
    from weasyprint import CSS
    from weasyprint.text.fonts import FontConfiguration

    fonts = FontConfiguration()
    return CSS(filename=str(HERE / "style.css"), font_config=fonts), fonts


# The type is let go while the engine is still there.
atexit.register(_style.cache_clear)


def pdf(paper: Paper, go_on: Callable[[float], bool] = lambda share: True) -> bytes:
    """Return a paper as a PDF file. go_on: told how far it is (0 to 1), says whether anybody still waits; raises StoppedError where nobody does."""
    from weasyprint import HTML

    style, fonts = _style()
    told = _Told(max(1, added(1 for _ in paper.cells()) // (ROWS * 6)), go_on)
    progress = logging.getLogger("weasyprint.progress")
    before = progress.level
    progress.setLevel(logging.INFO)
    # It is told here, and is no matter of the log.
    progress.propagate = False
    progress.addHandler(told)
    try:
        found: bytes = HTML(string=html(paper), url_fetcher=_local).write_pdf(stylesheets=[style], font_config=fonts)
        return found
    finally:
        progress.removeHandler(told)
        progress.setLevel(before)
        progress.propagate = True
