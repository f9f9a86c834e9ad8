"""`mellow-span`: the core from the command line, on files in the open job format.

Exit status: 0 every circuit meets its checks, 1 one is short or not known, 2 bad input.
"""

from __future__ import annotations

import argparse
import dataclasses
import itertools
import json
import os
import sys
from collections.abc import Callable
from typing import Any

import argcomplete
from argcomplete.shell_integration import shellcode

from mellow_span import __version__
from mellow_span.cli.books import cmd_compare, cmd_pack
from mellow_span.cli.files import CAUTION, WORDS, board_named, book_of, circuit_of, job_of
from mellow_span.cli.onsite import cmd_isolate, cmd_materials, cmd_prove, cmd_pull, cmd_verify
from mellow_span.cli.paper import cmd_paper, cmd_read
from mellow_span.core.design.check import check
from mellow_span.core.design.coordination import coordination
from mellow_span.core.design.joint import cheapest
from mellow_span.core.design.options import options
from mellow_span.core.design.place_options import INTAKE, checks_of, place_options
from mellow_span.core.design.robustness import robustness
from mellow_span.core.design.size import size
from mellow_span.core.design.solving import short, solved
from mellow_span.core.design.stages import checked
from mellow_span.core.errors import CoreError, InputError, RuleSetError
from mellow_span.core.figures import quantity
from mellow_span.core.findings.advice import advise
from mellow_span.core.findings.results import WORSE, Check, CircuitResult, InstallationResult
from mellow_span.core.findings.why import as_markdown, why
from mellow_span.core.model.changes import apply
from mellow_span.core.model.parts import Board, Circuit, Installation
from mellow_span.core.rulesets import available, rule_set
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.rulesets.troubles import BadPack
from mellow_span.core.said.changes import Heard, hear
from mellow_span.core.working.steps import Step
from mellow_span.exchange.document import fields, fields_listed, schema
from mellow_span.papers.register import PAPERS


def status(found: InstallationResult) -> int:
    """Exit status for a checked job: 1 where a circuit, the intake, a board or a route is short or not known; what is only told does not count."""
    circuits = all(c.verdict in ("meets", "close") for c in found.circuits)
    places = all(one.verdict in ("meets", "close") for _, one in place_checks(found) if one.decides)
    return 0 if circuits and places else 1


def place_checks(found: InstallationResult) -> list[tuple[str, Check]]:
    """List the checks of the intake, the boards and the routes with the identity of their place."""
    rows = [("intake", one) for one in found.intake]
    rows += [(board.id, one) for board in found.boards for one in board.checks]
    return rows + [(route.id, one) for route in found.routes for one in route.checks]


def troubles(result: CircuitResult) -> list[Check]:
    """List the deciding checks of a circuit that do not plainly meet, the worst first: short, not known, close, each by its margin."""
    found = [c for c in result.checks if c.decides and c.verdict != "meets"]
    return sorted(found, key=lambda c: (-WORSE[c.verdict], c.margin if c.margin is not None else 0.0))


def plain(value: Any) -> str:
    """A result as JSON."""
    return json.dumps(dataclasses.asdict(value), ensure_ascii=False, indent=1)


def cmd_check(args: argparse.Namespace) -> int:
    """Check every circuit of a job."""
    job = job_of(args.job)
    found = checked(job, keep=args.json)
    if args.json:
        print(plain(found))
        return status(found)
    for circuit, result in zip(job.circuits, found.circuits, strict=True):
        print(f"{WORDS[result.verdict]:<10}{circuit.name or circuit.id:<28}{result.reason}")
        for one in troubles(result):
            print(f"{'':<10}{'':<28}{WORDS[one.verdict]}: {one.title.lower()}: {one.text}")
    for place, one in place_checks(found):
        if one.verdict != "meets":
            print(f"{WORDS[one.verdict]:<10}{place:<28}{one.title.lower()}: {one.text}")
    for board in found.boards:
        if board.demand.highest is not None:
            each = ", ".join(f"{p.phase} {quantity(p.demand, 'A')}" for p in board.demand.phases)
            print(f"{'':<10}{board.id:<28}demand after diversity {each}")
    for line in found.attention:
        if line.level in ("assumed", "confirm"):
            print(f"{line.level:<10}{line.text:<28}{f'at {line.stage}: ' if line.stage else ''}{line.reason}")
    print(CAUTION)
    return status(found)


def cmd_say(args: argparse.Namespace) -> int:
    """Read circuits said in one line each, print what was understood, and check them: in a job, or by themselves."""
    job = job_of(args.job) if args.job else Installation(name="Said", boards=(Board(id="board", name="Board"),))
    rules = rules_of(job)
    board = board_named(job, args.board or "")
    if args.board and board is None:
        raise InputError("board", args.board, "one of " + ", ".join(b.name or b.id for b in job.boards))
    lines = sys.stdin.read().splitlines() if args.line == "-" else args.line.splitlines()
    numbers = itertools.count(1)
    heard = hear(rules, job, lines, board, lambda: f"said-{next(numbers)}")
    if args.json:
        print(json.dumps([dataclasses.asdict(one) for one in heard], ensure_ascii=False, indent=1, default=dict))
        return 1 if any(one.why or one.said.unread for one in heard) else 0
    job, _ = apply(job, [change for one in heard for change in one.changes], rules.choices)
    found = {c.id: c for c in checked(job).circuits}
    for one in heard:
        print_said(one, found.get(one.circuit or ""))
    print(CAUTION)
    good = [found[one.circuit].verdict in ("meets", "close") for one in heard if one.circuit]
    return 0 if good and all(good) and not any(one.why or one.said.unread for one in heard) else 1


def print_said(heard: Heard, result: CircuitResult | None) -> None:
    """Print a line as it was understood, and how the circuit stands."""
    print(heard.said.line)
    for word in (w for w in heard.said.words if w.told):
        print(f"    {word.text.strip():<28}{word.told}")
    for told in heard.said.assumed:
        print(f"    {'assumed':<28}{told}")
    for unread in heard.said.unread:
        print(f"    {'NOT READ':<28}{unread.text!r} at character {unread.start + 1}: {unread.why}")
    if heard.why:
        print(f"    {'NOT TAKEN':<28}{heard.why}")
    if result is not None:
        print(f"  {WORDS[result.verdict]}: {result.reason}")
        for one in troubles(result):
            print(f"    {WORDS[one.verdict]}: {one.title.lower()}: {one.text}")


def cmd_size(args: argparse.Namespace) -> int:
    """Size one circuit, each on its own, or with --joint all sub-mains and finals together at least cost."""
    job = job_of(args.job)
    if args.joint:
        return sized_together(job, args)
    chosen = [circuit_of(job, args.circuit)] if args.circuit else list(job.circuits)
    found = {c.id: size(job, c.id) for c in chosen}
    if args.json:
        print(json.dumps({k: dataclasses.asdict(v) for k, v in found.items()}, ensure_ascii=False, indent=1))
    else:
        for circuit in chosen:
            answer = found[circuit.id]
            print(f"{circuit.name or circuit.id:<28}{quantity(answer.csa, 'mm²') if answer.csa else 'none':<10}{answer.reason}")
    return 0 if all(answer.csa for answer in found.values()) else 1


def sized_together(job: Installation, args: argparse.Namespace) -> int:
    """Print the cheapest sizes of a whole job."""
    found = cheapest(job, book_of(args))
    left = {"no size fixes": found.unsolved, "not known": found.unknown, "fed by a sub-main that is one of these": found.waiting}
    if args.json:
        print(plain(found))
        return 1 if any(left.values()) else 0
    names = {c.id: c.name or c.id for c in job.circuits}
    for one in found.chosen:
        was = f"was {one.before:g}" if one.before is not None and one.before != one.csa else ""
        print(f"{names[one.circuit]:<28}{quantity(one.csa, 'mm²') if one.csa else 'none':<10}{was:<12}{one.cost:+.2f}")
    print(f"total {found.after.total:.2f}, was {found.before.total:.2f}; copper {found.after.copper_kg:.1f} kg. {found.proof}")
    for words, them in left.items():
        if them:
            print(f"{words}: " + ", ".join(names[c] for c in them))
    return 1 if any(left.values()) else 0


def cmd_options(args: argparse.Namespace) -> int:
    """Print the ways out for a circuit that is short, or for the intake or a board, each solved again, cheapest first."""
    job = job_of(args.job)
    place = INTAKE if args.circuit.lower() == INTAKE else board_named(job, args.circuit)
    if place is not None:
        return _place_options(args, job, place)
    circuit = circuit_of(job, args.circuit)
    found = options(job, circuit.id, book_of(args))
    if args.json:
        print(json.dumps([dataclasses.asdict(o) for o in found], ensure_ascii=False, indent=1))
    elif not found and not short(solved(job, circuit.id)):
        now = solved(job, circuit.id)
        print(
            f"{circuit.name or circuit.id}: nothing fails"
            + (f"; {now.headline.lower()}: {now.reason}" if now.verdict == "not_known" else "")
        )
        return 0
    else:
        if not found:
            print(f"{circuit.name or circuit.id}: no change proposed here fixes it")
        for one in found:
            dug = f", dig {one.digging:g} m" if one.digging else ""
            lacks = f" (not priced: {', '.join(one.unpriced)})" if one.unpriced else ""
            worse = f"; worse then: {', '.join(one.turned)}" if one.turned else ""
            print(f"{'passes' if one.passes else WORDS[one.verdict]:<10}{one.cost:>+9.2f}{dug}{lacks}  {one.title}: {one.reason}{worse}")
        print(CAUTION)
    return 0 if any(o.passes for o in found) or not short(solved(job, circuit.id)) else 1


def _place_options(args: argparse.Namespace, job: Installation, place: str) -> int:
    """Print the cures for the intake or a board; exit status 1 where something there is short and nothing cures it."""
    found = place_options(job, place, book_of(args))
    if args.json:
        print(json.dumps([dataclasses.asdict(o) for o in found], ensure_ascii=False, indent=1))
    else:
        for one in found:
            asks = f" ({one.asks} to agree)" if one.asks else ""
            asks += f" (not priced: {', '.join(one.unpriced)})" if one.unpriced else ""
            print(f"{WORDS[one.verdict]:<10}{one.cost:>+9.2f}  {one.check}: {one.title}{asks}: {one.reason}")
        print(CAUTION)
    short_there = {c.id for c in checks_of(check(job, keep=False), place) if c.verdict == "short"}
    return 1 if short_there - {o.check for o in found if o.verdict in ("meets", "close")} else 0


def cmd_coordinate(args: argparse.Namespace) -> int:
    """Print which device opens first, for every pair in series; exit status 1 where a pair is not selective at all."""
    found = coordination(job_of(args.job), keep=args.json)
    if args.json:
        print(json.dumps([dataclasses.asdict(p) for p in found], ensure_ascii=False, indent=1))
    else:
        for pair in found:
            print(f"{pair.result.replace('_', ' '):<10}{pair.lower} under {pair.upper}: {pair.text}")
    return 1 if any(pair.result == "none" for pair in found) else 0


def cmd_advise(args: argparse.Namespace) -> int:
    """Print the advice the facts of a job call for, each with its clause."""
    found = advise(job_of(args.job))
    if args.json:
        print(json.dumps([dataclasses.asdict(a) for a in found], ensure_ascii=False, indent=1))
    else:
        for one in found:
            aside = f" [not applicable: {one.dismissed}]" if one.dismissed is not None else ""
            print(f"{one.weight:<8}{one.subject:<28}{one.title} ({one.clause}): {one.text}{aside}")
    return 0


def cmd_hold(args: argparse.Namespace) -> int:
    """Print whether each circuit still holds with lengths, supply, temperature or insulation worse; exit status 1 where one does not."""
    job = job_of(args.job)
    found = robustness(job)
    names = {c.id: c.name or c.id for c in job.circuits}
    lost = any(h.lost for v in found for h in v.circuits)
    if args.json:
        print(json.dumps([dataclasses.asdict(v) for v in found], ensure_ascii=False, indent=1))
    else:
        for variant in found:
            failing = [h for h in variant.circuits if h.lost]
            print(f"{variant.title}: {'nothing new fails' if not failing else ''}{'' if variant.applies else ' (changes nothing here)'}")
            for one in failing:
                print(f"    {WORDS[one.after]} {names[one.circuit]}: {one.reason}")
    return 1 if lost else 0


def cmd_explain(args: argparse.Namespace) -> int:
    """Print the working of a circuit."""
    job = job_of(args.job)
    circuit = circuit_of(job, args.circuit)
    found = checked(job, keep=frozenset([circuit.id]))
    result = next(c for c in found.circuits if c.id == circuit.id)
    print(plain(result) if args.json else explained(circuit, result, args.check))
    return 0 if result.verdict in ("meets", "close") else 1


def explained(circuit: Circuit, result: CircuitResult, only: str | None) -> str:
    """The working of a circuit as text, all checks or one of them."""
    known = [one.id for one in result.checks]
    if only is not None and only not in known:
        raise InputError("check", only, "one of " + ", ".join(known))
    lines = [f"{circuit.name or circuit.id}: {result.headline}. {result.reason}"]
    for one in result.checks:
        if only in (None, one.id):
            lines += ["", f"{one.title} ({one.clause}): {WORDS[one.verdict]}. {one.text}"]
            lines += [f"  {step_text(step)}" for step in one.steps]
    return "\n".join([*lines, "", CAUTION])


def step_text(step: Step) -> str:
    """One step of working on a line."""
    puts = ", ".join(f"{symbol} {value:.4g}" for symbol, value in step.puts.items())
    formula = f" = {step.formula}" + (f"  [{puts}]" if puts else "") if step.formula else ""
    where = f"Table {step.cite.table}, {step.cite.row}, {step.cite.column}" if step.cite else ""
    mark = "† to be checked against the printed table" if step.cite and step.cite.check else ""
    told = "; ".join(part for part in (where, step.clause, step.note, mark) if part)
    return f"{step.symbol}{formula} = {step.value:.4g} {step.unit}".rstrip() + (f"   ({told})" if told else "")


def cmd_tables(args: argparse.Namespace) -> int:
    """List the tables of a rule set, or print one."""
    rules = rule_set(args.rules)
    if args.number is None and args.json:
        print(
            json.dumps(
                [{"number": t.number, "title": t.title, "source": t.source} for t in rules.tables.values()], ensure_ascii=False, indent=1
            )
        )
        return 0
    if args.number is None:
        for table in rules.tables.values():
            print(f"{table.number:<16}{table.title}")
        return 0
    wanted = args.number.lower()
    one = next((t for t in rules.tables.values() if wanted in (t.number.lower(), t.title.lower())), None) or rules.by_name.get(wanted)
    if one is None:
        raise InputError("table", args.number, ", ".join(rules.tables))
    table = one
    if args.json:
        rows = [{"row": r.label, "cells": r.cells, "check": sorted(r.check)} for r in table.rows]
        print(
            json.dumps({"number": table.number, "title": table.title, "source": table.source, "rows": rows}, ensure_ascii=False, indent=1)
        )
        return 0
    print(f"{table.number}: {table.title}. {table.source}. † to be checked against the printed table.")
    print("\t".join(["", *table.columns]))
    for row in table.rows:
        cells = ["" if row.cells[c] is None else f"{row.cells[c]}{'†' if c in row.check else ''}" for c in table.columns]
        print("\t".join([row.label, *cells]))
    return 0


def cmd_schema(args: argparse.Namespace) -> int:
    """Print the JSON Schema of the open job format."""
    print(json.dumps(schema(), ensure_ascii=False, indent=1))
    return 0


def cmd_fields(args: argparse.Namespace) -> int:
    """Print every field of the open job format with unit, range and meaning, as Markdown."""
    print(json.dumps(fields_listed(), ensure_ascii=False, indent=1) if args.json else fields(), end="\n" if args.json else "")
    return 0


def cmd_completion(args: argparse.Namespace) -> int:
    """Print what makes a shell complete this command: eval "$(mellow-span completion bash)"."""
    code = shellcode(["mellow-span"], shell=args.shell)
    print(json.dumps({"shell": args.shell, "code": code}) if args.json else code)
    return 0


def cmd_why(args: argparse.Namespace) -> int:
    """Print why each check is asked and what each symbol is, as Markdown."""
    print(json.dumps(dataclasses.asdict(why()), ensure_ascii=False, indent=1) if args.json else as_markdown(), end="")
    return 0


EXITS = "Exit status: 0 nothing fails; 1 something fails, is off or is not known; 2 the input could not be taken, with what is allowed."


def parser() -> argparse.ArgumentParser:
    """The arguments of the command."""
    top = argparse.ArgumentParser(prog="mellow-span", description="Check and size circuits. " + CAUTION, epilog=EXITS)
    top.add_argument("--version", action="version", version=f"mellow-span {__version__}")
    commands = top.add_subparsers(required=True, metavar="COMMAND")

    def command(name: str, run: Callable[[argparse.Namespace], int], *, job: bool = True) -> argparse.ArgumentParser:
        made = commands.add_parser(name, help=run.__doc__, description=run.__doc__, epilog=EXITS)
        made.set_defaults(run=run)
        if job:
            made.add_argument("job", metavar="JOB.json", help="a file in the open job format, or - for standard input")
        made.add_argument("--json", action="store_true", help="print JSON")
        return made

    command("check", cmd_check)
    saying = command("say", cmd_say, job=False)
    saying.add_argument("line", help="a circuit in one line, or - to read lines from standard input")
    saying.add_argument("--job", metavar="JOB.json", help="the job it would be added to: its supply, boards and routes then count")
    saying.add_argument("--board", help="board it is fed from if the line does not name one")
    sizing = command("size", cmd_size)
    sizing.add_argument("circuit", nargs="?", help="name or id; every circuit if left out")
    sizing.add_argument("--joint", action="store_true", help="all circuits together at least cost")
    ways = command("options", cmd_options)
    ways.add_argument("circuit", help="identity or name of a circuit or a board, or intake")
    for one in (sizing, ways):
        one.add_argument("--prices", metavar="BOOK.csv", help="a price list to use instead of the made-up one")
    pulling = command("pull", cmd_pull)
    for option, value, meaning in (
        ("--at-board", 1.0, "at a board"), ("--at-end", 0.5, "at another end"), ("--at-undecided", 3.0, "at an end not decided yet"),
    ):  # fmt: skip
        pulling.add_argument(option, type=float, default=value, metavar="M", help=f"extra cable {meaning}; {value:g} m if not given")
    pulling.add_argument("--undecided", action="append", default=[], metavar="CIRCUIT", help="a circuit whose far end is not decided yet")
    command("materials", cmd_materials).add_argument("--prices", metavar="BOOK.csv", help="a price list to use instead of the made-up one")
    command("isolate", cmd_isolate).add_argument("place", help="a board, circuit, route or room, by name, number or identity")
    printing = command("paper", cmd_paper)
    printing.add_argument("paper", choices=list(PAPERS), help="which paper")
    printing.add_argument("--about", default="", help="the circuit, board, record or sheet it is about, by name, number or identity")
    printing.add_argument(
        "--out", required=True, metavar="FILE", help="the file to write, or - for standard output; its ending says what kind it is"
    )
    printing.add_argument(
        "--form", default="", choices=("pdf", "xlsx", "csv", "json"), help="what kind it is, where its name does not say it"
    )
    taking = command("read", cmd_read)
    taking.add_argument(
        "readings", metavar="READINGS.csv", help="circuit, quantity, value and more, or - for standard input; see docs/format"
    )
    taking.add_argument("--decimal", default="", choices=("point", "comma"), help="what 1,234 means, where a file has such figures")
    taking.add_argument("--by", default="", help="who read them")
    taking.add_argument("--out", metavar="JOB.json", help="the job with these readings in its log, or - for standard output")
    proving = command("prove", cmd_prove, job=False)
    proving.add_argument("file", metavar="ISSUE.json", help="an issued design, or - for standard input")
    proving.add_argument("--key", default="", metavar="KEY", help="the key printed on the firm's documents: a file made elsewhere is told")
    readings = command("verify", cmd_verify)
    readings.add_argument("circuit", nargs="?", help="name or id; every circuit if left out")
    readings.add_argument("--temperature", type=float, metavar="C", help="of the conductors when read, instead of the one in the file")
    command("coordinate", cmd_coordinate)
    command("advise", cmd_advise)
    command("hold", cmd_hold)
    explain = command("explain", cmd_explain)
    explain.add_argument("circuit", help="identity or name")
    explain.add_argument("--check", help="one check alone, by its identity")
    tables = command("tables", cmd_tables, job=False)
    tables.add_argument("number", nargs="?", help="number, title or name of a table; all of them if left out")
    tables.add_argument("--rules", default=available()[0], choices=available())
    other = command("compare", cmd_compare)
    other.add_argument("--with", dest="other", default="", choices=available(), help="the other rule set; without it the job's own")
    other.add_argument("--pack", default="", help="a pack of tables over it: a folder, or a zip of one")
    packing = command("pack", cmd_pack, job=False)
    packing.add_argument("pack", help="a folder, or a zip of one, or - for a zip on standard input")
    packing.add_argument("--out", default="", metavar="PACK.zip", help="write it as a zip to this file, or - for standard output")
    command("why", cmd_why, job=False)
    command("schema", cmd_schema, job=False)
    command("fields", cmd_fields, job=False)
    command("completion", cmd_completion, job=False).add_argument("shell", choices=("bash", "zsh", "fish"))
    return top


def main(arguments: list[str] | None = None) -> int:
    """Run the command; bad input is told on standard error."""
    top = parser()
    argcomplete.autocomplete(top)
    args = top.parse_args(arguments)
    try:
        status: int = args.run(args)
    except BadPack as error:
        print(f"mellow-span: {error}", file=sys.stderr)
        return 2
    except CoreError as error:
        given = "nothing" if error.given is None else repr(error.given)
        print(f"mellow-span: {error.field}: {given} given. Allowed: {error.allowed}.", file=sys.stderr)
        return 2
    except RuleSetError as error:
        print(f"mellow-span: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        # Whoever read has read enough; nothing is left to say, and nothing to flush at exit.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    return status


if __name__ == "__main__":
    sys.exit(main())
