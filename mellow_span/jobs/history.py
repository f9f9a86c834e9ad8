"""The history of a job: what others did since a version, what a person did last, and what the job was at an earlier version."""

from __future__ import annotations

from collections.abc import Sequence

from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.model.changes import Applied, Change, forward, from_data, invert, replay
from mellow_span.core.model.difference import difference
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.rebase import Clash
from mellow_span.jobs import models

# As far as a version can be rebuilt in one go.
MOST_BACK = 5000


def since(job: models.Job, base: int, seen: frozenset[int] = frozenset()) -> tuple[tuple[Applied, ...], Sequence[models.Edit]]:
    """Return what was applied after a version, apart from the versions `seen`, and beside each piece the edit it belongs to."""
    if base >= job.version:
        return (), ()
    applied: list[Applied] = []
    rows: list[models.Edit] = []
    for edit in job.edits.filter(version__gt=base).exclude(version__in=seen).select_related("member").order_by("version"):
        if not edit.playable:
            raise InputError("version", base, f"{edit.version} or later: what was changed before cannot be merged any more")
        made = from_data(edit.changes)
        applied += made
        rows += [edit] * len(made)
    return tuple(applied), rows


def last_of(job: models.Job, member: models.Member, again: bool) -> models.Edit:
    """Return the person's last edit that stands, or with `again` the last one they took back and did not do anything after.

    Raises InputError where there is none.
    """
    undone: set[object] = set()
    for edit in job.edits.filter(member=member).only("id", "version", "undoes", "playable").order_by("-version").iterator(100):
        if edit.undoes_id is None:
            if again:
                break
            if edit.pk not in undone and edit.playable:
                return models.Edit.objects.get(pk=edit.pk)
            continue
        if edit.pk in undone:
            # Taken back itself: what it took back stands again.
            continue
        undone.add(edit.undoes_id)
        took_back = models.Edit.objects.filter(pk=edit.undoes_id, undoes=None).exists()
        if again and took_back:
            return models.Edit.objects.get(pk=edit.pk)
    raise InputError("redo" if again else "undo", "nothing", "an edit of yours that was taken back" if again else "an edit of yours")


def backwards(job: models.Job, now: Installation, target: models.Edit) -> tuple[tuple[Change, ...], tuple[Applied, ...]]:
    """Return the changes that take an edit back, and what has changed since it was made, with what cancelled itself left out."""
    after = at_version(job, now, target.version)
    changes = tuple(forward(one) for one in invert(from_data(target.changes)))
    return changes, difference(after, now)


def at_version(job: models.Job, now: Installation, version: int) -> Installation:
    """Return the job as it was at a version, by playing its history backwards. Raises InputError where the history does not reach."""
    if not 1 <= version <= job.version:
        raise InputError("version", version, f"1 to {job.version}")
    rows = list(job.edits.filter(version__gt=version).order_by("-version")[: MOST_BACK + 1])
    if len(rows) != job.version - version or len(rows) > MOST_BACK or not all(row.playable for row in rows):
        raise InputError("version", version, "a version that the history still reaches")
    value = now
    for row in rows:
        try:
            value = replay(value, invert(from_data(row.changes)))
        except CoreError as error:
            raise InputError("version", version, f"a version that the history still reaches: {error}") from None
    return value


def author(job: models.Job, target: models.Edit, clash: Clash) -> models.Edit | None:
    """Return the last edit after `target` that touched the part of a clash, to say whose it is."""
    for edit in job.edits.filter(version__gt=target.version).select_related("member").order_by("-version"):
        if any(row["id"] == clash.id for row in edit.changes):
            return edit
    return None
