"""Sign in, who am I and in which firm, sign out; the devices one is signed in with, the password, the second step."""

from __future__ import annotations

from datetime import datetime
from typing import Any
from uuid import UUID

from django.conf import settings
from django.contrib import auth
from django.core import signing
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema, Status
from ninja.security import django_auth
from ninja.utils import check_csrf
from pydantic import Field

from mellow_span.api.errors import Refusal, Wait, at, out_of_date
from mellow_span.core.errors import InputError
from mellow_span.jobs.models import Member
from mellow_span.jobs.ownership import NotYours, member_of, memberships_of
from mellow_span.logbook.money import money_of
from mellow_span.people import second
from mellow_span.people.events import note_all
from mellow_span.people.firms import check_password, person_called
from mellow_span.people.models import Device
from mellow_span.people.sessions import devices_of, end, sign_out
from mellow_span.people.throttle import Throttle

router = Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}
# The cookie by which a browser is known in which somebody signed in before, and how many people it remembers.
KNOWN, PEOPLE = "known", 8
NO_NUL = r"^[^\x00]*$"


class SignIn(Schema):
    """Name and password; code: of the second step, where the person uses one."""

    username: str = Field(min_length=1, max_length=150)
    password: str = Field(min_length=1, max_length=200)
    code: str = Field(default="", max_length=40)


class FirmLine(Schema):
    """A firm the person is in, and their role there. member: their identity in it."""

    member: int
    name: str
    role: Member.Role


class Who(Schema):
    """The person signed in, or nobody. person: their identity in the firm they act in; csrf: the token to send with every change;
    firms: all they are in; second: whether they sign in with a second step; opens_with: the job to open at the first visit from a browser, empty
    where there is none. currency, vat: how their firm shows amounts."""

    signed_in: bool
    person: str = ""
    name: str = ""
    username: str = ""
    firm: str = ""
    role: str = ""
    firms: list[FirmLine] = Field(default_factory=list)
    second: bool = False
    csrf: str = ""
    opens_with: str = ""
    currency: str = "£"
    vat: float | None = None


class FirmIn(Schema):
    """The firm to act in, by the person's identity there."""

    member: int = Field(ge=1, le=2_000_000_000)


class DeviceLine(Schema):
    """A device the person is signed in with. here: the one that asks."""

    id: UUID
    agent: str
    made: datetime
    seen: datetime
    here: bool


class PasswordIn(Schema):
    """The password as it is, and as it shall be."""

    old: str = Field(min_length=1, max_length=200)
    new: str = Field(min_length=1, max_length=200)


class SecondOut(Schema):
    """Whether there is a second step, and how many recovery codes are left."""

    on: bool
    codes_left: int


class SecondNew(Schema):
    """A secret for an app: as text, as an address, as a picture (SVG) of that address."""

    secret: str
    address: str
    picture: str


class CodeIn(Schema):
    """A code of the second step."""

    code: str = Field(min_length=1, max_length=40)


class Codes(Schema):
    """Recovery codes, each good once; they are shown this one time."""

    codes: list[str]


def who_is(request: HttpRequest) -> Who:
    """Return who is signed in."""
    user: Any = request.user
    theirs = list(memberships_of(user)) if user.is_authenticated else []
    if not theirs:
        return Who(signed_in=False, csrf=get_token(request))
    member = member_of(user)
    shown, money = member.opens_with, money_of(member.firm_id)
    return Who(
        signed_in=True,
        person=str(member.pk),
        name=member.name,
        username=user.get_username(),
        firm=member.firm.name,
        role=member.role,
        firms=[FirmLine(member=m.pk, name=m.firm.name, role=Member.Role(m.role)) for m in theirs],
        second=second.is_on(user),
        csrf=get_token(request),
        currency=money.currency,
        vat=money.vat,
        opens_with=str(shown.pk) if shown and shown.removed is None and not shown.archived else "",
    )


@router.get("", response=Who, operation_id="who")
def who(request: HttpRequest) -> Who:
    """Say who is signed in and hand out the CSRF token."""
    return who_is(request)


def _refused(field: str, given: str, allowed: str, message: str) -> Any:
    return at(401, field, given, allowed, message, "not_recognised")


def enter(request: HttpRequest, response: HttpResponse, user: Any) -> None:
    """Sign a person in who has proved who they are, and know this browser from now on."""
    auth.login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    known = [user.pk, *(pk for pk in _known(request) if pk != user.pk)][:PEOPLE]
    response.set_signed_cookie(
        KNOWN, signing.dumps(known), salt=KNOWN, max_age=60 * 60 * 24 * 180, httponly=True, samesite="Lax", secure=settings.HTTPS
    )


def _known(request: HttpRequest) -> list[int]:
    """The people who signed in before in this browser."""
    try:
        return list(signing.loads(str(request.get_signed_cookie(KNOWN, salt=KNOWN))))
    except (KeyError, signing.BadSignature):
        return []


@router.post("", response={200: Who, 401: Refusal, 403: Refusal, 422: Refusal, 429: Refusal}, operation_id="sign_in")
def sign_in(request: HttpRequest, response: HttpResponse, given: SignIn) -> Any:
    """Sign in; too many wrong passwords have to wait some minutes. Where there is a second step, its code is asked for at the field `code`."""
    if check_csrf(request):
        return out_of_date()
    wrong = "Wrong name or password."
    if "\x00" in given.username + given.password:
        return _refused("password", "what was typed", "the name and its password", wrong)
    user: Any = auth.get_user_model().objects.filter(username__iexact=given.username.strip()).first()
    throttle = Throttle(given.username.strip(), request.META.get("REMOTE_ADDR", ""), user is not None and user.pk in _known(request))
    _hold(throttle, "password")
    found = auth.authenticate(request, username=user.get_username() if user else given.username, password=given.password)
    theirs = list(memberships_of(user)) if user else []
    if found is None:
        throttle.wrong()
        note_all(theirs, "refused")
        _hold(throttle, "password")
        return _refused("password", "what was typed", "the name and its password", wrong)
    if second.is_on(found):
        if not given.code:
            return _refused(
                "code", "nothing", "the six digits of the app, or a recovery code", "One more step: enter the code from your app."
            )
        if not second.passes(found, given.code):
            throttle.wrong()
            note_all(theirs, "refused", "the code")
            _hold(throttle, "code")
            told = "Wrong code, or already used. Enter the one the app shows now."
            return _refused("code", "what was typed", "the six digits of the app, or a recovery code", told)
    if not theirs:
        return _refused(
            "username", given.username, "a person of a firm", "This account no longer belongs to a firm. Ask for a new invitation."
        )
    throttle.right()
    enter(request, response, found)
    note_all(theirs, "signed_in")
    return who_is(request)


def proved(request: HttpRequest, username: str, password: str, code: str) -> Any:
    """Return the person whose name and password these are, with the code of their second step where there is one; wrong ones count as at the door.

    Raises InputError at the field that is wrong, Wait.
    """
    user = person_called(username)
    throttle = Throttle(username.strip(), request.META.get("REMOTE_ADDR", ""), user is not None and user.pk in _known(request))
    _hold(throttle, "password")
    found = None if user is None or "\x00" in password else auth.authenticate(request, username=user.get_username(), password=password)
    if found is None:
        throttle.wrong()
        raise InputError("username", username, "a name not in use, capitals do not matter; or your own, with its password")
    if second.is_on(found) and not second.passes(found, code):
        if code:
            throttle.wrong()
        raise InputError("code", "what was typed" if code else "nothing", "the six digits of your app, or a recovery code")
    throttle.right()
    return found


def _hold(throttle: Throttle, field: str) -> None:
    """Raise Wait while too many wrong ones count."""
    if held := throttle.held():
        minutes = -(-held.seconds // 60)
        told = "a minute" if minutes == 1 else f"{minutes} minutes"
        raise Wait(field, f"too many wrong ones by {held.by}", held.seconds, f"Too many attempts. Wait {told} and try again.")


@router.delete("", response={200: Who, 403: Refusal}, operation_id="sign_out")
def leave(request: HttpRequest) -> Any:
    """Sign out."""
    if check_csrf(request):
        return out_of_date()
    if request.user.is_authenticated:
        note_all(list(memberships_of(request.user)), "signed_out")
        sign_out(request)
    return who_is(request)


@router.post("/firm", response={200: Who, **REFUSALS}, auth=django_auth, operation_id="act_in")
def act_in(request: HttpRequest, given: FirmIn) -> Any:
    """Act in another of the person's firms, in this browser."""
    user: Any = request.user
    if not memberships_of(user).filter(pk=given.member).exists():
        raise NotYours("firm")
    request.session["member"] = given.member
    user.acting_as, user.acting_member = given.member, None
    return who_is(request)


@router.get("/devices", response={200: list[DeviceLine], **REFUSALS}, auth=django_auth, operation_id="devices")
def devices(request: HttpRequest) -> Any:
    """List the devices the person is signed in with, the last used first."""
    here = request.session.session_key
    return [DeviceLine(id=d.pk, agent=d.agent, made=d.made, seen=d.seen, here=d.session == here) for d in devices_of(request.user)]


@router.delete("/devices/{uuid:device_id}", response={200: list[DeviceLine], **REFUSALS}, auth=django_auth, operation_id="end_device")
def end_device(request: HttpRequest, device_id: UUID) -> Any:
    """Sign out there, at once."""
    user: Any = request.user
    found = Device.objects.filter(pk=device_id, user=user.pk).first()
    if found is None:
        raise NotYours("device")
    end([found])
    note_all(list(memberships_of(user)), "device_ended", found.agent)
    return devices(request)


@router.post("/password", response={200: Who, **REFUSALS}, auth=django_auth, operation_id="change_password")
def change_password(request: HttpRequest, given: PasswordIn) -> Any:
    """Change the password; every other device is signed out."""
    user: Any = request.user
    throttle = Throttle(user.get_username(), request.META.get("REMOTE_ADDR", ""), known=True)
    _hold(throttle, "old")
    if not user.check_password(given.old):
        throttle.wrong()
        raise InputError("old", "what was typed", "the password as it is now")
    check_password(given.new, user, "new")
    user.set_password(given.new)
    user.save(update_fields=["password"])
    end([d for d in devices_of(user) if d.session != request.session.session_key])
    auth.update_session_auth_hash(request, user)
    Device.objects.filter(user=user).delete()
    request.session["seen"] = 0
    note_all(list(memberships_of(user)), "password")
    return who_is(request)


@router.get("/second", response={200: SecondOut, **REFUSALS}, auth=django_auth, operation_id="second_step")
def second_step(request: HttpRequest) -> Any:
    """Say whether there is a second step."""
    return SecondOut(on=second.is_on(request.user), codes_left=second.codes_left(request.user))


@router.post("/second", response={201: SecondNew, **REFUSALS}, auth=django_auth, operation_id="begin_second_step")
def begin_second(request: HttpRequest) -> Any:
    """Begin a second step: a secret for an app. It counts once a code of the app confirms it."""
    secret, address, picture = second.begin(request.user)
    return Status(201, SecondNew(secret=secret, address=address, picture=picture))


@router.post("/second/confirm", response={200: Codes, **REFUSALS}, auth=django_auth, operation_id="confirm_second_step")
def confirm_second(request: HttpRequest, given: CodeIn) -> Any:
    """Turn the second step on with a code of the app; answers with the recovery codes."""
    codes = second.confirm(request.user, given.code)
    note_all(list(memberships_of(request.user)), "second_on")
    return Codes(codes=codes)


@router.post("/second/end", response={200: SecondOut, **REFUSALS}, auth=django_auth, operation_id="end_second_step")
def end_second(request: HttpRequest, given: CodeIn) -> Any:
    """Turn the second step off with a code of it; too many wrong ones have to wait, as at the door."""
    user: Any = request.user
    throttle = Throttle(user.get_username(), request.META.get("REMOTE_ADDR", ""), known=True)
    _hold(throttle, "code")
    if not second.passes(user, given.code):
        throttle.wrong()
        note_all(list(memberships_of(user)), "refused", "the code, to turn the second step off")
        _hold(throttle, "code")
        raise InputError("code", "what was typed", "the six digits of the app, or a recovery code")
    throttle.right()
    second.end(user)
    note_all(list(memberships_of(request.user)), "second_off")
    return second_step(request)
