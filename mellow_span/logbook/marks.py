"""What the views of a job depend on beside its version, as a mark that changes with it."""

from __future__ import annotations

import hashlib

from django.db.models import Count, Max, TextField
from django.db.models.functions import Cast

from mellow_span.jobs.cells import stamp_of_cells
from mellow_span.jobs.models import Job
from mellow_span.logbook.keys import public_key
from mellow_span.logbook.money import money_of
from mellow_span.logbook.prices import stamp_of
from mellow_span.logbook.rules import site_rules, slack_of


def mark_of(job: Job) -> str:
    """Return the mark of all that is stored about a job beside its version, and of what its firm goes by."""
    rules, money = site_rules(job.firm), money_of(job.firm_id)
    log = job.site_log.order_by().aggregate(count=Count("pk"), newest=Cast(Max("stored"), TextField()))
    issued = job.issues.order_by().aggregate(count=Count("pk"), signed=Count("signature"))
    kept = job.copies.order_by().aggregate(count=Count("pk"), newest=Cast(Max("at"), TextField()))
    firm = (
        stamp_of(job.firm_id),
        slack_of(rules),
        rules.drums,
        rules.neutral,
        money.currency,
        money.vat,
        public_key(job.firm_id),
        stamp_of_cells(job.firm_id),
    )
    return hashlib.sha256(repr((job.numbered, job.archived, log, issued, kept, firm)).encode()).hexdigest()[:40]
