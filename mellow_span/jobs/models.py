"""Jobs as they are stored: firm, member, job and its parts, and the history of every edit.

Field names, units and meaning are those of `mellow_span.core.model`; a test keeps the two in step. Device and cable are values of their
circuit and run, so they are kept whole as JSON and validated by the core on every write.
"""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.conf import settings
from django.db import models


class Firm(models.Model):
    """Who owns jobs. Nothing of one firm is ever shown to another."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=120)

    def __str__(self) -> str:
        return self.name


class Member(models.Model):
    """A person of a firm."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="member")
    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="members")
    name = models.CharField(max_length=120)

    def __str__(self) -> str:
        return self.name


class Job(models.Model):
    """One installation. version grows by one with each saved edit; an edit made on an older one is refused."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="jobs")
    name = models.CharField(max_length=200, blank=True)
    ruleset = models.CharField(max_length=40, default="bs7671")
    note = models.TextField(blank=True, max_length=2000)
    version = models.PositiveIntegerField(default=1)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering: ClassVar = ["name", "created"]

    def __str__(self) -> str:
        return self.name


class Part(models.Model):
    """A part of a job. job stands on every part so that one filter loads, and fences, a whole job."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    job = models.ForeignKey(Job, on_delete=models.CASCADE)
    position = models.PositiveIntegerField(default=0)

    class Meta:
        abstract = True
        ordering: ClassVar = ["position", "id"]


class Supply(models.Model):
    """The intake. Each surveyed value carries where it comes from: measured, declared or assumed."""

    class Source(models.TextChoices):
        """Where a value of the survey comes from."""

        MEASURED = "measured"
        DECLARED = "declared"
        ASSUMED = "assumed"

    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="supply", primary_key=True)
    earthing = models.CharField(max_length=10, null=True)
    phases = models.PositiveSmallIntegerField(default=1)
    u0 = models.FloatField(default=230.0)
    ze = models.FloatField(null=True)
    ze_source = models.CharField(max_length=10, choices=Source, default=Source.ASSUMED)
    ipf = models.FloatField(null=True)
    ipf_source = models.CharField(max_length=10, choices=Source, default=Source.ASSUMED)
    fuse_kind = models.CharField(max_length=10, null=True)
    fuse_in = models.FloatField(null=True)
    fuse_source = models.CharField(max_length=10, choices=Source, default=Source.ASSUMED)
    tails_csa = models.FloatField(null=True)
    private = models.BooleanField(default=False)


class Board(Part):
    """A distribution board."""

    name = models.CharField(max_length=200, blank=True)
    ways = models.PositiveSmallIntegerField(null=True)


class Circuit(Part):
    """A final circuit or sub-main. device: the core's Device."""

    board = models.ForeignKey(Board, on_delete=models.CASCADE, related_name="circuits")
    feeds = models.OneToOneField(Board, on_delete=models.SET_NULL, null=True, related_name="fed_by")
    name = models.CharField(max_length=200, blank=True)
    phases = models.PositiveSmallIntegerField(default=1)
    shape = models.CharField(max_length=10, default="radial")
    device = models.JSONField(default=dict)


class Load(Part):
    """A load of a circuit."""

    circuit = models.ForeignKey(Circuit, on_delete=models.CASCADE, related_name="loads")
    name = models.CharField(max_length=200, blank=True)
    kind = models.CharField(max_length=30, default="other")
    basis = models.CharField(max_length=4, default="W")
    amount = models.FloatField(null=True)
    pf = models.FloatField(default=1.0)
    quantity = models.PositiveIntegerField(default=1)


class Run(Part):
    """The cable of a circuit. cable: the core's Cable."""

    circuit = models.OneToOneField(Circuit, on_delete=models.CASCADE, related_name="run")
    cable = models.JSONField(default=dict)


class Span(Part):
    """A stretch of a run with one kind of surroundings."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="spans")
    name = models.CharField(max_length=200, blank=True)
    place = models.CharField(max_length=40, null=True)
    length = models.FloatField(null=True)
    ambient = models.FloatField(default=30.0)
    group = models.PositiveSmallIntegerField(default=1)
    laid = models.CharField(max_length=20, default="bunched")
    wrapped = models.FloatField(default=0.0)


class Edit(models.Model):
    """One saved edit. changes: a list of {op, kind, id, before, after}, enough to play it backwards."""

    id = models.UUIDField(primary_key=True)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="edits")
    member = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True)
    version = models.PositiveIntegerField()
    at = models.DateTimeField(auto_now_add=True)
    changes = models.JSONField()

    class Meta:
        ordering: ClassVar = ["-version"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["job", "version"], name="one_edit_a_version")]
