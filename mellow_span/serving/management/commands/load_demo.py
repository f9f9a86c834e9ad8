"""Load the made-up demo firm, person and jobs, once."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any
from uuid import UUID

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from mellow_span import demo
from mellow_span.exchange.document import read_file
from mellow_span.jobs.models import Firm, Job, Member
from mellow_span.jobs.reads import installation
from mellow_span.jobs.writes import count_all, take_in
from mellow_span.logbook import log
from mellow_span.logbook.issues import issue, sign
from mellow_span.logbook.keys import make_missing

NAME, PASSWORD = "demo", "mellow-span"
#: The job a first visit opens: the house with the outbuilding, which has something of every kind.
SHOWN = "orchard_row"
FOLDER = Path(demo.__file__).parent
EXCEPTIONS = "a made-up house: the circuits that fail are there to be put right before work on them begins"


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
        make_missing()

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
            if path.stem == SHOWN:
                member.opens_with = job
                _issued(job, member)
            log.bring_in(job, inputs, installation(job), entries, member.name)
        member.save()
        self.stdout.write("demo data loaded")


def _issued(job: Job, member: Member) -> None:
    """Issue a job as it is designed and sign that: what is written down on site comes after."""
    inputs = installation(job)
    row = issue(job, inputs, member, job.version, "for the client, before work begins")
    sign(row, member, row.hash, [UUID(c.id) for c in inputs.circuits], EXCEPTIONS)
