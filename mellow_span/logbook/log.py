"""Reading and writing the log of the work on site."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
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
from mellow_span.exchange.site_log import MOST
from mellow_span.jobs.models import Job, Member
from mellow_span.logbook import models

# A clock on site may be wrong by so much.
AHEAD = timedelta(minutes=10)


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
        raise InputError("at", at.isoformat(), "a time not in the future, with its time zone")
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


def bring_in(job: Job, old: Installation, new: Installation, found: Sequence[Entry]) -> int:
    """Write the log of a file into that of the job made from it; return how many entries. old, new: the job of the file and as it is stored.

    Parts and entries have new identities here, and what names them follows. Pictures are not in a file: their entries stay behind.
    """
    named = _renamed(canonical(old), new) | {"entry": {e.id: str(uuid.uuid5(job.pk, f"entry {e.id}")) for e in found}}
    rows = [
        models.Entry(
            id=named["entry"][e.id], job=job, kind=e.kind, subject=named[KINDS[e.kind][1]][e.subject] if e.subject else None,
            data=_following(e, named), at=e.at, name=e.by[:120],
        )
        for e in found if e.kind != "photo"
    ]  # fmt: skip
    models.Entry.objects.bulk_create(rows)
    return len(rows)


def _renamed(old: Installation, new: Installation) -> dict[str, dict[str, str]]:
    """The new identity of each part by its old one, kind by kind: a circuit and a board of a file may have the same."""
    kinds: dict[str, tuple[Sequence[Any], Sequence[Any]]] = {
        "circuit": (old.circuits, new.circuits), "board": (old.boards, new.boards), "route": (old.routes, new.routes),
    }  # fmt: skip
    return {kind: {a.id: b.id for a, b in zip(*parts, strict=True)} for kind, parts in kinds.items()}


def _following(e: Entry, named: dict[str, dict[str, str]]) -> dict[str, Any]:
    """What an entry holds, with the parts and entries it names by their new identities."""
    data = plain(e.data)
    if "photo" in data:
        data["photo"] = ""
    if e.kind == "isolation":
        # A room goes by its name.
        data["id"] = named.get(data["kind"], {}).get(data["id"], data["id"])
    if "key" in data and e.kind in ("graded", "observed"):
        # An observation goes by its circuit or board and what found it, or by the entry of who saw it.
        head, slash, rest = data["key"].partition("/")
        fresh = next((by[head] for by in (named["circuit"], named["board"], named["entry"]) if head in by), head)
        data["key"] = f"{fresh}{slash}{rest}"
    return data
