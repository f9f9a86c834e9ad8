"""One body for every refusal (RFC 9457): its kind, in words, and for each point the field, what was given and what is allowed."""

from __future__ import annotations

import logging
import sys
from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from django.conf import settings
from django.db import IntegrityError, InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from ninja import Field, NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError

from mellow_span.answers.problems import TYPE, problem
from mellow_span.answers.refusals import at_field, shown
from mellow_span.api.body import BodyError
from mellow_span.core.errors import CoreError, RuleSetError
from mellow_span.core.model.changes import Refused
from mellow_span.core.rulesets.troubles import BadPack, Trouble
from mellow_span.jobs.ownership import NotAllowed, NotYours

log = logging.getLogger(__name__)


class FieldError(Schema):
    """A refusal at a field: which change of an edit it was, the target, what was given, what is allowed."""

    field: str
    given: str
    allowed: str
    message: str
    change: int | None = None
    kind: str | None = None
    id: str | None = None


class Refusal(Schema):
    """The body of every refusal. type, code, title: its kind, as docs/problems.md lists them; detail: what is the matter."""

    type: str
    code: str
    title: str
    status: int
    detail: str
    errors: list[FieldError] = Field(default_factory=list)


class Wait(Exception):
    """Too many of something for now. field: of what; seconds: until it may be tried again."""

    def __init__(self, field: str, given: str, seconds: int, message: str) -> None:
        super().__init__(message)
        self.field, self.given, self.seconds, self.message = field, given, seconds, message


def field_error(error: CoreError) -> FieldError:
    """Word a core error for the field it belongs to."""
    return FieldError(**asdict(at_field(error)))


def _of_pack(one: Trouble) -> FieldError:
    where = ", ".join(filter(None, (one.file, f"line {one.line}" if one.line else "", one.column)))
    given = shown(one.given) or "nothing"
    return FieldError(field=shown(where), given=given, allowed=shown(one.allowed, 400), message=shown(str(one), 600))


def refusal(status: int, message: str, errors: list[FieldError] | None = None, code: str = "") -> HttpResponse:
    """Return a refusal as it goes out. code: one of `PROBLEMS`; empty: the usual one of the status."""
    body = Refusal.model_validate(problem(status, message, errors or [], code))
    return HttpResponse(body.model_dump_json(), status=status, content_type=TYPE)


def at(status: int, field: str, given: object, allowed: str, message: str, code: str = "") -> HttpResponse:
    """Return a refusal at one field. code: see `refusal`."""
    return refusal(status, message, [FieldError(field=field, given=shown(given), allowed=allowed, message=message)], code)


BUSY = "The server is busy with the database. Nothing was changed; try again in a moment."


def install(api: NinjaAPI) -> None:
    """Register the handlers."""
    _of_people(api)
    _of_inputs(api)
    _of_the_rest(api)


def _of_people(api: NinjaAPI) -> None:
    """Who may not, or not yet."""

    @api.exception_handler(NotYours)
    def not_yours(request: HttpRequest, error: Any) -> HttpResponse:
        found: Any = request.resolver_match
        field, given = next(iter(found.kwargs.items()), ("session", "someone in no firm")) if found else ("session", "")
        return at(404, field, given, f"a {error.what} of your firm", f"There is no such {error.what}.")

    @api.exception_handler(NotAllowed)
    def not_allowed(request: HttpRequest, error: NotAllowed) -> HttpResponse:
        return at(403, "role", error.role, error.allowed, error.message)

    @api.exception_handler(Wait)
    def wait(request: HttpRequest, error: Wait) -> HttpResponse:
        response = at(429, error.field, error.given, f"again in {error.seconds} s", error.message)
        response["Retry-After"] = str(error.seconds)
        return response

    @api.exception_handler(AuthenticationError)
    def signed_out(request: HttpRequest, error: Any) -> HttpResponse:
        return at(401, "session", "nobody signed in", "a signed-in person", "You are signed out. Sign in and go on; nothing typed is lost.")


def _of_inputs(api: NinjaAPI) -> None:
    """What was sent and cannot be taken."""

    @api.exception_handler(RuleSetError)
    def no_rules(request: HttpRequest, error: Any) -> HttpResponse:
        found: Any = request.resolver_match
        given = " ".join(str(v) for v in found.kwargs.values()) if found else ""
        return at(404, "ruleset", given, "a rule set and a table that this product has", str(error), "no_rules")

    @api.exception_handler(BodyError)
    def bad_body(request: HttpRequest, error: BodyError) -> HttpResponse:
        return at(error.status, error.field, error.given, error.allowed, error.message)

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, error: Any) -> HttpResponse:
        where = field_error(error)
        return refusal(422, where.message, [where])

    @api.exception_handler(BadPack)
    def bad_pack(request: HttpRequest, error: BadPack) -> HttpResponse:
        found = [_of_pack(one) for one in error.troubles]
        count = "One error" if len(found) == 1 else f"{len(found)} errors"
        return refusal(422, f"{count} in this pack. Nothing was loaded.", found, "pack")

    @api.exception_handler(CoreError)
    def core_error(request: HttpRequest, error: Any) -> HttpResponse:
        return refusal(422, str(error), [field_error(error)])

    @api.exception_handler(ValidationError)
    def invalid(request: HttpRequest, error: Any) -> HttpResponse:
        found = [
            FieldError(field=".".join(str(part) for part in e["loc"]), given=shown(e.get("input", "")), allowed=e["msg"], message=e["msg"])
            for e in error.errors[:20]
        ]
        return refusal(422, "The request is not in the right form.", found, "form")


def _of_the_rest(api: NinjaAPI) -> None:
    """What is refused before it is read, and what the database says."""

    @api.exception_handler(HttpError)
    def http_error(request: HttpRequest, error: Any) -> HttpResponse:
        cause = error.__cause__
        if isinstance(cause, BodyError):
            return at(cause.status, cause.field, cause.given, cause.allowed, cause.message)
        if error.status_code == 403:
            return out_of_date()
        return at(error.status_code, "request", request.method, "a request as docs/openapi.json describes it", str(error))

    @api.exception_handler(IntegrityError)
    def raced(request: HttpRequest, error: Any) -> HttpResponse:
        message = "Someone else has just removed or added this. Nothing was changed; look again."
        return at(422, "request", "something that was just changed elsewhere", "what is there now", message, "raced")

    for kind in (OperationalError, InterfaceError):

        @api.exception_handler(kind)
        def database(request: HttpRequest, error: Any) -> HttpResponse:
            log.warning("the database did not answer", extra={"why": type(error.__cause__ or error).__name__})
            return at(503, "server", "no answer from the database", "to try again in a moment", BUSY)

    @api.exception_handler(Exception)
    def broken(request: HttpRequest, error: Exception) -> HttpResponse:
        log.exception("a request failed")
        return refusal(500, "A program fault stopped this. Nothing was changed.")


class OneShape:
    """Give every refusal of an address under /api/ the one body, whoever made it, and let no answer there be kept by the browser."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request; one whose body is no JSON, or too large, is not read at all."""
        if not request.path_info.startswith("/api/"):
            return self.get_response(request)
        response = self._unread(request) or self.get_response(request)
        if response.status_code >= 400 and "json" not in response.headers.get("Content-Type", ""):
            response = self._shaped(request, response)
        response.headers.setdefault("Cache-Control", "no-store")
        return response

    @staticmethod
    def _unread(request: HttpRequest) -> HttpResponse | None:
        length = request.META.get("CONTENT_LENGTH") or "0"
        if not length.isascii() or not length.isdigit():
            return at(400, "Content-Length", length, "a number of bytes", "The request could not be read.")
        if int(length) > settings.DATA_UPLOAD_MAX_MEMORY_SIZE:
            return too_large(request)
        # What calls itself a form in parts would be looked into for a token even where it is empty.
        parts = (request.content_type or "").startswith("multipart/")
        if (int(length) or parts) and request.content_type != "application/json":
            given = request.content_type or "no content type"
            return at(415, "Content-Type", given, "application/json", "Only JSON is read here.")
        return None

    @staticmethod
    def _shaped(request: HttpRequest, given: HttpResponse) -> HttpResponse:
        if given.status_code == 405:
            allowed = given.headers.get("Allow", "")
            response = at(405, "method", request.method, allowed, f"{request.method} is not possible here.")
            response["Allow"] = allowed
            return response
        if given.status_code == 404:
            return at(
                404,
                "address",
                request.path_info,
                "an address that docs/openapi.json lists",
                "There is nothing at this address.",
                "no_address",
            )
        if given.status_code == 403:
            return out_of_date()
        if given.status_code == 413:
            return too_large(request)
        message = "The request could not be read." if given.status_code < 500 else "The server could not complete this."
        return at(
            given.status_code, "request", f"{request.method} {request.path_info}", "a request as docs/openapi.json describes it", message
        )


def out_of_date() -> HttpResponse:
    """Refuse a change without the token of the page it comes from."""
    return at(
        403,
        "X-CSRFToken",
        "not the token of this page",
        "the token of GET /api/session",
        "This page is out of date: reload it.",
        "out_of_date",
    )


def too_large(request: HttpRequest) -> HttpResponse:
    """Refuse a body that is larger than any that is asked for."""
    most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE
    told = f"at most {most // 1_000_000} MB"
    return at(413, "body", f"{request.META.get('CONTENT_LENGTH') or 'many'} bytes", told, f"This is too large: {told} at once.")


def server_error(request: HttpRequest) -> HttpResponse:
    """Answer where something outside the API failed: that the database is away, or that the fault is ours."""
    error = sys.exc_info()[1]
    away = isinstance(error, OperationalError | InterfaceError)
    status, message = (503, BUSY) if away else (500, "A program fault stopped this.")
    if request.path_info.startswith("/api/"):
        return at(status, "server", "no answer", "to try again in a moment", message)
    return HttpResponse(message, status=status, content_type="text/plain; charset=utf-8")
