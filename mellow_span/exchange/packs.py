"""Packs in and out: a folder, or a zip of one, as files of text; and the whole look at one before it is taken."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Iterable
from pathlib import Path, PurePosixPath

from mellow_span.core.adding import added
from mellow_span.core.design.prices import parse_book
from mellow_span.core.errors import InputError
from mellow_span.core.findings.why import why
from mellow_span.core.model.parts import Pack, PackFile
from mellow_span.core.model.spec import PACK_TEXT
from mellow_span.core.rulesets import RuleSet, rule_set
from mellow_span.core.rulesets.pack_about import ABOUT, MOST_FILES, PRICES, about
from mellow_span.core.rulesets.pack_laying import lay
from mellow_span.core.rulesets.troubles import BadPack, Troubles

# Bytes of a zip, and of all that is in it.
MOST_ZIP, MOST_INSIDE = 1_000_000, 1_500_000
# When all files of a zip were made: the same pack is the same zip.
THEN = (2000, 1, 1, 0, 0, 0)


def from_folder(folder: Path) -> Pack:
    """Read a pack from a folder, or from a zip file. Raises BadPack, InputError."""
    if folder.is_file():
        return from_zip(folder.read_bytes())
    if not folder.is_dir():
        raise InputError("pack", str(folder), "a folder, or a zip of one")
    # What an editor or a file browser leaves behind begins with a point.
    return _made((path.name, path.read_bytes()) for path in sorted(folder.iterdir()) if path.is_file() and not path.name.startswith("."))


def from_zip(content: bytes) -> Pack:
    """Read a pack from a zip: its files at the top, or all in one folder. Raises BadPack, InputError."""
    if len(content) > MOST_ZIP:
        raise InputError("pack", f"{len(content)} bytes", f"a zip of at most {MOST_ZIP} bytes")
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as found:
            inside = [i for i in found.infolist() if not i.is_dir() and not PurePosixPath(i.filename).name.startswith(".")]
            if len(inside) > MOST_FILES or added(i.file_size for i in inside) > MOST_INSIDE:
                raise InputError("pack", f"{len(inside)} files", f"at most {MOST_FILES} files of {MOST_INSIDE} bytes in all")
            # A size that is told wrong is found out when it is read: no more is unpacked than was told.
            files = [(i.filename, found.open(i).read(i.file_size + 1)) for i in inside]
    # All that a zip raises which is damaged, locked, cut short or packed in a way that is not known here.
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError, ValueError, zlib.error) as error:
        raise InputError("pack", str(error)[:100], "a zip of a pack, without a password") from None
    folders = {str(PurePosixPath(name).parent) for name, _ in files}
    if len(folders) == 1:
        files = [(PurePosixPath(name).name, raw) for name, raw in files]
    return _made(sorted(files))


def from_texts(texts: Iterable[tuple[str, str]]) -> Pack:
    """Return a pack of files given by name and text."""
    return Pack(files=tuple(PackFile(name=name, text=text.replace("\r\n", "\n")) for name, text in sorted(texts)))


def _made(files: Iterable[tuple[str, bytes]]) -> Pack:
    texts, troubles = [], Troubles()
    for name, raw in files:
        try:
            text = raw.decode("utf-8-sig")
        except UnicodeDecodeError as error:
            troubles.add(name, f"byte {error.start}", "text in UTF-8")
            continue
        if len(text) > PACK_TEXT or "\0" in text:
            troubles.add(name, f"{len(text)} characters", f"text of at most {PACK_TEXT} characters")
        texts.append((name, text))
    if troubles.found:
        raise BadPack(troubles.found)
    return from_texts(texts)


def as_zip(pack: Pack) -> bytes:
    """Return a pack as a zip; of one pack it is always the same."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for file in pack.files:
            made.writestr(zipfile.ZipInfo(file.name, THEN), file.text.encode(), zipfile.ZIP_DEFLATED)
    return out.getvalue()


def checked(pack: Pack) -> RuleSet:
    """Return the book with a pack over it, once all of the pack was looked at: tables, words, prices, names of checks. Raises BadPack."""
    told, troubles = about(pack), Troubles()
    known = {check.id for check in why().checks}
    for name, given in (("not_asked", told.not_asked), ("silent", told.silent)):
        if strange := [c for c in given if c not in known]:
            troubles.add(ABOUT, ", ".join(strange), "the names of checks: " + ", ".join(sorted(known)), column=name)
    prices = next((f.text for f in pack.files if f.name == PRICES), None)
    if prices is not None:
        try:
            parse_book(prices)
        except InputError as error:
            troubles.add(PRICES, error.given, error.allowed, column=error.field)
    try:
        laid = lay(rule_set(told.over), pack)
    except BadPack as bad:
        raise BadPack([*bad.troubles, *troubles.found]) from None
    if troubles.found:
        raise BadPack(troubles.found)
    return laid
