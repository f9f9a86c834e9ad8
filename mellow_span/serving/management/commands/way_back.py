"""Make a link by which somebody sets a new password: for the one supervisor of a firm, whom nobody else can give one."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from mellow_span.core.errors import InputError
from mellow_span.jobs.models import Member


class Command(BaseCommand):
    """Make a way back for a person."""

    help = "Make a link, good once and for seven days, by which a person sets a new password; their two-step sign-in is off then."

    def add_arguments(self, parser: CommandParser) -> None:
        """Declare the arguments."""
        parser.add_argument("username")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print the link."""
        from mellow_span.people.firms import way_back

        found = Member.objects.filter(user__username__iexact=options["username"], left__isnull=True).select_related("user", "firm").first()
        if found is None:
            raise CommandError("Nobody of this name is in a firm.")
        try:
            made, token = way_back(None, found)
        except InputError as error:
            raise CommandError(f"{error.given}: only for {error.allowed}") from None
        self.stdout.write(f"For {found.user.get_username()}, until {made.ends:%d %B %Y}: /join/{token} at the address of this server")
