"""The papers of a job: which there are, and what is missing on one before it is printed."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from mellow_span.papers import html as pages
from mellow_span.papers.register import PAPERS, paper
from mellow_span.papers.subject import Subject
from mellow_span.papers.table import as_csv, as_json


@dataclass(slots=True)
class Choice:
    """Something a paper can be about."""

    id: str
    title: str


@dataclass(slots=True)
class PaperKind:
    """A paper there is. one: what its choices are called, all: what none of them stands for, empty where one has to be chosen."""

    id: str
    title: str
    about: str
    one: str
    all: str
    choices: list[Choice]


@dataclass(slots=True)
class PaperLook:
    """A paper before it is printed: what is missing on it, which marks it has, what stands on each page."""

    id: str
    title: str
    about: str
    missing: list[str]
    legend: list[str]
    revision: str
    hash: str


def papers_of(subject: Subject) -> list[PaperKind]:
    """Return the papers that can be made, with what each can be about."""
    now = subject.at("")
    return [PaperKind(i, k.title, k.about, k.one, k.all, [Choice(*c) for c in k.choices(now)]) for i, k in PAPERS.items()]


def paper_look(subject: Subject, paper_id: str, about: str, stage: str = "") -> PaperLook:
    """Say what is missing on a paper before it is printed. about: which of its choices; stage: see `paper`."""
    found = paper(subject, paper_id, about, stage)
    stamp = found.stamp
    return PaperLook(found.id, found.title, found.about, found.missing, found.legend, stamp.revision, stamp.hash)


@dataclass(slots=True)
class File:
    """A document as a file of text."""

    text: str
    type: str
    name: str


def paper_file(subject: Subject, paper_id: str, about: str, form: str, stage: str = "") -> File | None:
    """Return a document as a file, as far as no layout engine is needed: for a PDF a page that a browser prints. None for any other form."""
    if form not in ("csv", "json", "pdf"):
        return None
    found = paper(subject, paper_id, about, stage)
    if form == "pdf":
        return File(_page(pages.html(found)), "text/html; charset=utf-8", f"{paper_id}.html")
    return File((as_csv if form == "csv" else as_json)(found), "text/csv" if form == "csv" else "application/json", f"{paper_id}.{form}")


def _page(html: str) -> str:
    """A document with its style in it. The type is that of whoever shows it."""
    style = (Path(pages.__file__).parent / "style.css").read_text("utf-8")
    style = re.sub(r"@font-face \{.*?\}\n", "", style)
    # What stands at the foot of each page of a PDF stands once here.
    return html.replace("</head>", f"<style>{style} .foot {{ position: static; margin-bottom: 3mm; }}</style></head>", 1)
