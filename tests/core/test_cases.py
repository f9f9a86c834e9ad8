"""Every worked case: the core's figure against the hand's.

A case is a small job and what to expect of it by path. A figure is written as its arithmetic, in literals only, and worked out here
without the core; beside it stands where the literals come from.
"""

from __future__ import annotations

import ast
import math
import operator
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import pytest
import yaml

from mellow_span.core.design.check import check, work_out
from mellow_span.core.design.coordination import coordination
from mellow_span.core.design.options import options
from mellow_span.core.design.outbuilding import earthing_choices
from mellow_span.core.design.reach import reaches
from mellow_span.core.design.robustness import longer
from mellow_span.core.design.size import size
from mellow_span.core.drawing.profile import profile_of
from mellow_span.core.findings.results import Check
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets import rule_set
from mellow_span.core.site.compare import verify
from mellow_span.core.site.earlier import earlier
from mellow_span.core.site.entries import Entry
from mellow_span.exchange.site_log import entries_read
from tests.build import circuit, job, submain

FILES = sorted((Path(__file__).parents[1] / "cases").glob("*.yaml"))
CASES = [pytest.param(case, id=f"{file.stem}: {case['name']}") for file in FILES for case in yaml.safe_load(file.read_text("utf-8"))]
ROUNDING = 5e-5
OPERATORS: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: operator.truediv, ast.Pow: operator.pow,
}  # fmt: skip
FUNCTIONS: dict[str, Callable[..., float]] = {"sqrt": math.sqrt, "ln": math.log, "max": max, "min": min, "hypot": math.hypot}


def worked(node: ast.AST) -> float:
    """Work plain arithmetic out; anything else is no arithmetic."""
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float):
        return float(node.value)
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
        return -worked(node.operand)
    if isinstance(node, ast.BinOp):
        return OPERATORS[type(node.op)](worked(node.left), worked(node.right))
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
        return FUNCTIONS[node.func.id](*map(worked, node.args))
    if isinstance(node, ast.Name) and node.id == "pi":
        return math.pi
    raise ValueError(ast.dump(node))


def figure(expected: Any) -> Any:
    """A number, or arithmetic in a string; words stay words."""
    if isinstance(expected, str):
        try:
            return worked(ast.parse(expected, mode="eval").body)
        except (SyntaxError, ValueError, KeyError):
            return expected
    return tuple(expected) if isinstance(expected, list) else expected


def one(checks: tuple[Check, ...], id: str) -> Check:
    return next(c for c in checks if c.id == id)


def attribute(value: Any, path: list[str]) -> Any:
    for name in path:
        value = value[int(name)] if name.isdigit() else value[name] if isinstance(value, dict) else getattr(value, name)
    return value


def read(inputs: Installation, path: str, log: Sequence[Entry] = ()) -> Any:
    """Read a result: intake.CHECK.x, board.ID.x, boardcheck.ID.CHECK.x, route.ID.x, pair.UPPER.LOWER.x, verify.ID.x, reach.ID.CHECK, option.ID.OPTION.x, longer.x, size.ID.x,
    or CIRCUIT.x and CIRCUIT.CHECK.x."""
    first, *rest = path.split(".")
    if first == "pair":
        return attribute(next(p for p in coordination(inputs) if (p.upper, p.lower) == (rest[0], rest[1])), rest[2:])
    if first == "verify":
        return attribute(next(c for c in verify(inputs, rest[0], log) if c.id == rest[1]), rest[2:])
    if first == "reach":
        return next(r for r in reaches(inputs, rest[0]) if r.check == rest[1]).longest
    if first == "option":
        return attribute(next(o for o in options(inputs, rest[0]) if o.id == rest[1]), rest[2:])
    if first == "size":
        return attribute(size(inputs, rest[0]), rest[1:])
    if first == "longer":
        return read(longer(inputs), ".".join(rest))
    done = work_out(inputs)
    found = done.result
    if rest and rest[0] == "profile":
        return attribute(profile_of(done, first), rest[1:])
    if first == "intake":
        return attribute(one(found.intake, rest[0]), rest[1:])
    if first == "board":
        return attribute(next(b for b in found.boards if b.id == rest[0]), rest[1:])
    if first == "boardcheck":
        return attribute(one(next(b for b in found.boards if b.id == rest[0]).checks, rest[1]), rest[2:])
    if first == "route":
        return attribute(next(b for b in found.routes if b.id == rest[0]), rest[1:])
    if first == "routecheck":
        return attribute(one(next(b for b in found.routes if b.id == rest[0]).checks, rest[1]), rest[2:])
    result = next(c for c in found.circuits if c.id == first)
    assert not result.problems
    if rest and any(c.id == rest[0] for c in result.checks) and len(rest) > 1:
        return attribute(one(result.checks, rest[0]), rest[1:])
    return attribute(result, rest)


def inputs_of(case: dict[str, Any]) -> tuple[Installation, str, tuple[Entry, ...]]:
    """The job of a case, what to put before its paths, as a case of one circuit names none, and what was read of its circuits."""
    kept = {k: case[k] for k in ("supply", "boards", "routes", "premises") if k in case}
    if "circuit" in case:
        return job(circuit(**case["circuit"]), **kept), "c.", ()
    log = [e for id, given in case["circuits"].items() for e in earlier(id, given.pop("readings", {}))]
    made = [(submain if given.pop("submain", False) else circuit)(id, **given) for id, given in case["circuits"].items()]
    return job(*made, **kept), "", entries_read(log)


@pytest.mark.parametrize("case", CASES)
def test_worked_case(case: dict[str, Any]) -> None:
    assert case["label"] in ("independent", "published")
    inputs, prefix, log = inputs_of(case)
    for path, (expected, source) in case["expect"].items():
        value, wanted = read(inputs, prefix + path, log), figure(expected)
        if isinstance(wanted, float):
            assert value == pytest.approx(wanted, rel=ROUNDING, abs=1e-9), f"{path}: {expected} ({source})"
        elif isinstance(wanted, str) and wanted.startswith("~"):
            assert wanted[1:] in value, f"{path}: {value}"
        else:
            assert value == wanted, f"{path}: {source}"


def test_there_are_cases_under_every_head() -> None:
    heads = {
        "tree",
        "demand",
        "capacity",
        "volt_drop",
        "faults",
        "thermal",
        "selectivity",
        "containment",
        "design",
        "verification",
        "earthing",
    }
    assert heads <= {file.stem for file in FILES}
    assert len(CASES) >= 80


def test_percentages_add_along_a_chain() -> None:
    """Sub-main 4.4 x 40 x 30 / 1000 = 5.28 V, 2.29565 %; final 18 x 10 x 20 / 1000 = 3.6 V, 1.56522 %. Loops: 0.2 + 0.13176 + 0.46824."""
    multicore = {"family": "multicore_pvc70", "csa": 10}
    main = submain("main", ib_from="device", cable=multicore, spans=[{"length": 30}])
    final = circuit("final", board="far", loads=[{"amount": 2300}], device={"rating": 16}, cable={"csa": 2.5}, spans=[{"length": 20}])
    done = work_out(job(main, final, supply={"ze": 0.2}, boards=["b", "far"]))
    found, profile = done.result.circuits[1], profile_of(done, "final")
    assert found.drop == pytest.approx(2.29565 + 1.56522, abs=1e-4)
    assert found.zs == pytest.approx(0.8, abs=1e-9)
    assert profile.own_from == pytest.approx(30)
    assert [s.circuit for s in profile.stretches] == ["main", "final"]


def test_the_ways_to_earth_an_outbuilding_differ_as_they_should() -> None:
    """Exported, Zs is that of the chain; on an electrode it is RA; the third way computes like the first."""
    final = circuit("f", board="far", device={"kind": "rcbo", "idn": 0.03})
    inputs = job(submain(), final, boards=["b", {"id": "far", "outbuilding": True, "extraneous": True}], supply={"neutral_csa": 25})
    ways = {w.id: w for w in earthing_choices(rule_set("bs7671"), inputs, "far", ra=80)}
    zs = {name: next(b.zs for b in check(w.job).boards if b.id == "far") for name, w in ways.items()}
    assert zs["local"] == 80
    assert zs["export"] == zs["both"] == pytest.approx(0.28 + (1.83 * 1.28 + 6.0 * 1.27) * 30 / 1000)
    assert any("10 mm² copper" in c for c in ways["export"].consequences)
    assert any("supply end only" in c for c in ways["local"].consequences)
    assert next(c for c in ways["local"].job.circuits if c.id == "m").armour_ends == "supply"


def test_no_way_out_is_invented() -> None:
    """A final that no size cures gets no bigger final, and a circuit that is not short gets no way out."""
    far = circuit("f", board="far", loads=[{"amount": 2990}], device={"rating": 16}, cable={"csa": 2.5}, spans=[{"length": 20}])
    weak = submain(ib_from="device", cable={"csa": 2.5}, device={"rating": 32}, spans=[{"place": "duct", "length": 45}])
    found = options(job(weak, far, boards=["b", "far"]), "f")
    assert not [o for o in found if o.id == "final"]
    assert [o.id for o in found if o.passes] == ["submain-m"]
    assert options(job(), "c") == ()
