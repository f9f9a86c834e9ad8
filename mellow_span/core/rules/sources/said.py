"""What is found of sources one by one, told together: the worst rules, and all that holds it back is named."""

from __future__ import annotations

from collections.abc import Sequence

from mellow_span.core.findings.results import Outcome, Verdict, worst

# A verdict, its words, its clause, and the field that would decide.
Said = tuple[Verdict, str, str, str | None]
GRAVEST = ("short", "not_known", "close")


def together(said: Sequence[Said], value: float, limit: float | None, unit: str) -> Outcome:
    """Return the worst of what was found, with a value and a limit [unit]; where nothing holds it back, all that was found."""
    wrong = sorted((one for one in said if one[0] != "meets"), key=lambda one: GRAVEST.index(one[0]))
    text = "; ".join(dict.fromkeys(words for _, words, _, _ in wrong or said))
    _, _, clause, field = (wrong or said)[0]
    return Outcome(value, limit, unit, None, text, verdict=worst([one[0] for one in said]), clause=clause, field=field)
