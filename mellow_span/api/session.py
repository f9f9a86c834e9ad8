"""Sign in, who am I, sign out."""

from __future__ import annotations

from typing import Any

from django.contrib import auth
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema, Status
from ninja.utils import check_csrf
from pydantic import Field

from mellow_span.api.errors import Refusal
from mellow_span.jobs.models import Member

router = Router()


class SignIn(Schema):
    """Name and password."""

    username: str = Field(min_length=1, max_length=150)
    password: str = Field(min_length=1, max_length=200)


class Who(Schema):
    """The person signed in, or nobody. person: their identity; csrf: the token to send with every change;
    opens_with: the job to open at the first visit from a browser, empty where there is none."""

    signed_in: bool
    person: str = ""
    name: str = ""
    firm: str = ""
    csrf: str = ""
    opens_with: str = ""


def _who(request: HttpRequest) -> Who:
    user: Any = request.user
    member = Member.objects.select_related("firm", "opens_with").filter(user=user).first() if user.is_authenticated else None
    if member is None:
        return Who(signed_in=False, csrf=get_token(request))
    shown = member.opens_with
    return Who(
        signed_in=True,
        person=str(member.pk),
        name=member.name,
        firm=member.firm.name,
        csrf=get_token(request),
        opens_with=str(shown.pk) if shown and shown.removed is None and not shown.archived else "",
    )


@router.get("", response=Who, operation_id="who")
def who(request: HttpRequest) -> Who:
    """Say who is signed in and hand out the CSRF token."""
    return _who(request)


@router.post("", response={200: Who, 400: Refusal, 401: Refusal, 403: Refusal, 422: Refusal, 429: Refusal}, operation_id="sign_in")
def sign_in(request: HttpRequest, given: SignIn) -> Any:
    """Sign in; too many wrong passwords close the door for a while."""
    if check_csrf(request):
        return Status(403, Refusal(message="The page is out of date. Reload it and sign in again."))
    if "\x00" in given.username + given.password:
        return Status(401, Refusal(message="Name or password is wrong."))
    user = auth.authenticate(request, username=given.username, password=given.password)
    if getattr(request, "axes_locked_out", False):
        return Status(429, Refusal(message="Too many wrong passwords. Wait ten minutes and try again."))
    if user is None:
        return Status(401, Refusal(message="Name or password is wrong."))
    auth.login(request, user)
    return _who(request)


@router.delete("", response={200: Who, 403: Refusal}, operation_id="sign_out")
def sign_out(request: HttpRequest) -> Any:
    """Sign out."""
    if check_csrf(request):
        return Status(403, Refusal(message="The page is out of date. Reload it."))
    auth.logout(request)
    return _who(request)
