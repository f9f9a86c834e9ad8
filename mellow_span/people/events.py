"""What happened in a firm that is kept: sign-ins, exports, deletions, members, links, signatures."""

from __future__ import annotations

from datetime import timedelta
from typing import Literal

from django.utils import timezone

from mellow_span.jobs.models import Firm, Member
from mellow_span.people.models import Event

# It is kept for so long, and thrown away now and then.
KEPT = timedelta(days=730)
Kind = Literal[
    "signed_in", "refused", "signed_out", "exported", "deleted", "brought_back", "imported", "invited", "joined", "left", "removed", "role",
    "handed_over", "link_made", "link_ended", "password", "second_on", "second_off", "device_ended", "renamed", "issued", "signed",
    "way_back", "came_back",
]  # fmt: skip
TOLD: dict[str, str] = {
    "signed_in": "signed in", "refused": "a wrong password", "signed_out": "signed out", "exported": "saved as a file", "deleted": "deleted",
    "brought_back": "brought back", "imported": "opened from a file", "invited": "invited", "joined": "joined", "left": "left", "removed": "removed",
    "role": "another role", "handed_over": "handed over", "link_made": "made a link for", "link_ended": "cancelled a link for",
    "password": "changed the password", "second_on": "turned the second step on", "second_off": "turned two-step sign-in off",
    "device_ended": "signed a device out", "renamed": "renamed the firm", "issued": "issued", "signed": "signed",
    "way_back": "made a new sign-in link for", "came_back": "set a new password by a link",
}  # fmt: skip


def note(member: Member, kind: Kind, about: str = "") -> None:
    """Keep what a member did."""
    Event.objects.create(firm_id=member.firm_id, member=member, kind=kind, about=about[:200])


def note_all(members: list[Member], kind: Kind, about: str = "") -> None:
    """Keep what happened to a person in each of their firms."""
    Event.objects.bulk_create(Event(firm_id=m.firm_id, member=m, kind=kind, about=about[:200]) for m in members)


def of_firm(firm: Firm, before: int | None, most: int) -> list[Event]:
    """Return what happened, newest first; before: only older than this one."""
    Event.objects.filter(firm=firm, at__lt=timezone.now() - KEPT).delete()
    rows = Event.objects.filter(firm=firm).select_related("member")
    return list((rows.filter(pk__lt=before) if before else rows)[:most])
