"""The command `mellow-span`: the core without the web."""

from mellow_span.cli.commands import main

__all__ = ["main"]
