"""Write what the front end is generated from: the OpenAPI description, and the model's defaults for parts that are added there first."""

from __future__ import annotations

import dataclasses
import json
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from mellow_span.api import api
from mellow_span.core.model import parts as model
from mellow_span.core.model.fields import default
from mellow_span.core.model.limits import MOST
from mellow_span.core.model.parse import required


class Command(BaseCommand):
    """Print the OpenAPI description as JSON, or with --defaults an empty part of each kind, the most of each, and the first book."""

    help = "Print the OpenAPI description of the API as JSON, or with --defaults an empty part of each kind, and the most of each."

    def add_arguments(self, parser: CommandParser) -> None:
        """Take --defaults."""
        parser.add_argument("--defaults", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print it with stable order, so that a difference is a real one."""
        parts = {name: empty(cls) for name, cls in PARTS.items()} | {"most": MOST, "book": default("job", "ruleset")}
        found = parts if options["defaults"] else api.get_openapi_schema()
        self.stdout.write(json.dumps(found, indent=1, ensure_ascii=False, sort_keys=True))


PARTS: dict[str, Any] = {
    "board": model.Board, "circuit": model.Circuit, "load": model.Load, "span": model.Span, "route": model.Route, "dismissal": model.Dismissal,
}  # fmt: skip


def empty(cls: Any) -> dict[str, Any]:
    """Return a part of the model with nothing entered, as plain data; its identities are empty."""
    blank = dict.fromkeys(required(cls), "")
    return dataclasses.asdict(cls(**blank))
