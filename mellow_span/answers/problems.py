"""The kinds of refusal there are: each goes by a code and a type that stay (RFC 9457). docs/problems.md lists them for whoever asks the API."""

from __future__ import annotations

from collections.abc import Sequence

from mellow_span.answers.refusals import shown

TYPE = "application/problem+json"
# Code: status, and what it is in general; what is the matter in particular is the detail.
PROBLEMS: dict[str, tuple[int, str]] = {
    "unreadable": (400, "The request cannot be read"),
    "signed_out": (401, "Nobody is signed in"),
    "not_recognised": (401, "Name, password or code is not right"),
    "not_allowed": (403, "The person may not do this"),
    "out_of_date": (403, "The page has to be loaded anew"),
    "not_found": (404, "There is no such thing in the person's firm"),
    "no_address": (404, "There is nothing at this address"),
    "no_rules": (404, "There is no such standard, or no such table in it"),
    "method": (405, "This cannot be done at this address"),
    "too_large": (413, "More than is read at once"),
    "not_json": (415, "Only JSON is read"),
    "input": (422, "A value cannot be taken"),
    "form": (422, "The request is not as docs/openapi.json describes it"),
    "pack": (422, "A pack of tables has errors"),
    "raced": (422, "Somebody else has just changed this"),
    "wait": (429, "Too often for now"),
    "fault": (500, "A fault of the program"),
    "busy": (503, "The database does not answer"),
}
# What is refused with no code of its own, by its status.
USUAL = {
    400: "unreadable", 401: "signed_out", 403: "not_allowed", 404: "not_found", 405: "method", 413: "too_large", 415: "not_json", 429: "wait",
    503: "busy",
}  # fmt: skip


def code_of(status: int) -> str:
    """Return the code that a status usually has."""
    return USUAL.get(status, "fault" if status >= 500 else "input" if status == 422 else "unreadable")


def type_of(code: str) -> str:
    """Return the type of a kind of refusal: a name that stays, and no address."""
    return f"urn:mellow-span:problem:{code}"


def problem(status: int, detail: str, errors: Sequence[object] = (), code: str = "") -> dict[str, object]:
    """Return a refusal as it goes out. detail: what is the matter; errors: its points; code: one of `PROBLEMS`; empty: the usual one."""
    code = code or code_of(status)
    return {
        "type": type_of(code),
        "code": code,
        "title": PROBLEMS[code][1],
        "status": status,
        "detail": shown(detail, 600),
        "errors": list(errors),
    }
