"""What is kept of practice. An exercise is its head, book and seed; nothing of it needs to be stored."""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.db import models

from mellow_span.jobs.models import Firm, Member


class Tried(models.Model):
    """An exercise that somebody handed in; the first time counts. whole: every line was right or followed; first, slip: the first wrong line and
    what it most likely was.
    """

    member = models.ForeignKey(Member, on_delete=models.CASCADE, related_name="tried")
    book = models.CharField(max_length=40)
    head = models.CharField(max_length=40)
    seed = models.PositiveIntegerField()
    whole = models.BooleanField()
    first = models.CharField(max_length=20, blank=True)
    slip = models.CharField(max_length=40, blank=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-at", "-id"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["member", "book", "head", "seed"], name="an_exercise_is_tried_once")]

    def __str__(self) -> str:
        return f"{self.head}, {self.seed}"


class Paper(models.Model):
    """A paper that a supervisor set: so many exercises of each head. minutes: 0 for no limit; open: the tables are a click away; seed: of the one
    that is printed; away: not offered any more.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="practice_papers")
    title = models.CharField(max_length=120)
    book = models.CharField(max_length=40)
    heads = models.JSONField()
    each = models.PositiveSmallIntegerField()
    minutes = models.PositiveSmallIntegerField()
    open = models.BooleanField()
    seed = models.PositiveIntegerField()
    by = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    away = models.BooleanField(default=False)

    class Meta:
        ordering: ClassVar = ["-at", "-id"]

    def __str__(self) -> str:
        return self.title


class Sitting(models.Model):
    """Somebody at a paper, once. seeds: head and seed of each of their exercises; answers: as handed in; whole: how many are right."""

    paper = models.ForeignKey(Paper, on_delete=models.CASCADE, related_name="sittings")
    member = models.ForeignKey(Member, on_delete=models.CASCADE, related_name="sittings")
    seeds = models.JSONField()
    begun = models.DateTimeField(auto_now_add=True)
    handed = models.DateTimeField(null=True)
    answers = models.JSONField(default=list)
    whole = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering: ClassVar = ["begun", "id"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["paper", "member"], name="a_paper_is_sat_once")]

    def __str__(self) -> str:
        return f"{self.member}, {self.paper}"
