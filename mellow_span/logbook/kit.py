"""What goes with a job to a device that works it out by itself, taken out of the database."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any, cast

from mellow_span.answers.kit import Kit
from mellow_span.core.rulesets import available
from mellow_span.core.site.ends import Neutral
from mellow_span.exchange.program import fingerprint
from mellow_span.jobs.cells import cells_of_firm
from mellow_span.jobs.models import Job
from mellow_span.jobs.reads import installation
from mellow_span.logbook.keys import public_key
from mellow_span.logbook.money import money_of
from mellow_span.logbook.prices import text_of
from mellow_span.logbook.rules import site_rules, slack_of


def kit_of(job: Job) -> Kit:
    """Return what goes with a job."""
    rules, money = site_rules(job.firm), money_of(job.firm_id)
    copies = [
        {"id": str(c.pk), "name": c.name, "changes": c.changes, "by": c.member.name if c.member else "", "at": c.at.isoformat()}
        for c in job.copies.select_related("member")
    ]
    cells: dict[str, list[dict[str, Any]]] = {book: [asdict(c) for c in cells_of_firm(job.firm_id, book)] for book in available()}
    return Kit(
        fingerprint(), [asdict(pack) for pack in installation(job).packs], text_of(job.firm_id), asdict(slack_of(rules)), list(rules.drums),
        cast(Neutral, rules.neutral), money.currency, money.vat, public_key(job.firm_id), cells, copies,
    )  # fmt: skip
