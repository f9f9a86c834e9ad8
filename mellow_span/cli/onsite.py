"""The commands for the work on site: pull list, materials, isolation, readings, proof of an issued design."""

from __future__ import annotations

import argparse
import dataclasses
import json

from mellow_span.cli.files import CAUTION, book_of, circuit_of, document_at, job_of, text_at
from mellow_span.core.design.prices import shipped
from mellow_span.core.errors import InputError
from mellow_span.core.site.compare import verify
from mellow_span.core.site.isolation import isolation, targets
from mellow_span.core.site.materials import materials, price_of
from mellow_span.core.site.pulls import Slack, by_cable, cut_lengths, pulls
from mellow_span.core.site.uncounted import uncounted
from mellow_span.exchange.document import read_file
from mellow_span.exchange.issue import Proof, prove_text
from mellow_span.exchange.sealing import spelled


def cmd_pull(args: argparse.Namespace) -> int:
    """Print the pull list: every cable to draw in, numbered, with the length to cut, in the order of pulling."""
    job = job_of(args.job)
    open_ends = frozenset(circuit_of(job, name).id for name in args.undecided)
    found = pulls(job, Slack(args.at_board, args.at_end, args.at_undecided), open_ends)
    if args.json:
        print(json.dumps([dataclasses.asdict(one) for one in found], ensure_ascii=False, indent=1))
        return 0
    for one in found:
        length = f"{one.cut:g} m" if one.cut is not None else f"not known: {one.why}"
        more = " × ".join(filter(None, (length, str(one.count) if one.count > 1 else "")))
        marks = "".join(
            (" (end not decided)" if one.open else "", " (not connected)" if one.spare else "", " (future)" if one.later else "")
        )
        way = f" by {', '.join(one.routes)}" if one.routes else ""
        print(
            f"{one.place:>3}  lot {one.bundle:<3} {one.number:<4} {more:<12} {one.cable}: {one.name}, {one.start} to {one.end}{way}{marks}"
        )
    for total in by_cable(found):
        rest = f", and {total.unknown} of unknown length" if total.unknown else ""
        print(f"{total.metres:>8.1f} m in {total.pieces} of {total.cable}, the longest {total.longest:g} m{rest}")
    return 0


def cmd_materials(args: argparse.Namespace) -> int:
    """Print what a job takes, by the prices of a book."""
    job = job_of(args.job)
    cuts = cut_lengths(pulls(job))
    needs = materials(job, cuts)
    book = book_of(args) or shipped()
    if args.json:
        print(json.dumps([{**dataclasses.asdict(n), "cost": price_of(book, n)} for n in needs], ensure_ascii=False, indent=1))
        return 0
    for need in needs:
        cost = price_of(book, need)
        count = f"{need.count:g} m" if need.unit == "m" else f"{need.count:g} ×"
        mark = " †" if need.usual else ""
        note = f"; {need.note}" if need.note else ""
        print(f"{count:>9}  {'' if cost is None else f'{cost:.2f}':>9}  {need.title}{mark} ({', '.join(need.where)}{note})")
    for left in uncounted(job):
        print(f"{'not counted':>20}  {left.what}: {left.why} ({left.where})")
    print(
        f"{sum(c for n in needs if (c := price_of(book, n)) is not None):>20.2f}  total without VAT; † estimated from usual sizes and spacings"
    )
    return 0


def cmd_isolate(args: argparse.Namespace) -> int:
    """Print what makes a board, circuit, route or room dead, and the steps of the record."""
    job = job_of(args.job)
    wanted = args.place.lower()
    there = targets(job)
    found = next((t for t in there if wanted in (t.id.lower(), t.title.lower(), t.title.partition(" ")[0].lower())), None)
    if found is None:
        raise InputError("place", args.place, "one of " + ", ".join(t.title for t in there))
    plan = isolation(job, found.kind, found.id)
    if args.json:
        print(json.dumps(dataclasses.asdict(plan), ensure_ascii=False, indent=1))
        return 0
    for point in plan.points:
        print(f"{point.where}: {point.what}; {point.how}")
    for title, lines in (("goes dead", plan.dead), ("STAYS LIVE, OR MAY DO", plan.live), ("take care", plan.cautions)):
        for text in lines:
            print(f"{title}: {text}")
    for number, step in enumerate((*plan.steps, *plan.release), 1):
        print(f"{number:>3}. {step.text}{f' ({step.asks})' if step.asks else ''}")
    return 0


def cmd_verify(args: argparse.Namespace) -> int:
    """Compare the readings of a job with its predictions; exit status 1 where one is off or over its limit."""
    job, entries = read_file(document_at(args.job))
    chosen = [circuit_of(job, args.circuit)] if args.circuit else list(job.circuits)
    found = {c.id: verify(job, c.id, entries, args.temperature) for c in chosen}
    if args.json:
        print(json.dumps({k: [dataclasses.asdict(one) for one in v] for k, v in found.items()}, ensure_ascii=False, indent=1))
    else:
        for circuit in chosen:
            for one in found[circuit.id]:
                print(f"{one.found.replace('_', ' '):<10}{circuit.name or circuit.id:<28}{one.title}: {one.text}")
                if one.causes:
                    print(f"{'':<10}{'':<28}likely, in order: {'; '.join(one.causes)}")
    return 1 if any(one.found in ("above", "below") or one.over for v in found.values() for one in v) else 0


NOT_THE_HAND = "This cannot tell who held the pen: whoever could sign in as them could sign."


def _seal_told(found: Proof) -> str:
    if found.made_here:
        return "sealed with the key you gave"
    if not found.sealed:
        return "NOT SEALED with the key you gave" if found.made_here is False else "not sealed: nothing tells who made it"
    if found.made_here is False:
        return f"MADE ELSEWHERE: sealed with another key, {spelled(found.key)}"
    return f"sealed with the key {spelled(found.key)}: compare it with the one on the firm’s documents, or give that as --key"


def cmd_prove(args: argparse.Namespace) -> int:
    """Work an issued design out again; exit status 1 where it is not whole or a figure does not stand."""
    found = prove_text(text_at(args.file), args.key)
    if args.json:
        print(json.dumps({**dataclasses.asdict(found), "stands": found.stands}, ensure_ascii=False, indent=1))
        return 0 if found.stands else 1
    print("intact: contents match the check code" if found.whole else "CHANGED: something in it was altered after it was issued")
    print(_seal_told(found))
    if found.before:
        print(f"follows the revision with check code {spelled(found.before)}")
    print("worked out by the tables of this program" if found.tables else "its tables differ from this program’s")
    print(f"signed by {found.signed}. {NOT_THE_HAND}" if found.signed else "not signed")
    if found.why:
        print(f"not worked out: {found.why}")
    for one in found.strays:
        print(f"{one.where}: {one.was} in the file, {one.now} worked out")
    print(f"{found.figures} figures compared: {'all agree' if not found.strays else f'{len(found.strays)} do not agree'}")
    print(CAUTION)
    return 0 if found.stands else 1
