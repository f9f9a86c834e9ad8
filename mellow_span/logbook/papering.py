"""What a paper is made from, taken out of the database: a job as it stands or one of its revisions, its log, what the firm goes by."""

from __future__ import annotations

from dataclasses import replace

from django.utils import timezone

from mellow_span.core.model.parts import Installation
from mellow_span.exchange.document import read
from mellow_span.exchange.site_log import entries_read
from mellow_span.jobs.books import books_of, settling
from mellow_span.jobs.models import Job
from mellow_span.logbook import issues, log
from mellow_span.logbook.keys import public_key
from mellow_span.logbook.marks import mark_of
from mellow_span.logbook.money import money_of
from mellow_span.logbook.prices import prices_for
from mellow_span.logbook.rules import site_rules, slack_of
from mellow_span.papers.subject import Subject, day


def subject_of(job: Job, inputs: Installation, revision: int = 0) -> Subject:
    """Return what the papers of a job are made from. inputs: as it stands; revision: one that was issued in its place, 0 for none. Raises NotYours."""
    rules, printed = site_rules(job.firm), day(timezone.now().isoformat())
    money = money_of(job.firm_id)
    now = Subject(
        inputs,
        tuple(log.entries(job)),
        slack=slack_of(rules),
        drums=tuple(rules.drums),
        book=prices_for(job.firm_id, inputs),
        printed=f"{printed} UTC",
        key=public_key(job.firm_id),
        currency=money.currency,
        vat=money.vat,
        settled=settling(job.firm_id, inputs),
        books=books_of(job.firm_id),
    )
    if not revision:
        return now
    document = issues.document_of(issues.one(job, revision))
    then = read(document["job"])
    return replace(
        now, job=then, entries=entries_read(document["site"]), number=revision, document=document, settled=settling(job.firm_id, then)
    )  # fmt: skip


def paper_stamp(job: Job, paper: str, revision: int) -> str:
    """Return what a paper depends on beside the version of the job, as a mark that changes with it."""
    return f"{paper}:{revision}:{mark_of(job)}"
