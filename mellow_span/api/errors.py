"""One handler maps every refusal to one body that points at the input field."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Field, NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError

from mellow_span.core.errors import CoreError, RuleSetError
from mellow_span.core.model.changes import Refused
from mellow_span.jobs.ownership import NotYours


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
    """The body of every refusal."""

    message: str
    errors: list[FieldError] = Field(default_factory=list)


def field_error(error: CoreError, **where: Any) -> FieldError:
    """Word a core error for the field it belongs to."""
    given = "nothing" if error.given is None else str(error.given)[:80]
    message = f"{given} is not possible here. Allowed: {error.allowed}."
    return FieldError(field=error.field, given=given, allowed=error.allowed, message=message, **where)


def install(api: NinjaAPI) -> None:
    """Register the handlers."""

    def answer(request: HttpRequest, status: int, message: str, errors: list[FieldError] | None = None) -> HttpResponse:
        return api.create_response(request, Refusal(message=message, errors=errors or []), status=status)

    @api.exception_handler(NotYours)
    def not_yours(request: HttpRequest, error: Any) -> HttpResponse:
        return answer(request, 404, "There is no such job.")

    @api.exception_handler(RuleSetError)
    def no_rules(request: HttpRequest, error: Any) -> HttpResponse:
        return answer(request, 404, str(error))

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, error: Any) -> HttpResponse:
        where = field_error(error, change=error.at, kind=error.change.kind, id=error.change.id)
        return answer(request, 422, where.message, [where])

    @api.exception_handler(CoreError)
    def core_error(request: HttpRequest, error: Any) -> HttpResponse:
        return answer(request, 422, str(error), [field_error(error)])

    @api.exception_handler(ValidationError)
    def invalid(request: HttpRequest, error: Any) -> HttpResponse:
        found = [
            FieldError(
                field=".".join(str(part) for part in e["loc"]), given=str(e.get("input", ""))[:80], allowed=e["msg"], message=e["msg"]
            )
            for e in error.errors
        ]
        return answer(request, 422, "The request does not have the right shape.", found)

    @api.exception_handler(AuthenticationError)
    def signed_out(request: HttpRequest, error: Any) -> HttpResponse:
        return answer(request, 401, "You are signed out. Sign in and go on; nothing typed is lost.")

    @api.exception_handler(HttpError)
    def http_error(request: HttpRequest, error: Any) -> HttpResponse:
        return answer(request, error.status_code, str(error))
