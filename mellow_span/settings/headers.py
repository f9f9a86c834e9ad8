"""What goes with every answer: the page keeps to its own scripts, styles and fonts, and nobody serves it under another name."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse
from whitenoise.middleware import WhiteNoiseMiddleware

POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; font-src 'self' data:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
# What goes with every answer, whoever makes it.
EVERYWHERE = {
    "Content-Security-Policy": POLICY, "X-Frame-Options": "DENY", "X-Content-Type-Options": "nosniff", "Referrer-Policy": "same-origin",
}  # fmt: skip
# The worker in which a page works jobs out runs compiled code of its own origin, and is the one thing here that may; it is told so with its own script.
WORKER = re.compile(r"/assets/local-worker-[\w-]+\.js")
OF_WORKER = POLICY.replace("default-src 'self'; ", "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; ", 1)
Answer = Callable[[HttpRequest], HttpResponse]


class ContentPolicy:
    """Add the same policies to every answer, also to one that was refused early: nothing is loaded from anywhere else, nothing frames the page."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request and add the headers."""
        response = self.get_response(request)
        for name, value in EVERYWHERE.items():
            response.headers[name] = value
        if WORKER.fullmatch(request.path_info):
            response.headers["Content-Security-Policy"] = OF_WORKER
        return response


class KnownHost:
    """Refuse a request for another host than those this server goes by, whatever it asks for."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request. Raises DisallowedHost, which is answered with 400."""
        request.get_host()
        return self.get_response(request)


class Files(WhiteNoiseMiddleware):  # type: ignore[misc]
    """Serves the scripts, styles and fonts of the page; the page itself comes from its view alone, with what goes with it."""

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        for name in [name for name in self.files if name.endswith(".html")]:
            del self.files[name]
