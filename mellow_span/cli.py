"""`mellow-span`: the core from the command line, on files in the open job format.

Exit status: 0 every circuit meets its checks, 1 one is short or not known, 2 bad input.
"""

from __future__ import annotations

import argparse
import dataclasses
import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from mellow_span.core.errors import CoreError, InputError, RuleSetError
from mellow_span.core.figures import quantity
from mellow_span.core.installation import check
from mellow_span.core.model import Circuit, Installation
from mellow_span.core.results import CircuitResult, InstallationResult
from mellow_span.core.rules import available, load
from mellow_span.core.sizing import size
from mellow_span.core.working import Step
from mellow_span.exchange.document import read, schema

WORDS = {"meets": "meets", "close": "close", "short": "SHORT", "not_known": "not known"}
CAUTION = "Design aid only: meets these checks with these inputs; it replaces neither the regulations nor a competent person."


def job_of(path: str) -> Installation:
    """Read a job from a file, or from standard input for '-'. Raises InputError."""
    try:
        text = sys.stdin.read() if path == "-" else Path(path).read_text("utf-8")
        data = json.loads(text)
    except (OSError, UnicodeDecodeError) as error:
        raise InputError("file", path, f"a file that can be read ({error})") from None
    except ValueError as error:
        raise InputError("file", path, f"JSON ({error})") from None
    return read(data).installation


def circuit_of(job: Installation, wanted: str) -> Circuit:
    """Return a circuit by identity or name, whatever its case. Raises InputError with what there is."""
    for circuit in job.circuits:
        if wanted in (circuit.id,) or wanted.lower() == circuit.name.lower():
            return circuit
    raise InputError("circuit", wanted, "one of " + ", ".join(c.name or c.id for c in job.circuits))


def status(found: InstallationResult) -> int:
    """Exit status for a checked job."""
    return 0 if all(c.verdict in ("meets", "close") for c in found.circuits) else 1


def plain(value: Any) -> str:
    """A result as JSON."""
    return json.dumps(dataclasses.asdict(value), ensure_ascii=False, indent=1)


def cmd_check(args: argparse.Namespace) -> int:
    """Check every circuit of a job."""
    job = job_of(args.job)
    found = check(job, keep=args.json)
    if args.json:
        print(plain(found))
        return status(found)
    for circuit, result in zip(job.circuits, found.circuits, strict=True):
        print(f"{WORDS[result.verdict]:<10}{circuit.name or circuit.id:<28}{result.reason}")
        for one in result.checks:
            if one.decides and one.verdict not in ("meets", result.verdict):
                print(f"{'':<10}{'':<28}{WORDS[one.verdict]}: {one.title.lower()}: {one.text}")
    for line in found.attention:
        if line.level == "assumed":
            print(f"{'assumed':<10}{line.text:<28}{line.reason}")
    print(CAUTION)
    return status(found)


def cmd_size(args: argparse.Namespace) -> int:
    """Size one circuit, or all."""
    job = job_of(args.job)
    chosen = [circuit_of(job, args.circuit)] if args.circuit else list(job.circuits)
    found = {c.id: size(job, c.id) for c in chosen}
    if args.json:
        print(json.dumps({k: dataclasses.asdict(v) for k, v in found.items()}, ensure_ascii=False, indent=1))
    else:
        for circuit in chosen:
            answer = found[circuit.id]
            print(f"{circuit.name or circuit.id:<28}{quantity(answer.csa, 'mm²') if answer.csa else 'none':<10}{answer.reason}")
    return 0 if all(answer.csa for answer in found.values()) else 1


def cmd_explain(args: argparse.Namespace) -> int:
    """Print the working of a circuit."""
    job = job_of(args.job)
    circuit = circuit_of(job, args.circuit)
    found = check(job, keep=frozenset([circuit.id]))
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
    puts = ", ".join(f"{p.symbol} {p.value:.4g}" for p in step.puts)
    formula = f" = {step.formula}" + (f"  [{puts}]" if puts else "") if step.formula else ""
    where = f"Table {step.cite.table}, {step.cite.row}, {step.cite.column}" if step.cite else ""
    mark = "† to be checked against the printed table" if step.cite and step.cite.check else ""
    told = "; ".join(part for part in (where, step.clause, step.note, mark) if part)
    return f"{step.symbol}{formula} = {step.value:.4g} {step.unit}".rstrip() + (f"   ({told})" if told else "")


def cmd_tables(args: argparse.Namespace) -> int:
    """List the tables of a rule set, or print one."""
    rules = load(args.rules)
    if args.number is None:
        for table in rules.tables.values():
            print(f"{table.number:<16}{table.title}")
        return 0
    if args.number not in rules.tables:
        raise InputError("table", args.number, ", ".join(rules.tables))
    table = rules.tables[args.number]
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


def parser() -> argparse.ArgumentParser:
    """The arguments of the command."""
    top = argparse.ArgumentParser(prog="mellow-span", description="Check and size circuits. " + CAUTION)
    commands = top.add_subparsers(required=True, metavar="COMMAND")

    def command(name: str, run: Callable[[argparse.Namespace], int], *, job: bool = True) -> argparse.ArgumentParser:
        made = commands.add_parser(name, help=run.__doc__, description=run.__doc__)
        made.set_defaults(run=run)
        if job:
            made.add_argument("job", metavar="JOB.json", help="a file in the open job format, or - for standard input")
        made.add_argument("--json", action="store_true", help="print JSON")
        return made

    command("check", cmd_check)
    command("size", cmd_size).add_argument("circuit", nargs="?", help="identity or name; without it every circuit")
    explain = command("explain", cmd_explain)
    explain.add_argument("circuit", help="identity or name")
    explain.add_argument("--check", help="one check alone, by its identity")
    tables = command("tables", cmd_tables, job=False)
    tables.add_argument("number", nargs="?")
    tables.add_argument("--rules", default=available()[0], choices=available())
    command("schema", cmd_schema, job=False)
    return top


def main(arguments: list[str] | None = None) -> int:
    """Run the command; bad input is told on standard error."""
    args = parser().parse_args(arguments)
    try:
        status: int = args.run(args)
    except CoreError as error:
        given = "nothing" if error.given is None else repr(error.given)
        print(f"mellow-span: {error.field}: {given} given. Allowed: {error.allowed}.", file=sys.stderr)
        return 2
    except RuleSetError as error:
        print(f"mellow-span: {error}", file=sys.stderr)
        return 2
    return status


if __name__ == "__main__":
    sys.exit(main())
