"""The log of the work on site, and the firm's rules for it."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal, cast
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Field, Router, Schema
from ninja.decorators import decorate_view

from mellow_span.answers.site import EntryOut, Log, told
from mellow_span.api.asked import ask
from mellow_span.api.behind import behind
from mellow_span.api.errors import Refusal, field_error
from mellow_span.api.render import send
from mellow_span.api.waiting import Searching
from mellow_span.core.errors import InputError
from mellow_span.core.site.ends import Neutral
from mellow_span.core.site.entries import plain
from mellow_span.core.site.readings import TITLES, UNITS
from mellow_span.exchange.instrument_file import FileLine, read_instrument
from mellow_span.exchange.readings import entries_of
from mellow_span.jobs.ownership import NotYours, designer_of, job_of, member_of
from mellow_span.jobs.reads import installation
from mellow_span.logbook import log
from mellow_span.logbook.models import Picture, SiteRules
from mellow_span.logbook.rules import site_rules

router, rules_router = Router(), Router()
REFUSALS: dict[Any, Any] = {401: Refusal, 404: Refusal, 422: Refusal}


class EntryIn(Schema):
    """An entry as it was made on site. id: made there; sent again it is there once. at: with its zone. data: as docs/format says for its kind.

    sent: what the clock there shows as it is sent: where that is not ours, the times of its entries are put right by it.
    """

    id: UUID
    kind: str
    subject: UUID | None = None
    data: dict[str, Any]
    at: datetime
    sent: datetime | None = None


# Entries that are sent together: a day's readings of a board.
MOST_AT_ONCE = 60


class EntriesIn(Schema):
    """Entries as they were made on site, in their order: sixty readings are one question. sent: as for one."""

    entries: list[EntryIn] = Field(min_length=1, max_length=MOST_AT_ONCE)
    sent: datetime | None = None


@dataclass(slots=True)
class Taken:
    """What became of an entry. why: in words, why it was not accepted; empty where it is stored."""

    id: UUID
    why: str


@dataclass(slots=True)
class AllTaken:
    """What became of each entry, in their order."""

    entries: list[Taken]


class FileIn(Schema):
    """A file of an instrument, as base64. decimal: what parts decimals, where that was asked about."""

    content: str = Field(max_length=1_400_000)
    decimal: Literal["", "point", "comma"] = ""


@dataclass(slots=True)
class FileRow:
    """A line of a file as it was read. entry: to be written down, None where wrong says why not or it has to be asked about.

    said: what it was read as; asks: the two figures it may mean, by decimal point and by decimal comma. at: its time as the file has it, without a
    zone where it has none: then it is of the clock of who brings it; empty where it says none.
    """

    line: int
    circuit: str
    test: str
    cell: str
    said: str
    wrong: str
    asks: list[str]
    entry: dict[str, Any] | None
    at: str


@dataclass(slots=True)
class FileLook:
    """A file as it was read: its encoding, how many lines stand before its table, what each column was taken for, its readings."""

    encoding: str
    before: int
    columns: list[list[str]]
    rows: list[FileRow]


class SiteRulesIn(Schema):
    """What is cut more than a run is long [m]: at a board, at another end, at an end not decided yet; lengths of the drums that are bought [m].

    neutral: which core of a three-core armoured cable is the neutral, the other one being the cpc; left out: as it was.
    """

    board: float = Field(ge=0, le=20)
    end: float = Field(ge=0, le=20)
    undecided: float = Field(ge=0, le=20)
    drums: list[float] = Field(min_length=1, max_length=8)
    neutral: Neutral | None = None


@router.get("/{uuid:job_id}/site", response={200: Log, 202: Searching, **REFUSALS}, operation_id="site_log")
@decorate_view(behind)
def site_log(request: HttpRequest, job_id: UUID) -> Any:
    """Return all that was written down on site for a job."""
    return ask(request, job_id, "/site")


@router.post("/{uuid:job_id}/site", response={200: EntryOut, **REFUSALS}, operation_id="write_down")
def write_down(request: HttpRequest, job_id: UUID, given: EntryIn) -> Any:
    """Write down what was done or read on site. The job is not changed by it, and anybody of the firm may do it."""
    member, job = member_of(request.user), job_of(request.user, job_id)
    entry = log.write(job, installation(job), member, given.id, given.kind, given.subject, given.data, given.at, given.sent)
    return send(EntryOut, told(entry))


@router.post("/{uuid:job_id}/site/entries", response={200: AllTaken, **REFUSALS}, operation_id="write_down_all")
def write_down_all(request: HttpRequest, job_id: UUID, given: EntriesIn) -> Any:
    """Write down several entries, each for itself: one that does not fit keeps none of the others out."""
    member, job = member_of(request.user), job_of(request.user, job_id)
    inputs = log.numbered(job, installation(job), [(one.kind, one.subject) for one in given.entries])
    found = []
    for one in given.entries:
        why = ""
        try:
            log.write(job, inputs, member, one.id, one.kind, one.subject, one.data, one.at, given.sent)
        except InputError as error:
            why = field_error(error).message
        found.append(Taken(one.id, why))
    return send(AllTaken, AllTaken(found))


@router.post("/{uuid:job_id}/site/file", response={200: FileLook, **REFUSALS}, operation_id="read_file")
def read_file(request: HttpRequest, job_id: UUID, given: FileIn) -> Any:
    """Read a file of an instrument: what each line was read as. Nothing is written down by it."""
    job = job_of(request.user, job_id)
    try:
        content = base64.b64decode(given.content, validate=True)
    except ValueError as error:
        raise InputError("content", str(error), "a file, as base64") from None
    read = read_instrument(content, given.decimal)
    inputs = installation(job)
    rows = []
    for one, e in entries_of(read, inputs, "", timezone.now().isoformat()):
        unit = UNITS.get(one.quantity, "")
        time = one.more.get("time", "")
        at = datetime.fromisoformat(time).isoformat() if e and time else ""
        entry = {"kind": e.kind, "subject": e.subject, "data": plain(e.data)} if e else None
        asks = [_exact(x, unit) for x in one.asks or ()]
        rows.append(FileRow(one.line, one.circuit, TITLES.get(one.quantity, ""), one.cell, _said(one, unit), one.wrong, asks, entry, at))
    return send(FileLook, FileLook(read.encoding, read.before, [list(c) for c in read.columns], rows))


def _said(one: FileLine, unit: str) -> str:
    if one.wrong or one.asks:
        return ""
    if one.tripped:
        return "RCD tripped"
    if one.ok is not None:
        return "yes" if one.ok else "no"
    if one.value is None:
        return "over range"
    return f"{'over ' if one.over else ''}{_exact(one.value, unit)}"


def _exact(value: float, unit: str) -> str:
    """A figure as it was read, with nothing rounded away."""
    return f"{value:.12g} {unit}".rstrip()


@router.get("/{uuid:job_id}/photos/{uuid:photo_id}", response={200: bytes, **REFUSALS}, operation_id="photo")
def photo(request: HttpRequest, job_id: UUID, photo_id: UUID) -> Any:
    """Return a photo taken on site, as a JPEG."""
    job, mark = job_of(request.user, job_id), f'"{photo_id}"'
    there = Picture.objects.filter(entry__job=job, entry=photo_id)
    # A picture never changes: a browser that has it asks whether it may still show it, and is not sent it again.
    if request.headers.get("If-None-Match") == mark and there.exists():
        response = HttpResponse(status=304)
    elif (found := there.first()) is not None:
        response = HttpResponse(bytes(found.jpeg), content_type="image/jpeg")
    else:
        raise NotYours("photo")
    response["ETag"], response["Cache-Control"] = mark, "private, no-cache"
    return response


@rules_router.get("", response={200: SiteRulesIn, **REFUSALS}, operation_id="site_rules")
def rules_of_site(request: HttpRequest) -> Any:
    """Return the firm's rules for its work on site."""
    return _rules(site_rules(member_of(request.user).firm))


@rules_router.patch("", response={200: SiteRulesIn, **REFUSALS}, operation_id="set_site_rules")
def set_rules_of_site(request: HttpRequest, given: SiteRulesIn) -> Any:
    """Say what the firm cuts more than a run is long, and which drums it buys."""
    for k, length in enumerate(given.drums):
        if not 5 <= length <= 1000 or length != round(length, 1):
            raise InputError(f"drums[{k}]", length, "5 to 1000 m, to the decimetre")
    given.drums = sorted(set(given.drums))
    SiteRules.objects.update_or_create(firm=designer_of(request.user).firm, defaults=given.dict(exclude_none=True))
    return _rules(site_rules(member_of(request.user).firm))


def _rules(found: SiteRules) -> SiteRulesIn:
    return SiteRulesIn(board=found.board, end=found.end, undecided=found.undecided, drums=found.drums, neutral=cast(Neutral, found.neutral))
