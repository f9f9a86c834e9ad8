"""What is told while something is worked out apart: how far it is, and how many are before it."""

from __future__ import annotations

from ninja import Schema


class Searching(Schema):
    """A search that goes on: how far it is (0 to 1), and how many are before it. Ask again for its answer; where nobody asks it is given up."""

    share: float
    before: int
