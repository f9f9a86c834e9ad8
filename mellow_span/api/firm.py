"""The firm a person acts in: its members and their roles, invitations, what happened."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Field, Query, Router, Schema, Status
from ninja.utils import check_csrf

from mellow_span.api.errors import Refusal, out_of_date
from mellow_span.api.session import Who, enter, proved, who_is
from mellow_span.core.errors import InputError
from mellow_span.jobs.models import Firm, Member
from mellow_span.jobs.ownership import NotYours, designer_of, member_of, supervisor_of
from mellow_span.logbook.keys import public_key
from mellow_span.logbook.models import Money
from mellow_span.people import firms
from mellow_span.people.events import TOLD, note, of_firm
from mellow_span.people.models import Invitation

router, door = Router(), Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}
NAME = r"^[^\x00]*\S[^\x00]*$"
A_PAGE = 50


class MemberOut(Schema):
    """A member. me: the one who asks."""

    id: int
    name: str
    username: str
    role: Member.Role
    joined: datetime
    me: bool


class InvitationOut(Schema):
    """An invitation that nobody has used yet. token: for its link, only in the answer that made it; username: whose new password it is for."""

    id: UUID
    name: str
    role: Member.Role
    ends: datetime
    username: str = ""
    token: str = ""


class FirmOut(Schema):
    """A firm; invitations, and former members: to a supervisor alone. key: the public half of the one it seals revisions with."""

    name: str
    key: str
    members: list[MemberOut]
    invitations: list[InvitationOut]
    former: list[MemberOut]


class FirmName(Schema):
    """What a firm is called."""

    name: str = Field(min_length=1, max_length=120, pattern=NAME)


class MoneyIn(Schema):
    """How the firm shows amounts: its currency, and the rate of VAT told beside what is without it [%]."""

    currency: str = Field(min_length=1, max_length=3, pattern=r"^[^\s\d\x00.,<>&-]{1,3}$")
    vat: float | None = Field(default=None, ge=0, le=50)


class RoleIn(Schema):
    """A role."""

    role: Member.Role


class InviteIn(Schema):
    """Who is invited, and as what."""

    name: str = Field(min_length=1, max_length=120, pattern=NAME)
    role: Member.Role


class EventOut(Schema):
    """Something that happened: who did what, about what, when."""

    id: int
    at: datetime
    by: str
    kind: str
    told: str
    about: str


class Events(Schema):
    """What happened, newest first; more: whether there is more."""

    events: list[EventOut]
    more: bool


class OpenInvitation(Schema):
    """What an invitation is to. username: whose new password it is for; empty where it is for somebody new."""

    firm: str
    name: str
    username: str
    role: Member.Role
    ends: datetime


class JoinIn(Schema):
    """A name and password, to join by an invitation: new ones, or those of somebody who signs in with them; both empty: as the person signed in.

    code: of their second step, where there is one. By a way back the password alone, which is the new one.
    """

    username: str = Field(default="", max_length=150)
    password: str = Field(default="", max_length=200)
    code: str = Field(default="", max_length=20)


def _firm(member: Member) -> FirmOut:
    supervises = member.role == Member.Role.SUPERVISOR
    rows = member.firm.members.select_related("user").order_by("joined")
    open_ones = member.firm.invitations.filter(used__isnull=True, ends__gt=timezone.now()).select_related("member__user")
    return FirmOut(
        name=member.firm.name,
        key=public_key(member.firm_id),
        members=[_member(m, member) for m in rows if m.left is None],
        invitations=[_invitation(one) for one in open_ones] if supervises else [],
        former=[_member(m, member) for m in rows if m.left is not None] if supervises else [],
    )


def _member(m: Member, me: Member) -> MemberOut:
    return MemberOut(id=m.pk, name=m.name, username=m.user.get_username(), role=Member.Role(m.role), joined=m.joined, me=m.pk == me.pk)


def _invitation(one: Invitation, token: str = "") -> InvitationOut:
    username = one.member.user.get_username() if one.member else ""
    return InvitationOut(id=one.pk, name=one.name, role=Member.Role(one.role), ends=one.ends, username=username, token=token)


@router.get("", response={200: FirmOut, **REFUSALS}, operation_id="firm")
def firm(request: HttpRequest) -> Any:
    """Return the firm with its members."""
    return _firm(member_of(request.user))


@router.patch("", response={200: FirmOut, **REFUSALS}, operation_id="rename_firm")
def rename(request: HttpRequest, given: FirmName) -> Any:
    """Give the firm another name."""
    member = supervisor_of(request.user)
    member.firm.name = given.name.strip()
    Firm.objects.filter(pk=member.firm_id).update(name=member.firm.name)
    note(member, "renamed", member.firm.name)
    return _firm(member)


@router.post("/invitations", response={201: InvitationOut, **REFUSALS}, operation_id="invite")
def invite(request: HttpRequest, given: InviteIn) -> Any:
    """Invite somebody by a link that is good once and for seven days."""
    made, token = firms.invite(supervisor_of(request.user), given.name.strip(), given.role)
    return Status(201, _invitation(made, token))


@router.delete("/invitations/{uuid:invitation_id}", response={200: FirmOut, **REFUSALS}, operation_id="take_back_invitation")
def take_back(request: HttpRequest, invitation_id: UUID) -> Any:
    """Take an invitation back; its link opens nothing any more."""
    member = supervisor_of(request.user)
    if not Invitation.objects.filter(pk=invitation_id, firm=member.firm, used__isnull=True).delete()[0]:
        raise NotYours("invitation")
    return _firm(member)


@router.post("/members/{int:member_id}/way-back", response={201: InvitationOut, **REFUSALS}, operation_id="way_back")
def way_back(request: HttpRequest, member_id: int) -> Any:
    """Make a link by which somebody who is or was in the firm sets a new password: for a lost one, a lost phone, or who comes back."""
    by = supervisor_of(request.user)
    found = Member.objects.filter(firm=by.firm, pk=member_id).select_related("user", "firm").first()
    if found is None:
        raise NotYours("member")
    made, token = firms.way_back(by, found)
    return Status(201, _invitation(made, token))


@router.patch("/members/{int:member_id}", response={200: FirmOut, **REFUSALS}, operation_id="give_role")
def give_role(request: HttpRequest, member_id: int, given: RoleIn) -> Any:
    """Give a member another role; a firm always keeps a supervisor."""
    by = supervisor_of(request.user)
    firms.give_role(by, firms.member_in(by.firm, member_id), given.role)
    by.refresh_from_db()
    return _firm(by)


@router.post("/members/{int:member_id}/hand-over", response={200: FirmOut, **REFUSALS}, operation_id="hand_over")
def hand_over(request: HttpRequest, member_id: int) -> Any:
    """Make a member the supervisor in one's own place."""
    by = supervisor_of(request.user)
    firms.hand_over(by, firms.member_in(by.firm, member_id))
    by.refresh_from_db()
    return _firm(by)


@router.delete("/members/{int:member_id}", response={204: None, **REFUSALS}, operation_id="remove_member")
def remove_member(request: HttpRequest, member_id: int) -> Any:
    """Remove a member, or leave the firm oneself. What they did stays in the history under their name."""
    me = member_of(request.user)
    firms.let_go(me if member_id == me.pk else supervisor_of(request.user), firms.member_in(me.firm, member_id))
    return Status(204, None)


@router.patch("/money", response={200: MoneyIn, **REFUSALS}, operation_id="set_money")
def set_money(request: HttpRequest, given: MoneyIn) -> Any:
    """Say how the firm shows amounts."""
    member = designer_of(request.user)
    Money.objects.update_or_create(firm=member.firm, defaults={"currency": given.currency, "vat": given.vat})
    return given


@router.get("/events", response={200: Events, **REFUSALS}, operation_id="firm_events")
def events(request: HttpRequest, before: Annotated[int, Query(ge=1, le=2**62)] | None = None) -> Any:
    """List what happened in the firm: sign-ins, exports, deletions, members, links."""
    found = of_firm(supervisor_of(request.user).firm, before, A_PAGE + 1)
    rows = [
        EventOut(id=e.pk, at=e.at, by=e.member.name if e.member else "", kind=e.kind, told=TOLD.get(e.kind, e.kind), about=e.about)
        for e in found[:A_PAGE]
    ]
    return Events(events=rows, more=len(found) > A_PAGE)


@door.get("/{str:token}", response={200: OpenInvitation, **REFUSALS}, operation_id="open_invitation")
def look(request: HttpRequest, token: str) -> Any:
    """Say what an invitation is to. Its link is the key: nobody need be signed in."""
    one = firms.open_invitation(token)
    username = one.member.user.get_username() if one.member else ""
    return OpenInvitation(firm=one.firm.name, name=one.name, username=username, role=Member.Role(one.role), ends=one.ends)


@door.post("/{str:token}", response={200: Who, 403: Refusal, **REFUSALS}, operation_id="join")
def join(request: HttpRequest, response: HttpResponse, token: str, given: JoinIn) -> Any:
    """Join by an invitation: as a new person, or by the password of one who is known, who is then signed in; or as the one signed in."""
    if check_csrf(request):
        return out_of_date()
    one = firms.open_invitation(token)
    user: Any = request.user
    named = given.username != "" or given.password != ""
    if one.member_id is not None:
        person = firms.come_back(token, given.password)
    elif not named:
        if not user.is_authenticated:
            raise InputError("username", "nothing", "a name and a password, or somebody signed in")
        person = firms.join(token, user)
    elif firms.person_called(given.username) is not None:
        # The name is somebody's already: it is theirs where the password is.
        person = firms.join(token, proved(request, given.username, given.password, given.code))
    else:
        person = firms.add_and_join(token, given.username, given.password)
    if named or one.member_id is not None:
        enter(request, response, person.user)
    request.session["member"] = person.pk
    request.user.acting_as, request.user.acting_member = person.pk, None  # type: ignore[union-attr]
    return who_is(request)
