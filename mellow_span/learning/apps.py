"""The app of Django that stores it."""

from django.apps import AppConfig


class Learning(AppConfig):
    """Its tables and migrations go by the name that this room had first."""

    name = "mellow_span.learning"
    label = "practice"
