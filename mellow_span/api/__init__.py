"""The HTTP API: parse, hand to the core, serialise. No arithmetic here."""

from __future__ import annotations

from ninja import NinjaAPI
from ninja.security import django_auth

from mellow_span.api import errors, jobs, rules, session

api = NinjaAPI(title="Mellow Span", version="1", docs_url=None, urls_namespace="api")
api.add_router("/session", session.router, tags=["session"])
api.add_router("/jobs", jobs.router, tags=["jobs"], auth=django_auth)
api.add_router("/rules", rules.router, tags=["rules"], auth=django_auth)
errors.install(api)
