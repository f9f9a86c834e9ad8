"""Logs as lines of JSON: what was asked for by its pattern, how it ended and how long it took; never by whom, from where, or with what in it."""

from __future__ import annotations

import json
import logging
import time
import traceback
import uuid
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

log = logging.getLogger("mellow_span.requests")
# What a record may bring beside its message.
EXTRA = ("method", "route", "status", "ms", "request", "why", "search", "event")


class Json(logging.Formatter):
    """A record as one line of JSON."""

    def format(self, record: logging.LogRecord) -> str:
        """Return the line. Of an error the places in the program, not its message: that may quote what somebody typed."""
        line = {"at": self.formatTime(record, "%Y-%m-%dT%H:%M:%S%z"), "level": record.levelname.lower(), "from": record.name}
        line["told"] = record.getMessage() if record.name.startswith("mellow_span") else record.msg[:200]
        line |= {name: getattr(record, name) for name in EXTRA if hasattr(record, name)}
        if record.exc_info and record.exc_info[0]:
            frames = traceback.extract_tb(record.exc_info[2])
            line["error"] = record.exc_info[0].__name__
            line["places"] = [f"{f.filename.rsplit('/mellow_span/', 1)[-1]}:{f.lineno} {f.name}" for f in frames[-12:]]  # type: ignore[assignment]
        return json.dumps(line, ensure_ascii=False)


class Requests:
    """Log each request, and give it a number that its answer carries, so that a person can quote it."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        began, number = time.perf_counter(), uuid.uuid4().hex[:12]
        response = self.get_response(request)
        response.headers["Request-Number"] = number
        match = request.resolver_match
        route = match.route if match else "a file" if response.status_code < 400 else "nothing"
        level = logging.ERROR if response.status_code >= 500 else logging.INFO
        ms = round((time.perf_counter() - began) * 1000, 1)
        about = {"method": request.method, "route": route, "status": response.status_code, "ms": ms, "request": number}
        log.log(level, "answered", extra=about)
        return response
