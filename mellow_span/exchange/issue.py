"""An issued design as one frozen file: the job, the rule set with the fingerprint of its tables, every result, what was read on site, who signed it.

The hash covers all but the signature, which names the hash: so neither can be changed without the other showing it. `prove` works everything out again.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import isclose
from typing import Any

from mellow_span.core.design.check import check
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.findings.results import Check, InstallationResult
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.fingerprint import fingerprint
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.site.entries import Entry
from mellow_span.exchange.document import read, write
from mellow_span.exchange.site_log import entry_written

FORMAT = "mellow-span/issue"
VERSION = 1
FIGURES = ("ib", "rating", "iz", "length", "drop", "volts", "zs", "zs_max", "r1r2", "fault_max", "fault_min", "far_ln", "far_le")
# Two machines may differ in the last digits of a binary fraction, and in nothing else.
SAME = 1e-9
# What of an answer is words, by its name: no figure and no verdict.
WORDING = ("headline", "reason", "title", "text")
STATEMENT = (
    "I have read the working of every circuit in this issue. It meets the checks shown as met, with the inputs shown; what is assumed or doubtful "
    "is marked. It does not replace inspection, testing, makers' data or local rules."
)


def issued(job: Installation, number: int, at: str, by: str, note: str = "", site: Sequence[Entry] = ()) -> dict[str, Any]:
    """Return the document of an issue. number: of the revision; at: when, as ISO 8601; by: who issued it; site: the log on site until then."""
    rules = rules_of(job)
    document = {
        "format": FORMAT,
        "version": VERSION,
        "revision": number,
        "issued": at,
        "by": by,
        "note": note,
        "ruleset": {"id": job.ruleset, "edition": rules.edition, "tables": fingerprint(job.ruleset, job.packs)},
        "job": write(job),
        "results": results(check(job, keep=False)),
        "site": [entry_written(e) for e in site],
    }
    return {**document, "hash": hash_of(document)}


def hash_of(document: dict[str, Any]) -> str:
    """Return the SHA-256 of a document without its hash and signature, written canonically."""
    content = {k: v for k, v in document.items() if k not in ("hash", "signature")}
    text = json.dumps(content, ensure_ascii=False, sort_keys=True, separators=(",", ":"), allow_nan=False)
    return hashlib.sha256(text.encode()).hexdigest()


def results(found: InstallationResult) -> dict[str, Any]:
    """Return every verdict and figure of a job as plain data."""
    return {
        "circuits": [
            {
                "id": c.id, "verdict": c.verdict, "headline": c.headline, "reason": c.reason, "doubtful": c.doubtful, "assumed": list(c.assumed),
                "figures": {name: getattr(c, name) for name in FIGURES}, "checks": [_check(x) for x in c.checks],
            }
            for c in found.circuits
        ],
        "intake": [_check(x) for x in found.intake],
        "boards": [
            {"id": b.id, "zs": b.zs, "drop": b.drop, "ipf_ln": b.ipf_ln, "ipf_le": b.ipf_le, "checks": [_check(x) for x in b.checks]}
            for b in found.boards
        ],
        "routes": [{"id": r.id, "n": r.n, "cg": r.cg, "checks": [_check(x) for x in r.checks]} for r in found.routes],
    }  # fmt: skip


def _check(c: Check) -> dict[str, Any]:
    return {
        "id": c.id, "title": c.title, "clause": c.clause, "verdict": c.verdict, "text": c.text, "value": c.value, "limit": c.limit, "unit": c.unit,
        "margin": c.margin, "decides": c.decides, "doubtful": c.doubtful, "assumed": list(c.assumed),
    }  # fmt: skip


@dataclass(slots=True)
class Stray:
    """A figure that does not stand: where it is, what the file says, what is worked out."""

    where: str
    was: str
    now: str


@dataclass(slots=True)
class Proof:
    """What came of proving a file. whole: its hash fits; tables: the same as here; signed: by whom, else empty; figures: how many were compared."""

    whole: bool
    tables: bool
    signed: str
    figures: int
    strays: list[Stray]
    why: str = ""

    @property
    def stands(self) -> bool:
        """Whether the file is whole and every figure stands."""
        return self.whole and not self.strays and not self.why


def prove(document: Any) -> Proof:
    """Work an issued design out again and say whether every figure stands. Raises InputError for what is no issued design."""
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise InputError("format", document.get("format") if isinstance(document, dict) else type(document).__name__, f'"{FORMAT}"')
    if document.get("version") != VERSION:
        raise InputError("version", document.get("version"), f"{VERSION}; a newer file needs a newer Mellow Span")
    try:
        whole = document.get("hash") == hash_of(document)
    except ValueError:
        whole = False
    ruleset = document.get("ruleset")
    signature = document.get("signature")
    signed = str(signature.get("name", "")) if isinstance(signature, dict) and signature.get("hash") == document.get("hash") else ""
    proof = Proof(whole, False, signed, 0, [])
    if isinstance(signature, dict) and not signed:
        proof.strays.append(Stray("signature", str(signature.get("hash"))[:16], str(document.get("hash"))[:16]))
    try:
        job = read(document.get("job"))
        proof.tables = isinstance(ruleset, dict) and ruleset.get("tables") == fingerprint(job.ruleset, job.packs)
        now = results(check(job, keep=False))
    except CoreError as refusal:
        proof.why = f"the job in it is not taken: {refusal}"
        return proof
    for where, was, worked in _beside("", document.get("results"), now):
        proof.figures += 1
        if not _same(was, worked):
            proof.strays.append(Stray(where, _told(was), _told(worked)))
    return proof


def _beside(where: str, was: Any, now: Any) -> Iterator[tuple[str, Any, Any]]:
    """Every figure of two answers side by side, with where it is; what one has and the other lacks is beside nothing.

    Words are left out: what a program calls a check may be put better later, and no figure falls with it.
    """
    if isinstance(was, dict) and isinstance(now, dict):
        for name in [*now, *(n for n in was if n not in now)]:
            if name in WORDING:
                continue
            yield from _beside(f"{where}.{name}".lstrip("."), was.get(name), now.get(name))
    elif isinstance(was, list) and isinstance(now, list):
        for k in range(max(len(was), len(now))):
            a, b = (x[k] if k < len(x) else None for x in (was, now))
            name = next((x["id"] for x in (a, b) if isinstance(x, dict) and "id" in x), k)
            yield from _beside(f"{where}[{name}]", a, b)
    else:
        yield where, was, now


def _same(a: Any, b: Any) -> bool:
    numbers = [x for x in (a, b) if isinstance(x, int | float) and not isinstance(x, bool)]
    return isclose(a, b, rel_tol=SAME, abs_tol=SAME) if len(numbers) == 2 else bool(a == b)


def _told(value: Any) -> str:
    return "nothing" if value is None else str(value)[:120]
