"""The log on site as files hold it: entries as plain data. Of a photo the file holds the fingerprint alone; pictures are saved from the page."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Collection, Iterable
from datetime import datetime
from typing import Any

from mellow_span.core.errors import InputError
from mellow_span.core.model.parts import Installation
from mellow_span.core.model.spec import TEXT_LIMIT
from mellow_span.core.site.entries import Entry, plain
from mellow_span.core.site.kinds import KINDS, checked

MOST = 20_000
A_FINGERPRINT = re.compile("[0-9a-f]{64}")
FIELDS = ("id", "kind", "subject", "at", "by", "about", "clock", "data")


def entry_written(e: Entry) -> dict[str, Any]:
    """Return an entry as a file holds it."""
    data = plain(e.data)
    if e.kind == "photo":
        data["image"] = fingerprint(data["image"])
    beside = {name: text for name, text in (("about", e.about), ("clock", e.clock)) if text}
    return {"id": e.id, "kind": e.kind, "subject": e.subject, "at": e.at, "by": e.by, **beside, "data": data}


def fingerprint(image: str) -> str:
    """Return the SHA-256 of a picture as a data address; of what is one already, itself."""
    return image if A_FINGERPRINT.fullmatch(image) else hashlib.sha256(image.encode()).hexdigest()


def entries_read(site: Any, job: Installation | None = None) -> tuple[Entry, ...]:
    """Read a log from the plain data of a file, in the order of its times. job: whose parts its entries may be about, None to ask nothing.

    Raises InputError naming the entry and the field.
    """
    if not isinstance(site, list):
        raise InputError("site", type(site).__name__, "a list of entries")
    if len(site) > MOST:
        raise InputError("site", len(site), f"at most {MOST} entries")
    found: dict[str, Entry] = {}
    for k, one in enumerate(site):
        try:
            e = _entry(one)
            if job is not None:
                _about(e, job)
        except InputError as error:
            raise InputError(f"site[{k}].{error.field}", error.given, error.allowed) from None
        if e.id in found:
            raise InputError(f"site[{k}].id", e.id, "each identity once")
        found[e.id] = e
    return tuple(sorted(found.values(), key=lambda e: datetime.fromisoformat(e.at)))


def _entry(one: Any) -> Entry:
    if not isinstance(one, dict):
        raise InputError("entry", type(one).__name__, "an object")
    for name in one:
        if name not in FIELDS:
            raise InputError(str(name), one[name], "one of " + ", ".join(FIELDS))
    texts = {name: one.get(name, "") for name in ("id", "kind", "subject", "at", "by", "about", "clock")}
    for name, text in texts.items():
        if not isinstance(text, str) or len(text) > TEXT_LIMIT or "\x00" in text:
            raise InputError(name, str(text)[:60], f"a text of at most {TEXT_LIMIT} signs")
    if not texts["id"]:
        raise InputError("id", "", "an identity")
    try:
        zoned = datetime.fromisoformat(texts["at"]).tzinfo is not None
    except ValueError:
        zoned = False
    if not zoned:
        raise InputError("at", texts["at"], "a time with its zone, as 2026-03-05T14:07:00+00:00")
    data = checked(texts["kind"], one.get("data", {}))
    return Entry(texts["id"], texts["kind"], texts["subject"], data, texts["at"], texts["by"], texts["about"], texts["clock"])


def _about(e: Entry, job: Installation) -> None:
    """Raise InputError where an entry about the whole job names a part, or one about a part names none or one of another kind.

    A part that is not there any more is no fault: what was written down about it is kept.
    """
    parts: dict[str, Collection[str]] = {"circuit": _ids(job.circuits), "board": _ids(job.boards), "route": _ids(job.routes)}
    about = KINDS[e.kind][1]
    others = {i for kind, each in parts.items() if kind != about for i in each} - set(parts.get(about, ()))
    if about == "job" and e.subject:
        raise InputError("subject", e.subject, "nothing: it is about the whole job")
    if about in parts and (not e.subject or e.subject in others):
        raise InputError("subject", e.subject, f"a {about} of the file")


def _ids(parts: Iterable[Any]) -> list[str]:
    return [p.id for p in parts]
