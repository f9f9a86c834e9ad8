"""The commands for books: a job under another one, and packs of tables of one's own."""

from __future__ import annotations

import argparse
import dataclasses
import json
import sys
from collections.abc import Iterator
from pathlib import Path

from mellow_span.cli.files import CAUTION, WORDS, job_of, put
from mellow_span.core.design.books import beside
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import rule_set
from mellow_span.core.rulesets.pack_about import about
from mellow_span.core.rulesets.pack_departure import Departure, departure
from mellow_span.core.rulesets.packs import joined, mark, split
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.exchange.packs import as_zip, checked, from_folder, from_zip


def cmd_compare(args: argparse.Namespace) -> int:
    """Put a job under another rule set beside its own: where the verdicts differ, and what decides it."""
    job = job_of(args.job)
    book = args.other or split(job.ruleset)[0]
    packs = (from_folder(Path(args.pack)),) if args.pack else ()
    for one in packs:
        checked(one)
    other = joined(book, map(mark, packs))

    def settled(value: Installation) -> Installation:
        # What was read in a book goes with that book.
        return dataclasses.replace(value, cells=job.cells if book == split(job.ruleset)[0] else (), packs=packs)

    found = beside(job, other, settled)
    if args.json:
        print(json.dumps([dataclasses.asdict(one) for one in found], ensure_ascii=False, indent=1))
        return 0
    print(f"{'':<28}{rules_of(job).title:<26}{rules_of(settled(dataclasses.replace(job, ruleset=other))).title}")
    for row in found:
        print(f"{row.name:<28}{WORDS[row.here]:<26}{WORDS[row.there]}{'   *' if row.here != row.there else ''}")
        if row.decides:
            print(f"{'':<4}{row.decides}")
    print(f"{sum(row.here != row.there for row in found)} differ. {CAUTION}")
    return 0


def cmd_pack(args: argparse.Namespace) -> int:
    """Look at a pack of tables cell by cell, and write it as a zip where that is wanted; exit status 2 with all that is wrong with it."""
    one = from_zip(sys.stdin.buffer.read()) if args.pack == "-" else from_folder(Path(args.pack))
    laid, told = checked(one), about(one)
    apart = departure(rule_set(told.over), laid)
    # What is told stays out of the way of the zip itself.
    beside = sys.stderr if args.out == "-" else sys.stdout
    if args.json:
        found = {**dataclasses.asdict(told), "mark": mark(one), "departure": dataclasses.asdict(apart)}
        print(json.dumps(found, ensure_ascii=False, indent=1), file=beside)
    else:
        print(f"{told.told}, over {laid.title.partition(' with ')[0]}, from {told.source}; mark {mark(one)}", file=beside)
        unchecked = "its numbers are not stated to be checked: every figure based on one is marked †"
        print(f"  checked: {told.checked}" if told.checked else f"  {unchecked}", file=beside)
        for name, given in (("cells of", told.tables), ("does not require", told.not_asked), ("not known under it", told.silent)):
            if given:
                print(f"  {name}: {', '.join(given)}", file=beside)
        for line in _departs(apart):
            print(line, file=beside)
    if args.out:
        put(args.out, as_zip(one))
        if not args.json:
            print(f"{args.out}: the pack as a zip", file=beside)
    return 0


def _departs(apart: Departure) -> Iterator[str]:
    for t in apart.tables:
        span = "" if t.least is None or t.most is None else f", {t.least:.3g} to {t.most:.3g} times the book’s"
        yield f"  table {t.table}: {t.changed} of {t.cells} values changed{span}; {t.unsafe} on the unsafe side; {t.added} added"
    for name, cells in (("looks like another unit", apart.tens), ("on the unsafe side", apart.unsafe)):
        yield from (f"  {name}: {one.told}" for one in cells)
    yield from (f"  read otherwise: {line}" for line in apart.otherwise)
    yield from (f"  a supervisor has to confirm it: {line}" for line in apart.bounds)
