"""The app of Django that stores it."""

from django.apps import AppConfig


class Logbook(AppConfig):
    """Its tables and migrations go by the name that this room had first."""

    name = "mellow_span.logbook"
    label = "site"
