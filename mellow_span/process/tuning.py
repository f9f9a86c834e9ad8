"""How a process that answers many requests is set up."""

from __future__ import annotations

import gc


def collect_seldom() -> None:
    """Collect garbage seldom, and leave what is loaded now out of it: an answer makes thousands of small short-lived objects."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)
