"""Add a person, and their firm if it is new."""

from __future__ import annotations

from getpass import getpass
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.password_validation import validate_password
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from mellow_span.jobs.models import Firm, Member


class Command(BaseCommand):
    """Add a person who can sign in."""

    help = "Add a person to a firm; the password is asked for, or read from --password-file."

    def add_arguments(self, parser: CommandParser) -> None:
        """Declare the arguments."""
        parser.add_argument("username")
        parser.add_argument("--firm", required=True)
        parser.add_argument("--name", default="")
        parser.add_argument("--password-file")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        """Add the person."""
        path = options["password_file"]
        password = open(path, encoding="utf-8").read().strip() if path else getpass("Password: ")  # noqa: SIM115
        validate_password(password)
        user = get_user_model().objects.create_user(options["username"], password=password)
        firm, _ = Firm.objects.get_or_create(name=options["firm"])
        Member.objects.create(user=user, firm=firm, name=options["name"] or options["username"])
        self.stdout.write(f"{user.get_username()} can sign in")
