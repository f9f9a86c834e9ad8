"""Where requests go: the API, and the page for every other address so that deep links work."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_safe

from mellow_span.api import api
from mellow_span.serving.health import health
from mellow_span.serving.program import program


# Nothing can be changed by it, so that another way to ask is told as that and not as a token that is missing.
@csrf_exempt
@require_safe
def page(request: HttpRequest) -> HttpResponse:
    """Serve the built page; the front end reads the address."""
    index = settings.WEB_BUILD / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built yet: start with ./run demo.", status=503, content_type="text/plain")
    response = HttpResponse(index.read_bytes(), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


urlpatterns = [
    path("api/health", health),
    path("api/", api.urls),
    path("engine/<slug:mark>.zip", program),
    re_path(r"^(?!api/|assets/|engine/).*$", page),
]
handler500 = "mellow_span.api.errors.server_error"
