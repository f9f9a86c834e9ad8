"""Readings at a board itself: Ze, Zs, RA and Ipf there, its own RCD, phases and terminals; each beside what the design takes it to be."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable

from mellow_span.core.adding import added
from mellow_span.core.design.check import Checked, work_out
from mellow_span.core.errors import InputError
from mellow_span.core.figures import figure, quantity
from mellow_span.core.model.numbers import letters_of
from mellow_span.core.model.parts import Board, Installation
from mellow_span.core.rulesets.vocabulary import C
from mellow_span.core.site.entries import Entry
from mellow_span.core.site.judging import LIKE, NO_LIMIT, OFF, insulated, over_limit, past_range, said_of_rcd, without_prediction
from mellow_span.core.site.limits import NO_LIMITS, RCD_TIMES, Limits, insulation, rcd_limits
from mellow_span.core.site.readings import (
    INSULATION,
    LIVE,
    LIVE_CAUTION,
    TITLES,
    UNITS,
    YES_NO,
    CircuitTests,
    Found,
    Quantity,
    Reading,
    Row,
    SiteTest,
    taken,
)  # fmt: skip
from mellow_span.core.units import AMPERE_PER_KA
from mellow_span.core.working.recorders import Silent

# A loop reading within so much of what the design takes is the same: leads and the mains themselves wander by that.
SAME = 0.05
# Below that an instrument cannot tell two loops apart [ohm]; of a fault current it is open by so much.
OHM, METER = 0.02, 0.1


def board_tests(job: Installation, board_id: str, entries: Iterable[Entry]) -> CircuitTests:
    """Return the tests at a board with the readings of its log. Raises InputError for an unknown board or a job that is no tree."""
    if all(b.id != board_id for b in job.boards):
        raise InputError("board", board_id, "a board of this job")
    return all_board_tests(job, (e for e in entries if e.subject == board_id), {board_id})[board_id]


def all_board_tests(job: Installation, entries: Iterable[Entry], boards: Collection[str] | None = None) -> dict[str, CircuitTests]:
    """Return the tests at boards with the readings of the log, by board; of all of them where none are named. Raises InputError for no tree."""
    done, letters = work_out(job, keep=False, reuse=True), letters_of(job)
    mine: dict[str, list[Entry]] = defaultdict(list)
    for e in taken(e for e in entries if e.kind == "board_reading"):
        mine[e.subject].append(e)
    return {b.id: _tests(done, job, b, letters[b.id], mine[b.id]) for b in job.boards if boards is None or b.id in boards}


def _tests(done: Checked, job: Installation, board: Board, letters: str, mine: Iterable[Entry]) -> CircuitTests:
    """The tests at a board. mine: its readings, in the order in which they were taken."""
    tests = _sequence(done, board)
    assumed = {name for name in ("ze", "ipf") if getattr(job.supply, f"{name}_source") == "assumed"} if _origin(job, board) else set()
    for e in mine:
        test = next((t for t in tests if t.quantity == e.data.quantity), None)
        if test is None:
            test = _unasked(done, e.data)
            tests.append(test)
        test.found, test.text = _said(test, e.data, assumed)
        test.rows.append(Row(e.id, e.data, e.by, e.at, test.found in OFF, e.clock))
    off = added(t.found in OFF for t in tests)
    left = added(t.found == "not_read" for t in tests)
    told = "Where a reading is worse than the design value, enter it in the design." if off else ""
    return CircuitTests(
        board.id, letters, board.name or "a board", tests, left, off, [], told, "", LIVE_CAUTION, ""
    )  # fmt: skip


def _origin(job: Installation, board: Board) -> bool:
    return not any(c.feeds == board.id for c in job.circuits)


def _unasked(done: Checked, r: Reading) -> SiteTest:
    """A test that nobody asks for at a board, with what its quantity may show anywhere."""
    w = Silent(done.plan.rules)
    limits = rcd_limits(w, delayed=False).get(r.quantity, NO_LIMITS)
    if r.quantity in INSULATION:
        least, volts = insulation(w, gentle=False)
        limits = Limits(least=least, volts=volts)
    test = _test(r.quantity, point=r.point, least=limits.least, most=limits.most)
    test.volts, test.listed = limits.volts, False
    return test


def _test(name: Quantity, why: str = "", care: str = "", point: str = "", **figures: float | None) -> SiteTest:
    known = {"predicted": None, "least": None, "most": None, **figures}
    test = SiteTest(
        f"{name}@{point}", name, TITLES[name], point, None, name in LIVE, UNITS.get(name, ""), known["predicted"], known["least"], known["most"],
        None, None, why, care,
    )  # fmt: skip
    if test.predicted is not None:
        test.text = f"{quantity(test.predicted, test.unit)} is the design value"
    elif test.most is not None:
        test.text = f"at most {quantity(test.most, test.unit)}"
    return test


def _sequence(done: Checked, board: Board) -> list[SiteTest]:
    """The tests of a board, dead ones first."""
    job, feed, rules = done.plan.job, done.feeds[board.id], done.plan.rules
    here = next(b for b in done.result.boards if b.id == board.id)
    origin = _origin(job, board)
    electrode = next((c for c in here.checks if c.id == "electrode"), None)
    found = [
        _test("polarity", rules.cited("line, neutral and earth correctly connected", C.TEST_POLARITY)),
        _test(
            "tight",
            rules.cited("a loose terminal heats under load", C.CONNECTIONS),
            "isolate the board; use a torque driver, to the maker's figure",
        ),
    ]
    if here.earthing == "TT":
        care = "isolate the installation, then disconnect the electrode; reconnect it before energising"
        found.append(
            _test(
                "ra",
                rules.cited("the RCDs clear through it", C.RCD_TOUCH_VOLTAGE),
                care,
                predicted=board.ra,
                most=electrode.limit if electrode else None,
            )
        )
    if origin:
        care = "isolate the installation, then disconnect the main earthing conductor; reconnect it before energising"
        found.append(
            _test(
                "ze",
                rules.cited("every Zs in the job depends on it", C.TEST_LOOP),
                care,
                predicted=job.supply.ze,
                most=job.supply.ze_declared,
            )
        )
    else:
        found.append(_test("zs", rules.cited("Zs at the board, which every circuit on it depends on", C.TEST_LOOP), predicted=feed.ze_cold))
    largest = max(here.ipf_3ph or 0.0, here.ipf_ln or 0.0, here.ipf_le or 0.0)
    least = min((c.device.icn for c in job.circuits if c.board == board.id and c.device.icn and not c.spare), default=None)
    care = "the larger of line to neutral and line to earth; of three phases twice that"
    most = board.conditional if least is not None and board.conditional and board.conditional > least else least
    found.append(
        _test("ipf", rules.cited("every device there has to break it", C.TEST_FAULT_LEVEL), care, predicted=largest or None, most=most)
    )
    if board.rcd_idn:
        found += _rcd(done, board)
    if any(c.phases == 3 for c in job.circuits if board.id in (c.board, c.feeds)):
        found.append(_test("rotation", rules.cited("phases in the right sequence", C.TEST_ROTATION)))
    found.append(_test("functional", rules.cited("main switch, interlocks and test buttons operate correctly", C.TEST_FUNCTION)))
    return found


def _rcd(done: Checked, board: Board) -> list[SiteTest]:
    limits, found = rcd_limits(Silent(done.plan.rules), board.rcd_delayed), []
    names: tuple[Quantity, ...] = ("rcd_half", "rcd_1", "rcd_5")
    for name in names:
        multiple = RCD_TIMES[name]
        why = f"at {figure((board.rcd_idn or 0.0) * AMPERE_PER_KA * multiple)} mA" + (": it must not trip" if multiple < 1 else "")
        test = _test(name, why, "disconnect the loads first", least=limits[name].least, most=limits[name].most)
        test.text = test.text or ("no trip" if name == "rcd_half" else NO_LIMIT)
        found.append(test)
    return found


def _said(test: SiteTest, r: Reading, assumed: Collection[str]) -> tuple[Found, str]:
    """What one reading says. What is better than the design takes is well; what is worse makes every circuit behind it another one.

    assumed: quantities whose design value nobody measured: what is read takes their place.
    """
    if test.quantity in YES_NO:
        return ("meets", "correct") if r.ok else ("short", "not correct")
    if test.quantity.startswith("rcd"):
        return said_of_rcd(test, r)
    if test.quantity in INSULATION:
        return insulated(test, r)
    if r.tripped:
        return "short", "the RCD tripped during the test: test on its supply side"
    if r.over or r.value is None:
        return "short", past_range(test)
    told = f"{quantity(r.value, test.unit)} measured"
    if over := over_limit(test, r.value):
        return "short", f"{told}, {over}"
    if test.predicted is None:
        return without_prediction(test, f"{told}; no design value" if test.quantity in ("ze", "zs", "ra", "ipf") else told)
    off = max(SAME * test.predicted, OHM) if test.unit == "Ω" else METER * test.predicted
    taken_as = f"{told}, design value {quantity(test.predicted, test.unit)}"
    if test.quantity in assumed and r.value <= test.predicted * (1 + LIKE):
        worse = ", and recheck what depends on it" if r.value > test.predicted + off else ""
        return "meets", f"{taken_as} assumed: measured replaces assumed; enter it{worse}"
    if r.value > test.predicted + off:
        return "above", f"{taken_as}: enter it, and recheck what depends on it"
    return ("within", taken_as) if r.value >= test.predicted - off else ("meets", f"{taken_as}, which is on the safe side")
