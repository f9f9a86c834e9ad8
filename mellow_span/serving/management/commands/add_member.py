"""Add a person and a firm of their own, or into a firm named by its identity: a firm is never joined by its name."""

from __future__ import annotations

from getpass import getpass
from typing import Any

from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from mellow_span.core.errors import InputError
from mellow_span.jobs.models import Firm, Member


class Command(BaseCommand):
    """Add a person who can sign in."""

    help = "Add a person with a new firm (--new-firm), or to one by its identity (--firm); the password is asked for, or read from a file."

    def add_arguments(self, parser: CommandParser) -> None:
        """Declare the arguments."""
        parser.add_argument("username")
        where = parser.add_mutually_exclusive_group(required=True)
        where.add_argument("--new-firm", help="the name of a firm that is made")
        where.add_argument("--firm", help="the identity of a firm that is there")
        parser.add_argument("--name", default="")
        parser.add_argument("--role", choices=Member.Role.values, help="in a firm that is there; who makes a firm is its supervisor")
        parser.add_argument("--password-file")

    @transaction.atomic
    def handle(self, *args: Any, **options: Any) -> None:
        """Add the person."""
        from mellow_span.logbook.keys import key_of
        from mellow_span.people.firms import add_person

        new = options["new_firm"]
        try:
            firm = None if new else Firm.objects.get(pk=options["firm"])
        except (Firm.DoesNotExist, ValidationError):
            raise CommandError("There is no firm of this identity.") from None
        path = options["password_file"]
        password = open(path, encoding="utf-8").read().strip() if path else getpass("Password: ")  # noqa: SIM115
        role = Member.Role.SUPERVISOR if new else options["role"] or Member.Role.DESIGNER
        try:
            user = add_person(options["username"], password)
        except InputError as error:
            raise CommandError(f"{error.field}: {error.allowed}") from None
        firm = firm or Firm.objects.create(name=new)
        key_of(firm)
        Member.objects.create(user=user, firm=firm, name=options["name"] or options["username"], role=role)
        self.stdout.write(f"{user.get_username()} can sign in, {role} of {firm.name} ({firm.pk})")
