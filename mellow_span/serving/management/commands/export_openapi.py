"""Write what the front end is generated from: the OpenAPI description, the model's defaults for parts added there first, the shapes of answers."""

from __future__ import annotations

import dataclasses
import json
from collections.abc import Mapping
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from mellow_span.api import api
from mellow_span.core.model import parts as model
from mellow_span.core.model.fields import default
from mellow_span.core.model.limits import MOST
from mellow_span.core.model.parse import required


class Command(BaseCommand):
    """Print the OpenAPI description as JSON, or one of the other two."""

    help = (
        "Print the OpenAPI description of the API as JSON; with --defaults an empty part of each kind, and the most of each; with --shapes what "
        "each answer must have."
    )

    def add_arguments(self, parser: CommandParser) -> None:
        """Take --defaults and --shapes."""
        parser.add_argument("--defaults", action="store_true")
        parser.add_argument("--shapes", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print it with stable order, so that a difference is a real one."""
        parts = {name: empty(cls) for name, cls in PARTS.items()} | {"most": MOST, "book": default("job", "ruleset")}
        described = api.get_openapi_schema()
        found = parts if options["defaults"] else shapes(described) if options["shapes"] else described
        self.stdout.write(json.dumps(found, indent=1, ensure_ascii=False, sort_keys=True))


PARTS: dict[str, Any] = {
    "board": model.Board, "circuit": model.Circuit, "load": model.Load, "span": model.Span, "route": model.Route, "stage": model.Stage,
    "dismissal": model.Dismissal,
}  # fmt: skip


def empty(cls: Any) -> dict[str, Any]:
    """Return a part of the model with nothing entered, as plain data; its identities are empty."""
    blank = dict.fromkeys(required(cls), "")
    return dataclasses.asdict(cls(**blank))


def shapes(described: Mapping[str, Any]) -> dict[str, Any]:
    """Return by operation what its answer must have to be one: the names of its fields, or that it is a list. of: which of the shapes."""
    known: list[Any] = []
    found: dict[str, int] = {}
    for path, operations in described["paths"].items():
        for method, operation in operations.items():
            shape = _shape(described, operation["responses"])
            if shape is None:
                continue
            if shape not in known:
                known.append(shape)
            found[f"{method.upper()} {path}"] = known.index(shape)
    return {"shapes": known, "of": found}


def _shape(described: Mapping[str, Any], responses: Mapping[Any, Any]) -> list[str] | str | None:
    """What the answer of an operation that went well must have, None where it says nothing about it."""
    well: Mapping[str, Any] = next((one for code, one in responses.items() if 200 <= int(code) < 300 and int(code) != 202), {})
    schema = well.get("content", {}).get("application/json", {}).get("schema", {})
    while "$ref" in schema:
        schema = described["components"]["schemas"][schema["$ref"].rsplit("/", 1)[-1]]
    if schema.get("type") == "array":
        return "list"
    return sorted(schema.get("required", [])) or None
