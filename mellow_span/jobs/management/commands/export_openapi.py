"""Write the OpenAPI description that the front end's types are generated from."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand

from mellow_span.api import api


class Command(BaseCommand):
    """Print the OpenAPI description as JSON."""

    help = "Print the OpenAPI description of the API as JSON."

    def handle(self, *args: Any, **options: Any) -> None:
        """Print it with stable order, so that a difference is a real one."""
        self.stdout.write(json.dumps(api.get_openapi_schema(), indent=1, ensure_ascii=False, sort_keys=True))
