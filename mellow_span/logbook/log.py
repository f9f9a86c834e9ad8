"""Reading and writing the log of the work on site."""

from __future__ import annotations

import base64
import uuid
from collections.abc import Iterable, Sequence
from datetime import datetime, timedelta
from typing import Any

from django.db import transaction
from django.db.models import TextField
from django.db.models.functions import Cast
from django.utils import timezone

from mellow_span.core.cache import Cache
from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.stages import views
from mellow_span.core.model.tree import canonical
from mellow_span.core.site.entries import Entry, plain
from mellow_span.core.site.gone import called
from mellow_span.core.site.isolation import isolation, targets
from mellow_span.core.site.isolation_record import Isolation
from mellow_span.core.site.isolation_steps import packed
from mellow_span.core.site.kinds import FITS, KINDS, NUMBERED, SAYS, checked
from mellow_span.exchange.site_log import MOST, fingerprint
from mellow_span.jobs.models import Job, Member
from mellow_span.jobs.numbering import keep_numbers
from mellow_span.logbook import models
from mellow_span.logbook.pictures import written_anew

# A clock on site that is wrong by less is let be.
APART = timedelta(minutes=2)
# Years that a clock can show at all: those that were never set begin at 1970, and sums of times have to stay times.
SENSE = (1970, 3000)
# A file of readings holds their times to less than this.
SAME = timedelta(milliseconds=2)


def entries(job: Job, *kinds: str) -> list[Entry]:
    """Return the log of a job in the order of its times, of some kinds alone where they are named."""
    rows = job.site_log.all()
    if kinds:
        rows = rows.filter(kind__in=kinds)
    # As text: a moment that Python has to read costs more than the rest of the row.
    rows = rows.annotate(when=Cast("stored", TextField()))
    keys = list(rows.values_list("pk", "when"))
    found = {key: _READ.get(key) for key in keys}
    wanted = [pk for (pk, _), known in found.items() if known is None]
    # Where few are missing they are fetched by name, else all at once.
    for row in rows.filter(pk__in=wanted) if len(wanted) < len(keys) / 2 else rows if wanted else ():
        read = _entry(row)
        found[row.pk, row.when] = read
        _READ.put((row.pk, row.when), read)
    # One that came between the two questions, with no snapshot held, comes the next time.
    return [entry for key in keys if (entry := found[key]) is not None]


# An entry never changes once it is stored: what it holds is read and checked once in a process. Room for the largest log and some more.
_READ: Cache[tuple[uuid.UUID, str], Entry] = Cache(30_000)


def _entry(row: models.Entry) -> Entry:
    data = checked(row.kind, row.data)
    clock = row.clock.isoformat() if row.clock else ""
    return Entry(str(row.pk), row.kind, str(row.subject) if row.subject else "", data, row.at.isoformat(), row.name, row.about, clock)


def write(
    job: Job,
    inputs: Installation,
    member: Member,
    identity: uuid.UUID,
    kind: str,
    subject: uuid.UUID | None,
    data: Any,
    at: datetime,
    sent: datetime | None = None,
) -> Entry:
    """Write an entry down; one that is there already is returned as it is. inputs: the job as it stands.

    sent: what the clock on site showed when it was sent, by which that clock is put right. An entry about a part that was removed meanwhile is kept.
    Raises InputError naming what does not fit: an unknown kind or field, a part the job never had, a time without its zone.
    """
    held = _said(kind, data, at, sent)
    at, clock = _put_right(at, sent)
    known = models.Entry.objects.filter(pk=identity).first()
    if known is not None:
        if known.job_id != job.pk:
            raise InputError("id", str(identity), "an identity that no other entry has")
        return _entry(known)
    again = _again(job, kind, subject, plain(held), at)
    if again is not None:
        return _entry(again)
    about = _part(job, inputs, kind, subject)
    if job.site_log.count() >= MOST:
        raise InputError("id", str(identity), f"at most {MOST} entries in a job")
    with transaction.atomic():
        if kind in FITS:
            # One after the other, so that of two who do the same step one is told.
            Job.objects.select_for_update(of=("self",)).get(pk=job.pk)
            FITS[kind](entries(job, kind), held)
            if isinstance(held, Isolation) and held.step == "begin":
                held_to_plan(inputs, held)
        if kind in NUMBERED:
            keep_numbers(job, inputs, {str(subject)})
        kept, image = plain(held), ""
        if kind == "photo":
            # The picture lies beside its entry, which keeps the fingerprint of it.
            image = written_anew(str(kept["image"]))
            kept["image"] = fingerprint(image)
        row, new = models.Entry.objects.get_or_create(
            pk=identity,
            defaults={
                "job": job,
                "kind": kind,
                "subject": subject,
                "data": kept,
                "at": at,
                "by": member,
                "name": member.name,
                "about": about,
                "clock": clock,
            },
        )
        if new and image:
            models.Picture.objects.create(entry=row, jpeg=base64.b64decode(image.partition(",")[2]))
    return _entry(row)


def numbered(job: Job, inputs: Installation, entries: Iterable[tuple[str, uuid.UUID | None]]) -> Installation:
    """Keep the numbers of all that several entries, given by kind and part, are about at once; return the job as it stands with them."""
    return keep_numbers(job, inputs, {str(subject) for kind, subject in entries if kind in NUMBERED and subject})


def _said(kind: str, data: Any, at: datetime, sent: datetime | None) -> Any:
    """Return what an entry holds, once it says enough, and at a time that can be. Raises InputError."""
    held = checked(kind, data)
    if kind in SAYS:
        SAYS[kind](held)
    for name, moment in (("at", at), ("sent", sent)):
        if moment is not None and (moment.tzinfo is None or not SENSE[0] <= moment.year < SENSE[1]):
            raise InputError(name, moment.isoformat(), f"a time of the years {SENSE[0]} to {SENSE[1]}, with its time zone")
    return held


def held_to_plan(inputs: Installation, given: Isolation) -> None:
    """Raise InputError where a record would begin by other steps than those of the plan of the job as it stands, at whichever of its
    stages: the plan is made here alone."""
    there = [now for now in views(inputs) if any(t.kind == given.kind and t.id == given.id for t in targets(now))] or [inputs]
    plans = [isolation(now, given.kind, given.id) for now in there]
    asked = (given.title, given.steps, given.release)
    if asked not in [(plan.title, tuple(map(packed, plan.steps)), tuple(map(packed, plan.release))) for plan in plans]:
        allowed = "the steps of the plan as the job stands now: open the place again, and begin by that plan"
        raise InputError("data.steps", f"{len(given.steps)} steps of another plan", allowed)


def _again(job: Job, kind: str, subject: uuid.UUID | None, held: dict[str, Any], at: datetime) -> models.Entry | None:
    """The reading that is there already with the same figures and the same moment: a file of readings that came from here and comes back."""
    if kind not in ("reading", "board_reading"):
        return None
    near = job.site_log.filter(kind=kind, subject=subject, at__gte=at - SAME, at__lte=at + SAME)
    told = [name for name in held if name not in ("note", "photo")]
    return next((row for row in near if all(plain(checked(kind, row.data))[name] == held[name] for name in told)), None)


def _put_right(at: datetime, sent: datetime | None) -> tuple[datetime, datetime | None]:
    """When something was done by our clock, and what the clock on site showed where the two part by more than a little; never in the future."""
    now = timezone.now()
    apart = now - sent if sent is not None else timedelta(0)
    right = at + apart if abs(apart) > APART else at
    right = min(right, now)
    return right, at if abs(right - at) > APART else None


def _part(job: Job, inputs: Installation, kind: str, subject: uuid.UUID | None) -> str:
    """Return what the part is called that an entry is about. Raises InputError for one the job never had, and for one where it is about the job."""
    about = KINDS[kind][1]
    if about == "job" and subject is not None:
        raise InputError("subject", str(subject), "nothing: it is about the whole job")
    if subject is None and about in ("job", "any"):
        return ""
    parts = {"circuit": inputs.circuits, "board": inputs.boards, "route": inputs.routes}
    allowed = parts.values() if about == "any" else [parts[about]]
    if subject is not None and str(subject) in {p.id for each in allowed for p in each}:  # type: ignore[attr-defined]
        return called(inputs, str(subject))[:240]
    removed = None if subject is None else _removed(job, str(subject), about)
    if removed is None:
        raise InputError("subject", str(subject) if subject else None, f"a {'part' if about == 'any' else about} of this job")
    return removed[:240]


def _removed(job: Job, subject: str, about: str) -> str | None:
    """What a part was called that an edit of this job removed; None for one that none did."""
    for edit in job.edits.filter(changes__contains=[{"op": "remove", "id": subject}]):
        for one in edit.changes:
            if (one["op"], one["id"]) == ("remove", subject) and (about == "any" or one["kind"] == about):
                return str(one["name"] or f"a {one['kind']}")
    return None


def bring_in(job: Job, old: Installation, new: Installation, found: Sequence[Entry], name: str = "") -> int:
    """Write the log of a file into that of the job made from it; return how many entries. old, new: the job of the file and as it is stored;
    name: who brought it, for entries that do not say who made them.

    Parts and entries have new identities here, and what names them follows. Pictures are not in a file: their entries stay behind.
    """
    named = _renamed(canonical(old), new) | {"entry": {e.id: str(uuid.uuid5(job.pk, f"entry {e.id}")) for e in found}}
    every = {k: v for each in ("circuit", "board", "route") for k, v in named[each].items()}

    def lies(e: Entry) -> str | None:
        """The part by its identity here; one that is not in the design any more has one made of what it had."""
        if not e.subject:
            return None
        return named.get(KINDS[e.kind][1], every).get(e.subject) or str(uuid.uuid5(job.pk, f"part {e.subject}"))

    rows = [
        models.Entry(
            id=named["entry"][e.id], job=job, kind=e.kind, subject=lies(e), data=_following(e, named), at=e.at, name=(e.by or name)[:120],
            about=(called(old, e.subject) or e.about)[:240] if e.subject else "", clock=e.clock or None,
        )
        for e in found if e.kind != "photo"
    ]  # fmt: skip
    models.Entry.objects.bulk_create(rows)
    # A file from before numbers stayed says none.
    keep_numbers(job, new, {str(row.subject) for row in rows if row.kind in NUMBERED and row.subject})
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
