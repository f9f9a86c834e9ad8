"""Tables of one's own: the packs of a firm in and out, and what turned when one came in anew or a cell was read."""

from __future__ import annotations

import base64
from datetime import datetime
from typing import Any
from urllib.parse import quote

from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema, Status

from mellow_span.api.errors import Refusal
from mellow_span.core.errors import InputError
from mellow_span.core.model import parts as core
from mellow_span.core.model.spec import PACK_TEXT
from mellow_span.core.rulesets import RuleSet, rule_set
from mellow_span.core.rulesets.pack_about import about
from mellow_span.core.rulesets.pack_departure import TableDeparture, departure
from mellow_span.core.rulesets.packs import joined
from mellow_span.exchange.packs import MOST_ZIP, as_zip, checked, from_texts, from_zip
from mellow_span.jobs import models, packs
from mellow_span.jobs.ownership import NotYours, designer_of, member_of

router = Router()
REFUSALS: dict[Any, Any] = {400: Refusal, 401: Refusal, 403: Refusal, 404: Refusal, 422: Refusal}
SHOWN = 20
NO_NUL = r"^[^\x00]*$"


class PackFileIn(Schema):
    """A file of a pack."""

    name: str = Field(max_length=80, pattern=NO_NUL)
    text: str = Field(max_length=PACK_TEXT, pattern=NO_NUL)


class PackIn(Schema):
    """A pack that is brought in: a zip, as base64, or its files. look: only looked at, and not kept.

    words: of a supervisor, why it is right though it departs from its book past the bounds.
    """

    zip: str = Field(default="", max_length=MOST_ZIP * 4 // 3 + 4)
    files: list[PackFileIn] = Field(default_factory=list, max_length=100)
    look: bool = False
    words: str = Field(default="", max_length=400, pattern=NO_NUL)


class DepartureOut(Schema):
    """How far a pack departs from its book, as `core.rulesets.pack_departure` has it, cells in words. bounds: what a supervisor has to confirm."""

    tables: list[TableDeparture]
    tens: list[str]
    unsafe: list[str]
    otherwise: list[str]
    bounds: list[str]


class PackOut(Schema):
    """A pack. book: what a job is under that uses it; over: the book it is laid over; tables: those it brings cells for.

    not_asked, silent: checks that it leaves out; jobs: how many jobs use it; away: not offered any more. departure: how far it departs from its
    book, where it is looked at; confirmed: why a supervisor took it all the same.
    """

    mark: str
    book: str
    name: str
    title: str
    version: str
    over: str
    over_title: str
    source: str
    checked: str
    tables: list[str]
    not_asked: list[str]
    silent: list[str]
    by: str
    at: datetime | None
    jobs: int
    away: bool
    departure: DepartureOut | None
    confirmed: str


class TurnedCheck(Schema):
    """A check that stands otherwise, of a part of a job; before, after: verdicts, 'not_asked' where it is not asked."""

    job: str
    name: str
    part: str
    check: str
    clause: str
    before: str
    after: str
    text: str


class RecheckOut(Schema):
    """A re-check of all jobs of the firm. share: how far it is, 1 when it is done; jobs: how many it looked at.

    moved: figures that are others though their check stands as it did, the words of it before and after.
    """

    id: int
    cause: str
    by: str
    at: datetime
    share: float
    jobs: int
    turned: list[TurnedCheck]
    moved: list[TurnedCheck]


def _out(row: models.Pack) -> PackOut:
    told = about(packs.core_pack(row))
    using = models.Job.objects.filter(firm=row.firm_id, removed__isnull=True, ruleset__contains=f"+{row.mark}").count()
    return PackOut(
        mark=row.mark, book=joined(row.over, [row.mark]), name=row.name, title=row.title, version=row.version, over=row.over,
        over_title=rule_set(row.over).title, source=row.source,
        checked=row.checked, tables=list(told.tables), not_asked=list(told.not_asked), silent=list(told.silent), by=row.by.name if row.by else "",
        at=row.at, jobs=using, away=row.away, departure=None, confirmed=row.confirmed,
    )  # fmt: skip


def _departure(book: RuleSet, laid: RuleSet) -> DepartureOut:
    found = departure(book, laid)
    return DepartureOut(
        tables=list(found.tables), tens=[m.told for m in found.tens], unsafe=[m.told for m in found.unsafe], otherwise=list(found.otherwise),
        bounds=list(found.bounds),
    )  # fmt: skip


def _given(given: PackIn) -> core.Pack:
    if not given.zip:
        return from_texts([(f.name, f.text) for f in given.files])
    try:
        return from_zip(base64.b64decode(given.zip, validate=True))
    except ValueError as error:
        raise InputError("zip", str(error), "a zip file, as base64") from None


@router.get("", response={200: list[PackOut], **REFUSALS}, operation_id="packs")
def list_packs(request: HttpRequest) -> Any:
    """List the packs of the firm, those put away among them."""
    rows = models.Pack.objects.filter(firm=member_of(request.user).firm_id).select_related("by")
    return [_out(row) for row in rows]


@router.post("", response={200: PackOut, 201: PackOut, **REFUSALS}, operation_id="bring_pack")
def bring(request: HttpRequest, given: PackIn) -> Any:
    """Bring a pack in for the firm, or only look at it. Refused with everything that is wrong with it; then nothing is kept."""
    member, pack = designer_of(request.user), _given(given)
    if given.look:
        laid, told = checked(pack), about(pack)
        return PackOut(
            mark="", book="", name=told.id, title=told.title, version=told.version, over=told.over, over_title=rule_set(told.over).title,
            source=told.source, checked=told.checked,
            tables=list(told.tables), not_asked=list(told.not_asked), silent=list(told.silent), by="", at=None, jobs=0, away=False,
            departure=_departure(rule_set(told.over), laid), confirmed="",
        )  # fmt: skip
    return Status(201, _out(packs.keep(member.firm, member, pack, given.words)))


@router.get("/rechecks", response={200: list[RecheckOut], **REFUSALS}, operation_id="rechecks")
def list_rechecks(request: HttpRequest) -> Any:
    """List what turned when a cell was read or a pack came in anew, the newest first."""
    rows = models.Recheck.objects.filter(firm=member_of(request.user).firm_id).select_related("by")[:SHOWN]
    return [
        RecheckOut(
            id=row.pk, cause=row.cause, by=row.by.name if row.by else "", at=row.at, jobs=row.worked,
            share=1.0 if row.state == models.Recheck.State.DONE else min(0.99, row.worked / (row.total or 1)),
            turned=[TurnedCheck(**t) for t in row.turned], moved=[TurnedCheck(**t) for t in row.moved],
        )
        for row in rows
    ]  # fmt: skip


@router.delete("/{mark}", response={200: list[PackOut], **REFUSALS}, operation_id="put_pack_away")
def put_away(request: HttpRequest, mark: str) -> Any:
    """Offer a pack no longer. The jobs and issues that use it keep it."""
    _one(designer_of(request.user), mark).update(away=True)
    return list_packs(request)


@router.get("/{mark}/file", response={200: None, **REFUSALS}, operation_id="pack_file")
def file(request: HttpRequest, mark: str) -> HttpResponse:
    """Return a pack as a zip."""
    row = _one(member_of(request.user), mark).get()
    answer = HttpResponse(as_zip(packs.core_pack(row)), content_type="application/zip")
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(f'{row.name}-{row.version}')}.zip"
    return answer


def _one(member: models.Member, mark: str) -> Any:
    found = models.Pack.objects.filter(firm=member.firm_id, mark=mark.replace("\x00", ""))
    if not found.exists():
        raise NotYours("pack")
    return found
