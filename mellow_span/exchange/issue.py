"""An issued design as one frozen file: the job, the rule set with the fingerprint of its tables, every result, what was read on site, who signed it.

The hash covers all but seal and signature, and names the revision before with what signed it: a chain. The signature of a supervisor has a hash of its
own, over name, time, statement, exceptions and the hash of what is signed. The key of the firm seals both. `prove` works everything out again.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from math import isclose
from typing import Any

from mellow_span.core.design.stages import checked
from mellow_span.core.errors import CoreError, InputError
from mellow_span.core.findings.results import Check, InstallationResult
from mellow_span.core.model.parts import Installation
from mellow_span.core.rulesets.fingerprint import fingerprint
from mellow_span.core.rulesets.readings import rules_of
from mellow_span.core.site.entries import Entry
from mellow_span.exchange.document import read, write
from mellow_span.exchange.sealing import A_KEY, sealed
from mellow_span.exchange.site_log import entry_written

FORMAT = "mellow-span/issue"
VERSION = 2
# Of before issues were sealed: its figures can be proved, its signature covers nothing.
UNSEALED = 1
FIGURES = ("ib", "rating", "iz", "length", "drop", "volts", "zs", "zs_max", "r1r2", "fault_max", "fault_min", "far_ln", "far_le")
# Two machines may differ in the last digits of a binary fraction, and in nothing else.
SAME = 1e-9
# White space outside of texts.
BETWEEN = re.compile(r'("(?:[^"\\]|\\.)*")|\s+')
# What of an answer is words, by its name: no figure and no verdict.
WORDING = ("headline", "reason", "title", "text")
STATEMENT = (
    "I have read the working of every circuit in this revision. Each meets the checks shown as met, with the inputs shown; assumed and unchecked "
    "values are marked. It does not replace inspection, testing, makers' data or local rules."
)


def issued(
    job: Installation, number: int, at: str, by: str, note: str = "", site: Sequence[Entry] = (), firm: str = "", key: str = "",
    before: Before | None = None,
) -> dict[str, Any]:  # fmt: skip
    """Return the document of an issue. number: of the revision; at: when, as ISO 8601; by: who issued it; site: the log on site until then.

    firm: whose it is; key: the public half of the firm's key, which is to seal it; before: the revision before.
    """
    rules = rules_of(job)
    document = {
        "format": FORMAT,
        "version": VERSION,
        "revision": number,
        "issued": at,
        "by": by,
        "note": note,
        "firm": firm,
        "key": key,
        "before": asdict(before) if before else None,
        "ruleset": {"id": job.ruleset, "edition": rules.edition, "tables": fingerprint(job.ruleset, job.packs)},
        "job": write(job),
        "results": results(checked(job)),
        "site": [entry_written(e) for e in site],
    }
    return {**document, "hash": hash_of(document)}


def before_of(document: dict[str, Any] | None) -> Before | None:
    """Return what a revision says of the one before it, given by its document with its signature."""
    return Before(document["revision"], document["hash"], (document.get("signature") or {}).get("hash", "")) if document else None


def signature_of(document: dict[str, Any], name: str, at: str, exceptions: str) -> dict[str, Any]:
    """Return the signature under a document, to be sealed: the name, time, statement and exceptions are all in its hash."""
    signature = {"name": name, "at": at, "statement": STATEMENT, "exceptions": exceptions, "of": document["hash"]}
    return {**signature, "hash": hash_of(signature)}


def hash_of(document: dict[str, Any]) -> str:
    """Return the SHA-256 of a document, or of a signature, without what stands on the hash, written canonically."""
    content = {k: v for k, v in document.items() if k not in ("hash", "seal", "signature")}
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


@dataclass(frozen=True, slots=True)
class Before:
    """The revision before: its number, its hash, and the hash of its signature, empty where nobody signed it."""

    revision: int
    hash: str
    signature: str


@dataclass(slots=True)
class Stray:
    """A figure that does not stand: where it is, what the file says, what is worked out."""

    where: str
    was: str
    now: str


@dataclass(slots=True)
class Proof:
    """What came of proving a file. whole: its hash fits; tables: the same as here; signed: by whom, else empty; figures: how many were compared.

    key: that it names, and sealed: whether it is sealed by that; made_here: whether that is the key it was proved against, None where none was given;
    before: the check code of the revision before.
    """

    whole: bool
    tables: bool
    signed: str
    figures: int
    strays: list[Stray]
    why: str = ""
    key: str = ""
    sealed: bool = False
    made_here: bool | None = None
    before: str = ""

    @property
    def stands(self) -> bool:
        """Whether the file is whole and every figure stands."""
        return self.whole and not self.strays and not self.why and self.made_here is not False


def prove_text(text: str, key: str = "") -> Proof:
    """Prove a file by its text: what is written otherwise than it was issued, but for white space between, is a change; see `prove`."""
    try:
        document = json.loads(text)
        strict = BETWEEN.sub(r"\1", json.dumps(document, ensure_ascii=False)) == BETWEEN.sub(r"\1", text)
    except (ValueError, RecursionError):
        raise InputError("file", text[:30], "an issued design as JSON") from None
    proof = prove(document, key)
    if not strict:
        proof.whole = False
    return proof


def prove(document: Any, key: str = "") -> Proof:
    """Work an issued design out again and say whether every figure stands. key: the firm's, as it is printed, that has to have sealed it.

    Raises InputError for what is no issued design, and for a key that is none.
    """
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise InputError("format", document.get("format") if isinstance(document, dict) else type(document).__name__, f'"{FORMAT}"')
    if document.get("version") not in (VERSION, UNSEALED):
        raise InputError("version", document.get("version"), f"{UNSEALED} or {VERSION}; a newer file needs a newer Mellow Span")
    wanted = "".join(key.split()).lower()
    if wanted and not A_KEY.fullmatch(wanted):
        raise InputError("key", key[:40], "the 64 letters and digits printed on the firm's documents")
    proof = _whole(document)
    if wanted:
        proof.made_here = proof.sealed and proof.key == wanted
    ruleset = document.get("ruleset")
    try:
        job = read(document.get("job"))
        proof.tables = isinstance(ruleset, dict) and ruleset.get("tables") == fingerprint(job.ruleset, job.packs)
        now = results(checked(job))
    except CoreError as refusal:
        proof.why = f"the job in it is not taken: {refusal}"
        return proof
    for where, was, worked in _beside("", document.get("results"), now):
        proof.figures += 1
        if not _same(was, worked):
            proof.strays.append(Stray(where, _told(was), _told(worked)))
    return proof


def _whole(document: dict[str, Any]) -> Proof:
    """What of a file stands on its hashes and seals alone."""
    try:
        digest = hash_of(document)
    except ValueError:
        digest = ""
    proof = Proof(bool(digest) and document.get("hash") == digest, False, "", 0, [])
    before = document.get("before")
    if document.get("version") == VERSION:
        proof.key = str(document.get("key") or "")
        proof.before = str(before.get("hash", ""))[:16] if isinstance(before, dict) else ""
        proof.sealed = bool(proof.key) and sealed(proof.key, document.get("hash"), document.get("seal"))
        if not proof.sealed and (proof.key or "seal" in document):
            proof.strays.append(Stray("seal", _told(document.get("seal"))[:16], "the seal of its key over its hash"))
    _signature(document, proof)
    return proof


def _signature(document: dict[str, Any], proof: Proof) -> None:
    """Who signed a file; what claims to and is not sealed is no signature, and does not stand where it is of another file."""
    signature = document.get("signature")
    if "signature" not in document:
        return
    if not isinstance(signature, dict):
        proof.strays.append(Stray("signature", _told(signature), "a signature, or none"))
        return
    if document.get("version") == UNSEALED:
        # Nothing covers what it says; it is only of this file or of another.
        if signature.get("hash") != document.get("hash"):
            proof.strays.append(Stray("signature", _told(signature.get("hash"))[:16], _told(document.get("hash"))[:16]))
        return
    fits = signature.get("of") == document.get("hash") and signature.get("hash") == hash_of(signature)
    if fits and proof.sealed and sealed(proof.key, signature["hash"], signature.get("seal")):
        proof.signed = str(signature.get("name", ""))
    else:
        proof.strays.append(Stray("signature", _told(signature.get("name")), "a signature of this file, sealed by its key"))


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
