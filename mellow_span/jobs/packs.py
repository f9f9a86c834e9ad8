"""The packs of a firm: brought in, kept as they are, offered until they are put away; and those that a job names."""

from __future__ import annotations

from collections.abc import Iterable
from uuid import UUID

from django.db import transaction

from mellow_span.core.cache import Cache
from mellow_span.core.errors import InputError
from mellow_span.core.model import parts as core
from mellow_span.core.rulesets import rule_set
from mellow_span.core.rulesets.pack_about import about
from mellow_span.core.rulesets.pack_departure import departure
from mellow_span.core.rulesets.packs import digest, mark, split
from mellow_span.exchange.packs import checked, from_texts
from mellow_span.jobs import models, rechecks

# Packs that a firm may keep, and words in which one is confirmed.
MOST, LEAST_WORDS = 200, 3
_KEPT: Cache[str, core.Pack] = Cache(64)


def packs_named(firm: UUID, ruleset: str) -> tuple[core.Pack, ...]:
    """Return the packs of a firm that a rule set names, in no order; one it does not have is missing."""
    _, marks = split(ruleset)
    if not marks:
        return ()
    rows = models.Pack.objects.filter(firm=firm, mark__in=marks)
    return tuple(_of(digest, rows) for digest in rows.values_list("digest", flat=True))


def _of(digest: str, rows: Iterable[models.Pack]) -> core.Pack:
    """A pack by what it is: read once by a process, since it never changes."""
    known = _KEPT.get(digest)
    if known is None:
        known = from_texts(tuple((name, text) for name, text in next(r for r in rows if r.digest == digest).files))
        _KEPT.put(digest, known)
    return known


@transaction.atomic
def keep(firm: models.Firm, member: models.Member, pack: core.Pack, words: str = "") -> models.Pack:
    """Keep a pack for a firm, once it was looked at whole; one that was put away is offered again. Jobs under an earlier version are looked at with it.

    words: why a supervisor takes one that departs far from its book. Raises BadPack, and InputError for a version that is kept already with other
    contents, and where such words are missing or another gives them.
    """
    laid, told = checked(pack), about(pack)
    known = _kept(firm, pack)
    past = departure(rule_set(told.over), laid).bounds
    if past and not (known and known.confirmed):
        _confirmed(member, words, past)
    if known is None:
        if models.Pack.objects.filter(firm=firm, name=told.id, version=told.version, away=False).exists():
            allowed = f"another version: {told.title} {told.version} is already stored, and a stored pack cannot change"
            raise InputError("version", told.version, allowed)
        if models.Pack.objects.filter(firm=firm).count() >= MOST:
            raise InputError("pack", MOST + 1, f"at most {MOST} packs")
        known = _stored(firm, pack, member, confirmed=words.strip() if past else "")
        rechecks.of_version(known, member)
    elif known.away:
        # One that only a file had brought along is now somebody's.
        known.away, known.by = False, known.by or member
        known.confirmed = known.confirmed or (words.strip() if past else "")
        known.save(update_fields=["away", "by", "confirmed"])
        rechecks.of_version(known, member)
    return known


def _confirmed(member: models.Member, words: str, past: tuple[str, ...]) -> None:
    """Raise InputError unless a supervisor says in words why a pack is right that departs so far."""
    if member.role != models.Member.Role.SUPERVISOR:
        raise InputError("words", "; ".join(past), "a pack within the bounds; past them a supervisor adds it, and says why it is right")
    if len(words.split()) < LEAST_WORDS:
        raise InputError("words", words, f"why these values are right, in at least {LEAST_WORDS} words: {'; '.join(past)}")


def _kept(firm: models.Firm, pack: core.Pack) -> models.Pack | None:
    """The row of a pack, where the firm has it. A mark is short enough to be met by another pack on purpose: that one is refused."""
    known = models.Pack.objects.filter(firm=firm, mark=mark(pack)).first()
    if known is not None and known.digest != digest(pack):
        raise InputError("packs", mark(pack), f"a pack with a mark of its own; this one is that of {known}, which is another")
    return known


def adopt(firm: models.Firm, packs: Iterable[core.Pack]) -> None:
    """Keep what a file brings along for its job alone: it is not offered to others until somebody brings it in. Raises BadPack, and InputError
    for one that departs so far from its book that a supervisor has to confirm it.
    """
    for pack in packs:
        if _kept(firm, pack) is None:
            laid, told = checked(pack), about(pack)
            past = departure(rule_set(told.over), laid).bounds
            if past:
                allowed = "a pack within the bounds, or one that a supervisor of yours added before, under Your own tables"
                raise InputError("packs", f"{told.told}: {'; '.join(past)}", allowed)
            _stored(firm, pack, None, away=True)


def _stored(firm: models.Firm, pack: core.Pack, member: models.Member | None, away: bool = False, confirmed: str = "") -> models.Pack:
    told = about(pack)
    return models.Pack.objects.create(
        firm=firm, mark=mark(pack), digest=digest(pack), name=told.id, title=told.title, version=told.version, over=told.over, source=told.source,
        checked=told.checked, files=[[f.name, f.text] for f in pack.files], by=member, away=away,
        confirmed=confirmed,
    )  # fmt: skip


def core_pack(row: models.Pack) -> core.Pack:
    """Return a pack as the core takes it."""
    return _of(row.digest, [row])
