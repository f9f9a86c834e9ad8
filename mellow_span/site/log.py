"""Reading and writing the log of the work on site."""

from __future__ import annotations

import uuid
from collections.abc import Iterable
from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.tree import canonical
from mellow_span.core.site.earlier import earlier
from mellow_span.core.site.entries import Entry, plain
from mellow_span.core.site.kinds import FITS, KINDS, checked
from mellow_span.jobs.models import Job, Member
from mellow_span.site import models

# A clock on site may be wrong by so much.
AHEAD = timedelta(minutes=10)
MOST = 20_000


def entries(job: Job, *kinds: str) -> list[Entry]:
    """Return the log of a job in the order of its times, of some kinds alone where they are named."""
    rows = job.site_log.all()
    if kinds:
        rows = rows.filter(kind__in=kinds)
    return [_entry(row) for row in rows]


def _entry(row: models.Entry) -> Entry:
    data = checked(row.kind, row.data)
    return Entry(str(row.pk), row.kind, str(row.subject) if row.subject else "", data, row.at.isoformat(), row.name)


def write(
    job: Job, inputs: Installation, member: Member, identity: uuid.UUID, kind: str, subject: uuid.UUID | None, data: Any, at: datetime
) -> Entry:
    """Write an entry down; one that is there already is returned as it is. inputs: the job as it stands.

    Raises InputError naming what does not fit: an unknown kind or field, a part the job does not have, a time that cannot be.
    """
    held = checked(kind, data)
    known = models.Entry.objects.filter(pk=identity).first()
    if known is not None:
        if known.job_id != job.pk:
            raise InputError("id", str(identity), "an identity that no other entry has")
        return _entry(known)
    _part(inputs, kind, subject)
    if at.tzinfo is None or at > timezone.now() + AHEAD:
        raise InputError("at", at.isoformat(), "a time that is not yet to come, with its zone")
    if job.site_log.count() >= MOST:
        raise InputError("id", str(identity), f"at most {MOST} entries in a job")
    with transaction.atomic():
        if kind in FITS:
            # One after the other, so that of two who do the same step one is told.
            Job.objects.select_for_update(of=("self",)).get(pk=job.pk)
            FITS[kind](entries(job, kind), held)
        row, _ = models.Entry.objects.get_or_create(
            pk=identity,
            defaults={"job": job, "kind": kind, "subject": subject, "data": plain(held), "at": at, "by": member, "name": member.name},
        )
    return _entry(row)


def _part(inputs: Installation, kind: str, subject: uuid.UUID | None) -> None:
    """Raise InputError for a part that the job does not have, and for one where the kind is about the whole job."""
    about = KINDS[kind][1]
    parts = {"circuit": inputs.circuits, "board": inputs.boards, "route": inputs.routes}
    if about == "job" and subject is not None:
        raise InputError("subject", str(subject), "nothing: it is about the whole job")
    if about == "job" or (about == "any" and subject is None):
        return
    allowed = parts.values() if about == "any" else [parts[about]]
    if subject is None or str(subject) not in {p.id for each in allowed for p in each}:  # type: ignore[attr-defined]
        raise InputError("subject", str(subject) if subject else None, f"a {'part' if about == 'any' else about} of this job")


def take_over(job: Job, inputs: Installation, by: Member | None, name: str) -> int:
    """Write readings that a design holds in itself into its log, once; return how many. name: of who brought them."""
    now = timezone.now()
    rows = [
        models.Entry(
            id=uuid.uuid5(job.pk, f"{circuit.id} {data['quantity']}"), job=job, kind="reading", subject=uuid.UUID(circuit.id),
            data=plain(checked("reading", data)), at=now, by=by, name=name,
        )
        for circuit in inputs.circuits
        for data in earlier(asdict(circuit.readings))
    ]  # fmt: skip
    models.Entry.objects.bulk_create(rows, ignore_conflicts=True)
    return len(rows)


# Fields of an entry that name a part of the job, alone or before what is looked at in it.
NAMING = ("id", "key")


def bring_in(job: Job, old: Installation, new: Installation, found: Iterable[Entry]) -> int:
    """Write the log of a file into that of the job made from it; return how many entries. old, new: the job of the file and as it is stored.

    Parts and entries have new identities here, and what names them follows. Pictures are not in a file: their entries stay behind.
    """
    old = canonical(old)
    pairs = [
        *zip(old.circuits, new.circuits, strict=True),
        *zip(old.boards, new.boards, strict=True),
        *zip(old.routes, new.routes, strict=True),
    ]
    named = {a.id: b.id for a, b in pairs}  # type: ignore[attr-defined]
    rows = []
    for e in found:
        if e.kind == "photo":
            continue
        data = {**plain(e.data), **({"photo": ""} if hasattr(e.data, "photo") else {})}
        for name in NAMING:
            head, slash, rest = str(data.get(name, "")).partition("/")
            if head in named:
                data[name] = f"{named[head]}{slash}{rest}"
        subject = uuid.UUID(named[e.subject]) if e.subject else None
        rows.append(
            models.Entry(id=uuid.uuid5(job.pk, f"entry {e.id}"), job=job, kind=e.kind, subject=subject, data=data, at=e.at, name=e.by[:120])
        )
    models.Entry.objects.bulk_create(rows)
    return len(rows)
