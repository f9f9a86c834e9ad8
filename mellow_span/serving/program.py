"""The rules, tables and program of this server as one archive, for devices that work jobs out by themselves."""

from __future__ import annotations

from functools import cache

import brotli
from django.http import HttpRequest, HttpResponse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_safe

from mellow_span.exchange.program import archive, fingerprint

# Dense enough at a twentieth of the time that the densest takes.
DENSE = 9


@cache
def _packed() -> bytes:
    return bytes(brotli.compress(archive(), quality=DENSE))


@csrf_exempt
@require_safe
def program(request: HttpRequest, mark: str) -> HttpResponse:
    """Serve the archive of the program that this server works by; of another one there is none here."""
    if mark != fingerprint():
        return HttpResponse("This server works by another program.", status=404, content_type="text/plain")
    if "br" in request.headers.get("Accept-Encoding", ""):
        response = HttpResponse(_packed(), content_type="application/zip", headers={"Content-Encoding": "br"})
    else:
        response = HttpResponse(archive(), content_type="application/zip")
    # It never changes under its name.
    response["Cache-Control"], response["Vary"] = "public, max-age=31536000, immutable", "Accept-Encoding"
    return response
