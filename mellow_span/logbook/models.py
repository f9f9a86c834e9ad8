"""What is kept of the work on site: the log of each job, and the rules of a firm. The design is not here."""

from __future__ import annotations

from typing import ClassVar

from django.db import models

from mellow_span.jobs.models import Firm, Job, Member


class Entry(models.Model):
    """An entry of a job's log, as `core.site.entries` describes it; never changed once it is stored.

    id: made by the device that wrote it. subject: the part it is about, by its identity alone, so that it outlives an edit taken back, and
    about: what it was called. at: by the clock on site, put right by ours where they part, clock: then what that showed; stored: when it came.
    name: of who wrote it, as they were called then.
    """

    id = models.UUIDField(primary_key=True)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="site_log")
    kind = models.CharField(max_length=20)
    subject = models.UUIDField(null=True)
    data = models.JSONField()
    at = models.DateTimeField()
    stored = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=120)
    about = models.CharField(max_length=240, blank=True, default="")
    clock = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar = ["at", "stored", "id"]
        indexes: ClassVar = [models.Index(fields=["job", "kind", "at"], name="site_log_in_order")]

    def __str__(self) -> str:
        return f"{self.kind} {self.at:%Y-%m-%d %H:%M}"


class Picture(models.Model):
    """The JPEG of a photo: beside its entry, so that no reading of the log fetches the pictures too."""

    entry = models.OneToOneField(Entry, on_delete=models.CASCADE, related_name="picture", primary_key=True)
    jpeg = models.BinaryField()

    def __str__(self) -> str:
        return f"{len(self.jpeg)} bytes"


class SiteRules(models.Model):
    """The rules of a firm for its work on site. board, end, undecided: as in `core.site.pulls.Slack` [m]; drums: lengths it buys [m];
    neutral: which core of a three-core armoured cable is the neutral (`core.site.ends.Neutral`).
    """

    firm = models.OneToOneField(Firm, on_delete=models.CASCADE, related_name="site_rules", primary_key=True)
    board = models.FloatField()
    end = models.FloatField()
    undecided = models.FloatField()
    drums = models.JSONField()
    neutral = models.CharField(max_length=10, default="black")

    def __str__(self) -> str:
        return f"{self.firm}"


class Prices(models.Model):
    """A firm's own price book, as the text of its file; see `core.design.prices.parse_book`."""

    firm = models.OneToOneField(Firm, on_delete=models.CASCADE, related_name="prices", primary_key=True)
    text = models.TextField()
    at = models.DateTimeField(auto_now=True)
    by = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True, related_name="+")

    def __str__(self) -> str:
        return f"{self.firm}"


class Money(models.Model):
    """How a firm shows amounts: its currency, and the rate of VAT that is told beside what is without it [%]; none: without VAT alone."""

    firm = models.OneToOneField(Firm, on_delete=models.CASCADE, related_name="money", primary_key=True)
    currency = models.CharField(max_length=3, default="£")
    vat = models.FloatField(null=True)

    def __str__(self) -> str:
        return self.currency


class FirmKey(models.Model):
    """A key by which a firm seals what it issues; see `exchange.sealing`. The newest that opens with the secret of this server is used."""

    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="keys")
    private = models.TextField()
    public = models.CharField(max_length=64, unique=True)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["-id"]

    def __str__(self) -> str:
        return f"{self.firm} {self.public[:16]}"


class Issue(models.Model):
    """A revision of a design as it was issued: the document word by word, as its hash was taken; see `exchange.issue`.

    version: of the job. signature: of a supervisor, sealed, with the hash it was given to and what does not meet, as the supervisor accepts it.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="issues")
    number = models.PositiveIntegerField()
    version = models.PositiveIntegerField()
    note = models.CharField(max_length=200, blank=True)
    document = models.TextField()
    hash = models.CharField(max_length=64)
    at = models.DateTimeField()
    by = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True, related_name="+")
    name = models.CharField(max_length=120)
    signature = models.JSONField(null=True)

    class Meta:
        ordering: ClassVar = ["-number"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["job", "number"], name="a_revision_is_issued_once")]

    def __str__(self) -> str:
        return f"{self.job} revision {self.number}"
