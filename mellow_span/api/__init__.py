"""The HTTP API: parse, hand to the core, serialise. No arithmetic here."""

from __future__ import annotations

from typing import Any

from ninja import NinjaAPI
from ninja.security import django_auth

from mellow_span.answers.problems import TYPE
from mellow_span.api import (
    body,
    circuits,
    ends,
    engine,
    errors,
    existing,
    firm,
    follow,
    isolation,
    issues,
    jobs,
    links,
    materials,
    overview,
    packs,
    papers,
    places,
    practice,
    pulls,
    rules,
    said,
    session,
    site,
    tests_on_site,
    what_if,
)

ASKED = (
    "SignIn", "FirmIn", "PasswordIn", "CodeIn", "FirmName", "RoleIn", "InviteIn", "JoinIn", "LinkIn", "SiteRulesIn", "EntryIn", "PricesIn",
    "ReadIn", "IssueIn", "SignatureIn", "NewJob", "Archive",
    "ChangeIn", "EditIn", "UndoIn", "BackIn", "SaidIn", "RowsIn", "CopyIn", "PackIn", "PackFileIn", "ExerciseIn", "AnswersIn", "PaperIn", "HandIn",
    "DifferenceIn", "FollowIn",
)  # fmt: skip


# What any request may be refused with, always in the one shape.
COMMON = (400, 403, 405, 413, 415, 422, 429, 500, 503)
REFUSED = {"description": "Refused", "content": {TYPE: {"schema": {"$ref": "#/components/schemas/Refusal"}}}}


def _as_problem(answer: dict[str, Any]) -> None:
    """Say of an answer that is a refusal which kind of JSON it is."""
    content = answer.get("content", {})
    if content.get("application/json", {}).get("schema", {}).get("$ref", "").endswith("/Refusal"):
        answer["content"] = {TYPE: content["application/json"]}


class Api(NinjaAPI):
    """The API, with a description that says of every answer what is true of it: all its fields are there."""

    def get_openapi_schema(self, *args: Any, **more: Any) -> Any:
        """Return the OpenAPI description."""
        schema = super().get_openapi_schema(*args, **more)
        for path in schema["paths"].values():
            for operation in path.values():
                for answer in operation["responses"].values():
                    _as_problem(answer)
                for status in COMMON:
                    operation["responses"].setdefault(status, {"$ref": "#/components/responses/Refused"})
        schema["components"]["responses"] = {"Refused": REFUSED}
        for name, about in schema["components"]["schemas"].items():
            if name not in ASKED and "properties" in about:
                about["required"] = sorted(about["properties"])
        return schema


api = Api(title="Mellow Span", version="1", docs_url=None, urls_namespace="api", parser=body.Body())
api.add_router("/session", session.router, tags=["session"])
api.add_router("/jobs", jobs.router, tags=["jobs"], auth=django_auth)
api.add_router("/jobs", overview.router, tags=["plan"], auth=django_auth)
api.add_router("/jobs", circuits.router, tags=["plan"], auth=django_auth)
api.add_router("/jobs", follow.router, tags=["plan"], auth=django_auth)
api.add_router("/jobs", places.router, tags=["plan"], auth=django_auth)
api.add_router("/jobs", said.router, tags=["said"], auth=django_auth)
api.add_router("/jobs", what_if.router, tags=["what if"], auth=django_auth)
api.add_router("/rules", rules.router, tags=["rules"], auth=django_auth)
api.add_router("/practice", practice.router, tags=["practice"], auth=django_auth)
api.add_router("/packs", packs.router, tags=["packs"], auth=django_auth)
api.add_router("/jobs", links.router, tags=["links"], auth=django_auth)
api.add_router("/jobs", pulls.router, tags=["site"], auth=django_auth)
api.add_router("/engine", engine.router, tags=["engine"], auth=django_auth)
api.add_router("/jobs", engine.of_job, tags=["engine"], auth=django_auth)
api.add_router("/jobs", ends.router, tags=["site"], auth=django_auth)
api.add_router("/jobs", isolation.router, tags=["site"], auth=django_auth)
api.add_router("/jobs", tests_on_site.router, tags=["site"], auth=django_auth)
api.add_router("/jobs", existing.router, tags=["site"], auth=django_auth)
api.add_router("/jobs", issues.router, tags=["issues"], auth=django_auth)
api.add_router("/jobs", papers.router, tags=["papers"], auth=django_auth)
api.add_router("/jobs", site.router, tags=["site"], auth=django_auth)
api.add_router("/jobs", materials.router, tags=["site"], auth=django_auth)
api.add_router("/firm/prices", materials.prices_router, tags=["site"], auth=django_auth)
api.add_router("/firm/site-rules", site.rules_router, tags=["site"], auth=django_auth)
api.add_router("/firm", firm.router, tags=["firm"], auth=django_auth)
# What a link opens is open to whoever has it.
api.add_router("/invitations", firm.door, tags=["firm"])
api.add_router("/shared", links.door, tags=["links"])
errors.install(api)
