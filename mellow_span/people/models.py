"""What is kept of people beside their membership: invitations, devices, wrong passwords, what happened, links for clients."""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.conf import settings
from django.db import models

from mellow_span.jobs.models import Firm, Job, Member


class Invitation(models.Model):
    """A one-time invitation into a firm. token: only its hash is kept. used: when somebody joined by it.

    member: whom it gives a new password, where it is the way back of somebody who was here before; None for somebody new.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="invitations")
    token = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=120)
    role = models.CharField(max_length=12, choices=Member.Role)
    member = models.ForeignKey(Member, on_delete=models.CASCADE, null=True, related_name="ways_back")
    by = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True, related_name="+")
    made = models.DateTimeField(auto_now_add=True)
    ends = models.DateTimeField()
    used = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["made"]

    def __str__(self) -> str:
        return self.name


class Device(models.Model):
    """A browser in which somebody is signed in. session: the key of its session; agent: browser and system, as far as it says."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="devices")
    session = models.CharField(max_length=40, unique=True)
    agent = models.CharField(max_length=60)
    made = models.DateTimeField(auto_now_add=True)
    seen = models.DateTimeField()

    class Meta:
        ordering: ClassVar = ["-seen"]

    def __str__(self) -> str:
        return self.agent


class Attempt(models.Model):
    """A wrong password: under which name and from which address, both only as keyed hashes."""

    name = models.CharField(max_length=32)
    address = models.CharField(max_length=32)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["at"]
        indexes: ClassVar = [
            models.Index(fields=["name", "at"], name="attempts_by_name"),
            models.Index(fields=["address", "at"], name="attempts_by_address"),
        ]

    def __str__(self) -> str:
        return self.name


class Event(models.Model):
    """Something that happened in a firm and is kept: who, what, about what, when."""

    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="events")
    member = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True, related_name="+")
    kind = models.CharField(max_length=24)
    about = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-id"]
        indexes: ClassVar = [models.Index(fields=["firm", "-id"], name="events_of_a_firm")]

    def __str__(self) -> str:
        return f"{self.kind} {self.about}"


class ClientLink(models.Model):
    """A link by which somebody outside the firm reads one version of one job until it ends. token: only its hash is kept.

    document: the job in the open format as it was then, so that later edits do not show.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="links")
    token = models.CharField(max_length=64, unique=True)
    name = models.CharField(max_length=120)
    version = models.PositiveIntegerField()
    document = models.JSONField()
    by = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True, related_name="+")
    made = models.DateTimeField(auto_now_add=True)
    ends = models.DateTimeField()

    class Meta:
        ordering: ClassVar = ["made"]

    def __str__(self) -> str:
        return self.name
