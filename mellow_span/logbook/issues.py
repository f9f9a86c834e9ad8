"""Issuing a design: a frozen, numbered document; signing it; what lies between two of them."""

from __future__ import annotations

import json
from typing import Any
from uuid import UUID

from django.utils import timezone

from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.exchange.document import read
from mellow_span.exchange.issue import before_of, issued, signature_of
from mellow_span.jobs.models import Job, Member
from mellow_span.jobs.numbering import keep_numbers
from mellow_span.jobs.ownership import NotYours
from mellow_span.logbook import log
from mellow_span.logbook.keys import key_of, sealing
from mellow_span.logbook.models import Issue

MOST = 200


def issue(job: Job, inputs: Installation, member: Member, version: int, note: str) -> Issue:
    """Issue a job as it stands. job: locked; version: the one the person saw. Raises InputError where there is another by now, or nothing is new."""
    if version != job.version:
        raise InputError("version", version, f"{job.version}, the version as it stands: review what changed first")
    if not inputs.circuits:
        raise InputError("circuits", "none", "at least one circuit")
    last = job.issues.first()
    entries = log.entries(job)
    before, key = document_of(last) if last else None, key_of(job.firm)
    # What was sealed by no key, or by one that is not here any more, cannot be signed: then it may be issued anew as it is.
    if (
        before is not None
        and last is not None
        and (last.version, len(before["site"]), before.get("key")) == (version, len(entries), key.public)
    ):
        raise InputError("version", version, f"a change since revision {last.number}")
    if job.issues.count() >= MOST:
        raise InputError("issues", MOST + 1, f"at most {MOST} revisions")
    inputs = keep_numbers(job, inputs, {b.id for b in inputs.boards} | {c.id for c in inputs.circuits})
    now, number = timezone.now(), last.number + 1 if last else 1
    document = issued(
        inputs, number, now.isoformat(timespec="seconds"), member.name, note, entries, job.firm.name, key.public,
        before_of(before),
    )  # fmt: skip
    document["seal"] = sealing(key, document["hash"])
    text = json.dumps(document, ensure_ascii=False, allow_nan=False)
    return Issue.objects.create(
        job=job, number=number, version=version, note=note, document=text, hash=document["hash"], at=now, by=member, name=member.name
    )


def one(job: Job, number: int) -> Issue:
    """Return a revision of a job. Raises NotYours."""
    found = job.issues.filter(number=number).first()
    if found is None:
        raise NotYours("revision")
    return found


def document_of(row: Issue) -> dict[str, Any]:
    """Return the document of a revision with its signature, where it has one."""
    document: dict[str, Any] = json.loads(row.document)
    return {**document, "signature": row.signature} if row.signature else document


def job_of_issue(row: Issue) -> Installation:
    """Return the job as it was issued."""
    return read(json.loads(row.document)["job"])


def sign(row: Issue, member: Member, given: str, seen: list[UUID], exceptions: str) -> Issue:
    """Sign a revision. row: locked; given: the hash the person saw; seen: circuits whose working they read; exceptions: what they accept.

    Raises InputError: where it is signed already, another one was meant, a working was not read, or something does not meet and nothing is said of it.
    """
    if row.signature:
        raise InputError("number", row.number, "a revision that is not signed yet")
    if given != row.hash:
        raise InputError("hash", given[:16], "the hash of this revision")
    circuits = json.loads(row.document)["results"]["circuits"]
    unread = [c["id"] for c in circuits if c["id"] not in {str(i) for i in seen}]
    if unread:
        raise InputError("read", len(circuits) - len(unread), f"the working of all {len(circuits)} circuits, read")
    failing = [c for c in circuits if c["verdict"] in ("short", "not_known")]
    if failing and not exceptions.strip():
        raise InputError("exceptions", "", f"why the {len(failing)} circuits that fail or are not known are accepted")
    document = json.loads(row.document)
    signature = signature_of(document, member.name, timezone.now().isoformat(timespec="seconds"), exceptions.strip())
    key = key_of(member.firm)
    if document.get("key") != key.public:
        raise InputError("hash", given[:16], "a revision sealed by the key that the firm has now: issue it anew")
    row.signature = {**signature, "seal": sealing(key, signature["hash"])}
    row.save(update_fields=["signature"])
    return row
