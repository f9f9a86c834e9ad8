"""The commands for papers and readings: a paper as a file, readings of a CSV file taken into the log of a job."""

from __future__ import annotations

import argparse
import json
import sys
from datetime import datetime

from mellow_span.cli.files import bytes_at, document_at, only_one_stdin, put
from mellow_span.core.errors import InputError
from mellow_span.core.figures import quantity
from mellow_span.core.site.results import results_of
from mellow_span.exchange.document import read_file, write
from mellow_span.exchange.issue import FORMAT
from mellow_span.exchange.readings import readings_of
from mellow_span.exchange.site_log import entries_read
from mellow_span.papers.register import PAPERS, paper
from mellow_span.papers.subject import Subject, day
from mellow_span.papers.table import as_csv, as_json


def _subject(path: str) -> Subject:
    """Read a job with its log, or an issued design. Raises InputError."""
    document, printed = document_at(path), day(datetime.now().astimezone().isoformat())
    if isinstance(document, dict) and document.get("format") == FORMAT:
        job, _ = read_file(document.get("job"))
        return Subject(job, entries_read(document.get("site", []), None), int(document.get("revision", 0)), document, printed=printed)
    return Subject(*read_file(document), printed=printed)


def cmd_paper(args: argparse.Namespace) -> int:
    """Write a paper of a job, or of an issued design, as a PDF, XLSX, CSV or JSON file."""
    s = _subject(args.job)
    known = PAPERS[args.paper].choices(s)
    wanted = args.about.lower()
    chosen = next((i for i, title in known if wanted in (i.lower(), title.lower(), title.split(" ")[0].lower())), args.about)
    found, form = paper(s, args.paper, chosen), args.form or args.out.rpartition(".")[2].lower()
    if form == "pdf":
        from mellow_span.papers.pdf import pdf

        content = pdf(found)
    elif form == "xlsx":
        from mellow_span.papers.sheet import as_xlsx

        content = as_xlsx(found)
    elif form in ("csv", "json"):
        content = (as_csv if form == "csv" else as_json)(found).encode()
    else:
        raise InputError("out", args.out, "a name that ends in .pdf, .xlsx, .csv or .json, or one of these as --form")
    put(args.out, content)
    # What is told stays out of the way of the paper itself.
    beside = sys.stderr if args.out == "-" else sys.stdout
    if args.json:
        about = {"file": args.out, "title": found.title, "about": found.about, "revision": found.stamp.revision, "hash": found.stamp.hash}
        print(json.dumps({**about, "missing": list(found.missing)}, ensure_ascii=False, indent=1), file=beside)
        return 0
    told = f"{found.title}{f', {found.about}' if found.about else ''}; {found.stamp.revision.lower()}; data {found.stamp.hash[:16]}"
    print(f"{args.out}: {told}", file=beside)
    for one in found.missing:
        print(f"  missing, and marked so: {one}", file=beside)
    return 0


def cmd_read(args: argparse.Namespace) -> int:
    """Take the readings of a CSV file into the log of a job, each beside what the design predicts; exit status 1 where one is off."""
    only_one_stdin(args.job, args.readings)
    job, before = read_file(document_at(args.job))
    content = bytes_at(args.readings)
    known = {e.id for e in before}
    taken = [
        e
        for e in readings_of(content, job, args.by, datetime.now().astimezone().isoformat(timespec="seconds"), args.decimal)
        if e.id not in known
    ]
    entries = sorted((*before, *taken), key=lambda e: datetime.fromisoformat(e.at))
    fresh = {e.id for e in taken}
    off, told = 0, []
    beside = sys.stderr if args.out == "-" else sys.stdout
    for circuit in dict.fromkeys(e.subject for e in taken):
        found = results_of(job, circuit, entries)
        off += sum(t.found in ("above", "below", "short") for t in found.tests if any(r.id in fresh for r in t.rows))
        for t in found.tests:
            for row in (r for r in t.rows if r.id in fresh):
                r = row.reading
                value = quantity(r.value, t.unit) if r.value is not None else "over" if r.over else "yes" if r.ok else "no"
                told.append({
                    "number": found.number, "circuit": found.name, "test": t.title, "point": r.point, "value": r.value, "over": r.over, "ok": r.ok,
                    "unit": t.unit, "found": t.found, "text": t.text,
                })  # fmt: skip
                if not args.json:
                    print(f"{found.number:<4}{t.title:<34}{f' at {r.point}' if r.point else '':<24}{value:<12}{t.text}", file=beside)
        if found.told and not args.json:
            print(f"{found.number:<4}{found.told}", file=beside)
    if args.json:
        print(json.dumps(told, ensure_ascii=False, indent=1), file=beside)
    if args.out:
        put(args.out, json.dumps(write(job, entries), ensure_ascii=False, indent=1).encode())
        if not args.json:
            print(f"{args.out}: the job with {len(taken)} readings more", file=beside)
    return 1 if off else 0
