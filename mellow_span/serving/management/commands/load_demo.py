"""Load the made-up demo firm, person and jobs, once."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from mellow_span import demo
from mellow_span.exchange.document import read_file
from mellow_span.jobs.models import Firm, Member
from mellow_span.jobs.reads import installation
from mellow_span.jobs.writes import count_all, take_in
from mellow_span.logbook import log

NAME, PASSWORD = "demo", "mellow-span"
#: The job a first visit opens: the house with the outbuilding, which has something of every kind.
SHOWN = "orchard_row"
FOLDER = Path(demo.__file__).parent


class Command(BaseCommand):
    """Load the demo data if there is none yet."""

    help = "Load the demo firm and its jobs, once."

    def add_arguments(self, parser: CommandParser) -> None:
        """Take --migrate."""
        parser.add_argument(
            "--migrate", action="store_true", help="bring the database up to date first: one start of Python instead of two"
        )

    def handle(self, *args: Any, **options: Any) -> None:
        """Load it."""
        if options["migrate"]:
            call_command("migrate", verbosity=0, interactive=False)
        self._load()
        count_all()

    @transaction.atomic
    def _load(self) -> None:
        user, new = get_user_model().objects.get_or_create(username=NAME)
        if not new:
            return
        user.set_password(PASSWORD)
        user.save()
        firm = Firm.objects.create(name="Demo firm")
        member = Member.objects.create(user=user, firm=firm, name="Demo person", role=Member.Role.SUPERVISOR)
        for path in sorted(FOLDER.glob("*.json")):
            inputs, entries = read_file(json.loads(path.read_text("utf-8")))
            job = take_in(firm, inputs)
            log.bring_in(job, inputs, installation(job), entries, member.name)
            if path.stem == SHOWN:
                member.opens_with = job
        member.save()
        self.stdout.write("demo data loaded")
