"""A device that works jobs out by itself: the same questions as the server's, of a job that was laid up there, with what was changed since.

Everything goes in and comes out as JSON text, so that nothing of this program has to be known on the other side (web/src/engine).
"""

from __future__ import annotations

import json
import time
import uuid
from collections.abc import Callable, Sequence
from copy import copy
from dataclasses import replace
from datetime import datetime
from typing import Any

from mellow_span.answers.books import book_told, hits_of, rules_told, table_told, tables_told
from mellow_span.answers.columns import changes_of
from mellow_span.answers.given import Kept, SiteWays
from mellow_span.answers.kit import Kit
from mellow_span.answers.papers import File, paper_file, paper_look, papers_of
from mellow_span.answers.practice import exercise_told, marked
from mellow_span.answers.problems import problem
from mellow_span.answers.questions import QUESTIONS, SOUGHT
from mellow_span.answers.refusals import at_field
from mellow_span.answers.said import lines_said, rows_said
from mellow_span.answers.searches import SEARCHES
from mellow_span.answers.stages import part_of, seen
from mellow_span.answers.standing import stand
from mellow_span.answers.state import figures_of
from mellow_span.answers.written import plain, written
from mellow_span.core.design.books import as_shipped
from mellow_span.core.design.effort import Effort
from mellow_span.core.design.prices import PriceBook, parse_book, shipped, with_pack
from mellow_span.core.errors import CoreError, InputError, RuleSetError
from mellow_span.core.findings.why import why
from mellow_span.core.model.changes import Refused, apply
from mellow_span.core.model.parse import parse
from mellow_span.core.model.parts import CellRead, Installation, Pack
from mellow_span.core.practice.making import MOST_SEED, make
from mellow_span.core.rulesets import Known, RuleSet, available, rule_set
from mellow_span.core.rulesets.readings import layered, rules_of
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.pulls import Slack
from mellow_span.exchange.site_log import entries_read
from mellow_span.papers.subject import Subject, day

OF_JOB = "/api/jobs/{job_id}"
OF_RULES = "/api/rules/{ruleset}"
FILES = "/papers/{paper_id}/{form}"
# Circuits that one search may work out here: some seconds, with what was found until then told as not the whole.
MOST_WORK = 4000
# Said on every page that is made here.
APART = ", worked out on this device: not yet confirmed by the server"
# Jobs that are held at once.
MOST_JOBS = 4


class NotHere(Exception):
    """A question that a device cannot answer by itself."""


class Laid:
    """A job as it was laid up, with what was changed since: what the questions are asked of here."""

    def __init__(self, base: Installation, version: int, kit: Kit) -> None:
        self.base, self.version, self.kit = base, version, kit
        self.inputs, self.changes = base, list[Any]()
        self._whole: Installation | None = None
        self.log: tuple[Entry, ...] = ()
        self.ways = SiteWays(Slack(**kit.slack), kit.drums, kit.neutral)

    @property
    def whole(self) -> Installation:
        """The job at all its stages."""
        return self._whole or self.inputs

    def at(self, inputs: Installation) -> Laid:
        """Return the same, seen as the job stands at one of its stages."""
        found = copy(self)
        found.inputs, found._whole = inputs, self.whole
        return found

    def turn(self, changes: list[Any]) -> None:
        """Make the changes that are typed and not answered yet. Those made before are not made again. Raises Refused; then it stands as it stood."""
        if changes == self.changes:
            return
        known = len(self.changes)
        on = changes[:known] == self.changes
        value, rest = (self.inputs, changes[known:]) if on else (self.base, changes)
        value, _ = apply(value, changes_of(rest), rules_of(value).choices)
        self.inputs, self.changes = self._in_its_book(value), list(changes)

    def _in_its_book(self, value: Installation) -> Installation:
        """The job with the cells the firm read in the book it is under now. Raises InputError for packs that were not laid up with it."""
        if value.ruleset == self.base.ruleset:
            return replace(value, cells=self.base.cells, packs=self.base.packs)
        return replace(as_shipped(value), cells=self.cells(value.ruleset))

    def cells(self, ruleset: str) -> tuple[CellRead, ...]:
        """Return what the firm read in a book."""
        return tuple(parse(CellRead, cell) for cell in self.kit.cells.get(ruleset.partition("+")[0], ()))

    def entries(self, *kinds: str) -> Sequence[Entry]:
        """Return the log in the order of times, of some kinds alone where they are named."""
        return [e for e in self.log if e.kind in kinds] if kinds else self.log

    @property
    def book(self) -> PriceBook:
        """The prices of the firm for this job."""
        return with_pack(parse_book(self.kit.prices) if self.kit.prices else shipped(), rules_of(self.inputs))

    @property
    def own_prices(self) -> bool:
        """Whether these are the firm's own."""
        return bool(self.kit.prices)

    @property
    def copies(self) -> Sequence[Kept]:
        """What is kept beside the job."""
        return [Kept(c["id"], c["name"], tuple(c["changes"]), c["by"], datetime.fromisoformat(c["at"])) for c in self.kit.copies]

    @property
    def settled(self) -> Callable[[Installation], Installation]:
        """Gives the job under another book what belongs to that one."""
        return self._in_its_book

    @property
    def subject(self) -> Subject:
        """What papers are made from."""
        printed = day(time.strftime("%Y-%m-%dT%H:%M:%S+00:00", time.gmtime()))
        return Subject(
            self.inputs, tuple(self.log), slack=self.ways.slack, drums=tuple(self.ways.drums), book=self.book, printed=f"{printed} UTC",
            key=self.kit.key, currency=self.kit.currency, vat=self.kit.vat, settled=self.settled,
            apart=APART,
        )  # fmt: skip


class Local:
    """What a device holds and answers. One question at a time."""

    def __init__(self) -> None:
        self.jobs: dict[str, Laid] = {}

    def lay(self, job_id: str, text: str) -> None:
        """Lay a job up: {installation, version, kit}, the installation as the server shows it. Raises InputError."""
        given = json.loads(text)
        kit = Kit(**(given.get("kit") or {}))
        packs = tuple(parse(Pack, pack) for pack in kit.packs)
        base = replace(parse(Installation, given["installation"]), packs=packs)
        self.jobs.pop(job_id, None)
        while len(self.jobs) >= MOST_JOBS:
            self.jobs.pop(next(iter(self.jobs)))
        self.jobs[job_id] = Laid(base, int(given["version"]), kit)

    def land(self, job_id: str, changes: str, version: int) -> None:
        """Take a job with changes for what the server has, at a version: nothing has to be laid up anew. Raises Refused; then it stands as it stood."""
        laid = self.jobs[job_id]
        laid.turn(json.loads(changes))
        laid.base, laid.changes, laid.version = laid.inputs, [], version

    def log(self, job_id: str, text: str) -> None:
        """Give a job its log: entries as the server shows them, with those that are not sent yet. Raises InputError."""
        self.jobs[job_id].log = entries_read(json.loads(text))

    def figures(self, job_id: str, changes: str, focus: str) -> str:
        """Return the figures of a job with changes, or {refused}: which change cannot be made, and why."""
        laid = self.jobs[job_id]
        try:
            laid.turn(json.loads(changes))
        except Refused as refused:
            return written({"refused": at_field(refused)})
        return written(figures_of(stand(laid.inputs, frozenset([focus]) if focus else frozenset()), focus or None))

    def ask(self, text: str) -> str:
        """Answer a question: {method, address, path, query, body, changes}, the address with its parts unfilled as docs/openapi.json has it.

        Return {status, body, cut, file}; a status of 0 means that this cannot be answered here, file that the body is a `File`.
        """
        asked = json.loads(text)
        effort = Effort(MOST_WORK)
        try:
            found = self._answer(asked, effort)
            return written({"status": 200, "body": plain(found), "cut": effort.cut, "file": isinstance(found, File)})
        except NotHere:
            return written({"status": 0, "body": None, "cut": False})
        except RuleSetError as error:
            return written({"status": 404, "body": problem(404, str(error), code="no_rules"), "cut": False})
        except CoreError as error:
            return written({"status": 422, "body": problem(422, str(error), [at_field(error)]), "cut": False})

    def _answer(self, asked: dict[str, Any], effort: Effort) -> Any:
        method, address, path, query = asked["method"], asked["address"], asked.get("path") or {}, asked.get("query") or {}
        if address.startswith("/api/rules"):
            return self._of_rules(method, address, path, query, self.jobs.get(asked.get("job") or ""))
        if address.startswith("/api/practice/"):
            return _of_practice(method, address, asked.get("body") or {})
        laid = self.jobs.get(path.get("job_id", ""))
        if laid is None or not address.startswith(OF_JOB):
            raise NotHere
        laid.turn(asked.get("changes") or [])
        about = address.removeprefix(OF_JOB)
        rest = {name: value for name, value in path.items() if name != "job_id"} | query
        if method == "POST":
            return _said(laid, about, asked.get("body") or {})
        if method != "GET":
            raise NotHere
        if about in QUESTIONS:
            stage = str(rest.pop("stage", "") or "")
            return QUESTIONS[about].answer(seen(laid, about, part_of(rest), stage), **rest)
        if about in SOUGHT:
            sought = SOUGHT[about]
            subject = sought.always or rest.get(sought.about, "")
            return SEARCHES[sought.search][1](seen(laid, sought.search, subject), subject, effort)
        return _papers(laid, about, rest)

    def _of_rules(self, method: str, address: str, path: dict[str, str], query: dict[str, Any], laid: Laid | None) -> Any:
        if method != "GET":
            raise NotHere
        if address == "/api/rules":
            return [book_told(rule_set(book)) for book in available()]
        rules = _rules(path["ruleset"], laid)
        answers: dict[str, Callable[[], Any]] = {
            OF_RULES: lambda: rules_told(rules),
            f"{OF_RULES}/why": why,
            f"{OF_RULES}/search": lambda: hits_of(rules, query.get("words", "")),
            f"{OF_RULES}/tables": lambda: tables_told(rules),
            f"{OF_RULES}/tables/{{number}}": lambda: table_told(rules, path["number"]),
        }
        if address not in answers:
            raise NotHere
        return answers[address]()


def _rules(ruleset: str, laid: Laid | None) -> RuleSet:
    """A book with what the firm read in it, as far as that came along with a job."""
    if laid is not None and laid.inputs.ruleset == ruleset:
        return rules_of(laid.inputs)
    if ruleset not in Known() or "+" in ruleset:
        raise NotHere
    return layered(ruleset, laid.cells(ruleset)) if laid is not None else rule_set(ruleset)


def _fresh() -> str:
    return str(uuid.uuid4())


def _said(laid: Laid, about: str, body: dict[str, Any]) -> Any:
    if about == "/said":
        return lines_said(laid.inputs, str(body["text"]), body.get("board"), _fresh)
    if about == "/said/rows":
        columns, circuits = list(body.get("columns") or []), list(body.get("circuits") or [])
        return rows_said(laid.inputs, body["rows"], columns, bool(body.get("pasted")), circuits, body["board"], _fresh)
    raise NotHere


def _papers(laid: Laid, about: str, rest: dict[str, Any]) -> Any:
    if int(rest.get("revision") or 0):
        # What was issued lies at the server.
        raise NotHere
    if about == "/papers":
        return papers_of(laid.subject)
    if about == "/papers/{paper_id}":
        return paper_look(laid.subject, rest["paper_id"], rest.get("subject", ""), rest.get("stage", ""))
    made = (
        paper_file(laid.subject, rest["paper_id"], rest.get("subject", ""), rest["form"], rest.get("stage", "")) if about == FILES else None
    )
    if made is None:
        raise NotHere
    return made


def _of_practice(method: str, address: str, body: dict[str, Any]) -> Any:
    if method != "POST" or address not in ("/api/practice/exercises", "/api/practice/marks"):
        raise NotHere
    seed = body.get("seed")
    if seed is None:
        seed = uuid.uuid4().int % MOST_SEED
    if not isinstance(seed, int) or not 0 <= seed <= MOST_SEED:
        raise InputError("seed", seed, f"0 to {MOST_SEED}")
    made = make(str(body["head"]), seed, str(body.get("book") or "bs7671"))
    return exercise_told(made, bool(body.get("tables", True))) if address.endswith("exercises") else marked(made, body["answers"])
