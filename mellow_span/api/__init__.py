"""The HTTP API: parse, hand to the core, serialise. No arithmetic here."""

from __future__ import annotations

from typing import Any

from ninja import NinjaAPI
from ninja.security import django_auth

from mellow_span.api import errors, jobs, plan, rules, said, session, what_if

ASKED = ("SignIn", "NewJob", "Archive", "ChangeIn", "EditIn", "UndoIn", "BackIn", "SaidIn", "RowsIn", "CopyIn")


class Api(NinjaAPI):
    """The API, with a description that says of every answer what is true of it: all its fields are there."""

    def get_openapi_schema(self, *args: Any, **more: Any) -> Any:
        """Return the OpenAPI description."""
        schema = super().get_openapi_schema(*args, **more)
        for name, about in schema["components"]["schemas"].items():
            if name not in ASKED and "properties" in about:
                about["required"] = sorted(about["properties"])
        return schema


api = Api(title="Mellow Span", version="1", docs_url=None, urls_namespace="api")
api.add_router("/session", session.router, tags=["session"])
api.add_router("/jobs", jobs.router, tags=["jobs"], auth=django_auth)
api.add_router("/jobs", plan.router, tags=["plan"], auth=django_auth)
api.add_router("/jobs", said.router, tags=["said"], auth=django_auth)
api.add_router("/jobs", what_if.router, tags=["what if"], auth=django_auth)
api.add_router("/rules", rules.router, tags=["rules"], auth=django_auth)
errors.install(api)
