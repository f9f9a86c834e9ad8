"""Members of a firm: invited by a one-time link, given another role, removed; a firm always keeps a supervisor."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from mellow_span.core.errors import InputError
from mellow_span.jobs.models import Firm, Member
from mellow_span.jobs.ownership import NotYours
from mellow_span.people import second
from mellow_span.people.events import note
from mellow_span.people.models import Invitation
from mellow_span.people.sessions import devices_of, end
from mellow_span.people.tokens import kept, new_token

LASTS = timedelta(days=7)
MOST_MEMBERS = 200


def invite(by: Member, name: str, role: str) -> tuple[Invitation, str]:
    """Return a new invitation with the token of its link, which is shown once."""
    firm = by.firm
    if firm.members.filter(left__isnull=True).count() + firm.invitations.filter(used__isnull=True).count() >= MOST_MEMBERS:
        raise InputError("members", MOST_MEMBERS, f"at most {MOST_MEMBERS} members and invitations")
    token, hashed = new_token()
    made = Invitation.objects.create(firm=firm, token=hashed, name=name, role=role, by=by, ends=timezone.now() + LASTS)
    note(by, "invited", f"{name}, as {role}")
    return made, token


def way_back(by: Member | None, member: Member) -> tuple[Invitation, str]:
    """Return a link by which somebody who is or was in a firm sets a new password, with its token; an earlier one opens nothing any more.

    by: the supervisor who makes it, None where it is whoever runs the server. Raises InputError for oneself, and for a person of another firm, into
    which it would let this one's supervisor.
    """
    if by is not None and by.pk == member.pk:
        raise InputError("member", member.name, "somebody else; your own password is changed under your name")
    _in_no_other(member)
    Invitation.objects.filter(member=member, used__isnull=True).delete()
    token, hashed = new_token()
    made = Invitation.objects.create(
        firm=member.firm, token=hashed, name=member.name, role=member.role, member=member, by=by, ends=timezone.now() + LASTS
    )
    note(by or member, "way_back", member.name)
    return made, token


def _in_no_other(member: Member) -> None:
    if Member.objects.filter(user=member.user, left__isnull=True).exclude(firm=member.firm).exists():
        allowed = "a person of no other firm: invite them as somebody new, and they sign in as they do there"
        raise InputError("member", member.name, allowed)


@transaction.atomic
def come_back(token: str, password: str) -> Member:
    """Give the person of a way back a new password, and let them in again; every device is signed out, and two-step sign-in is off.

    Raises NotYours, InputError.
    """
    one = open_invitation(token, lock=True)
    member = one.member
    if member is None:
        raise NotYours("invitation")
    _in_no_other(member)
    user = member.user
    check_password(password, user)
    user.set_password(password)
    user.save(update_fields=["password"])
    second.end(user)
    end(devices_of(user))
    Member.objects.filter(pk=member.pk).update(left=None, role=one.role)
    Invitation.objects.filter(pk=one.pk).update(used=timezone.now())
    note(member, "came_back")
    return member


def open_invitation(token: str, lock: bool = False) -> Invitation:
    """Return the invitation of a link that can still be used. Raises NotYours."""
    found = Invitation.objects.select_related("firm", "member__user").filter(token=kept(token), used__isnull=True, ends__gt=timezone.now())
    one = (found.select_for_update(of=("self",)) if lock else found).first()
    if one is None:
        raise NotYours("invitation")
    return one


@transaction.atomic
def join(token: str, user: Any) -> Member:
    """Take a person into the firm that invited them; the link is used up. Raises NotYours, InputError."""
    one = open_invitation(token, lock=True)
    known = Member.objects.filter(user=user, firm=one.firm).first()
    if known is not None and known.left is None:
        raise InputError("firm", one.firm.name, "a firm you are not in yet")
    if known is not None:
        known.left, known.role = None, one.role
        known.save(update_fields=["left", "role"])
        member = known
    else:
        member = Member.objects.create(user=user, firm=one.firm, name=one.name, role=one.role)
    one.used = timezone.now()
    one.save(update_fields=["used"])
    note(member, "joined", f"as {one.role}")
    return member


def person_called(username: str) -> Any:
    """Return who signs in by a name, whatever its case; None where nobody does."""
    name = username.strip()
    return None if "\x00" in name else get_user_model().objects.filter(username__iexact=name).first()


@transaction.atomic
def add_person(username: str, password: str) -> Any:
    """Return a new person who can sign in. Raises InputError for a name that is taken, whatever its case, or too weak a password."""
    model = get_user_model()
    name = username.strip()
    if not name or "\x00" in name:
        raise InputError("username", username, "a name")
    if person_called(name) is not None:
        raise InputError("username", name, "a name not in use; capitals do not matter")
    check_password(password, model(username=name))
    return model.objects.create_user(name, password=password)


@transaction.atomic
def add_and_join(token: str, username: str, password: str) -> Member:
    """Return the member whom an invitation makes of a new person: both or neither. Raises NotYours, InputError."""
    return join(token, add_person(username, password))


def check_password(password: str, user: Any, field: str = "password") -> None:
    """Raise InputError for a password that the usual rules find too weak."""
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise InputError(field, "the password typed", " ".join(error.messages)) from None


def member_in(firm: Firm, member: int) -> Member:
    """Return a member of a firm who is in it. Raises NotYours."""
    found = Member.objects.filter(firm=firm, pk=member, left__isnull=True).select_related("user").first()
    if found is None:
        raise NotYours("member")
    return found


def _others(firm: Firm, but: Member) -> None:
    """Raise InputError where nobody else looks after the firm. Whoever counts holds the firm, so that the last two cannot go at once."""
    Firm.objects.select_for_update().get(pk=firm.pk)
    if not firm.members.filter(role=Member.Role.SUPERVISOR, left__isnull=True).exclude(pk=but.pk).exists():
        raise InputError("role", but.name, "another supervisor: hand over first")


@transaction.atomic
def give_role(by: Member, member: Member, role: str) -> None:
    """Give a member another role. Raises InputError where the firm would be left without a supervisor."""
    if member.role == Member.Role.SUPERVISOR and role != Member.Role.SUPERVISOR:
        _others(by.firm, member)
    Member.objects.filter(pk=member.pk).update(role=role)
    note(by, "role", f"{member.name}: {member.role} to {role}")


@transaction.atomic
def hand_over(by: Member, member: Member) -> None:
    """Make another the supervisor in one's own place; one is a designer then."""
    if member.pk == by.pk:
        raise InputError("member", by.name, "somebody else")
    Member.objects.filter(pk=member.pk).update(role=Member.Role.SUPERVISOR)
    Member.objects.filter(pk=by.pk).update(role=Member.Role.DESIGNER)
    note(by, "handed_over", member.name)


@transaction.atomic
def let_go(by: Member, member: Member) -> None:
    """Remove a member, or leave oneself. What they did stays in the history under their name. Raises InputError for the last supervisor."""
    if member.role == Member.Role.SUPERVISOR:
        _others(by.firm, member)
    Member.objects.filter(pk=member.pk).update(left=timezone.now())
    # A way back that was given before is none into a firm they were removed from since.
    Invitation.objects.filter(member=member, used__isnull=True).delete()
    note(by, "left" if member.pk == by.pk else "removed", member.name)
