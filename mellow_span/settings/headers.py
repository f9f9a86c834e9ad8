"""Response headers that keep the page to its own scripts, styles and fonts."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; font-src 'self' data:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)


class ContentPolicy:
    """Add a content security policy to every answer: nothing is loaded from anywhere else."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request and add the header."""
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        return response
