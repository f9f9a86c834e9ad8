"""Pinned: today's figures of many jobs, questions and fields. It verifies nothing; it notices what changed unawares (tests/pinned.py)."""

from __future__ import annotations

import pytest

from tests.pinned import asked, kept, questions

KEPT = kept()


@pytest.mark.parametrize("name", list(questions()))
def test_no_figure_changes_unawares(name: str) -> None:
    now, before = asked(name), KEPT[name]
    assert not [case for case in now if now[case] != before.get(case)], "meant? python -m tests.pinned"
    assert now.keys() == before.keys()
