"""A circuit under check: its inputs, the rule set, and the point of the installation it starts from."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import Any, Generic, TypeVar, cast, overload

from mellow_span.core.adding import added
from mellow_span.core.errors import CoreError, InputError, MissingInput
from mellow_span.core.findings.wording import span_name
from mellow_span.core.model.legs import begins, longest
from mellow_span.core.model.parts import Cable, Circuit, Device, Load, Span, Supply
from mellow_span.core.rules.neutral import needs_neutral
from mellow_span.core.rules.protective import kind_of
from mellow_span.core.rulesets import DeviceRules, Family, Place, RuleSet
from mellow_span.core.working.recorders import Working, recorder
from mellow_span.core.working.steps import Step

NOWHERE = Place("", "", "", "")
T = TypeVar("T")


class once(Generic[T]):  # noqa: N801
    """A property worked out at its first use and then a plain attribute: like cached_property, without its lock."""

    def __init__(self, work: Callable[[Any], T]) -> None:
        self.work = work
        self.__doc__ = work.__doc__
        self.name = work.__name__

    @overload
    def __get__(self, case: None, owner: type) -> once[T]: ...
    @overload
    def __get__(self, case: Any, owner: type) -> T: ...
    def __get__(self, case: Any, owner: type) -> T | once[T]:
        if case is None:
            return self
        value = case.__dict__[self.name] = self.work(case)
        return value


@dataclass(frozen=True, slots=True)
class Residual:
    """A residual current device on the way from the origin: IDn [A], whether it is time-delayed, where it sits, its type, and whether its maker
    lets current through it both ways. field, type_field: where the last two are entered.
    """

    idn: float
    delayed: bool
    where: str
    kind: str | None = None
    both_ways: bool | None = None
    field: str = "device.both_ways"
    type_field: str = "device.rcd_type"


@dataclass(frozen=True, slots=True)
class Alone:
    """A source that keeps a board alive without the network: its load, its name, what it gives at work and at most into a fault [A].

    least [A]: what its maker says it still drives into a fault; off [s]: when it shuts itself off at one; earth, ra [ohm]: what its neutral is
    joined to. ahead: how many of the residual current devices from the network its current does not pass; own_way: it comes in by a way of the very
    board, so that none of the board's own counts, whatever the section.
    """

    load: str
    name: str
    rated: float | None
    most: float | None
    least: float | None
    off: float | None
    earth: str | None
    ra: float | None
    ahead: int
    own_way: bool = False


@dataclass(frozen=True, slots=True)
class Ahead:
    """What of a circuit's own run lies before the cable that is asked about: its length [m], R1, R2 and X at 20 C [ohm], and what it drops [%], of
    each phase where they differ. None where that is not known. ground: the cable before it ends in the ground.
    """

    length: float = 0.0
    r1_cold: float | None = 0.0
    r2_cold: float | None = 0.0
    x: float | None = 0.0
    shares: tuple[float, ...] | None = ()
    ground: bool = False


@dataclass(frozen=True, slots=True)
class Feed:
    """What arrives at a board, or where another cable begins along a run.

    ze_cold, ze_hot [ohm]: earth-fault loop at 20 C and at operating temperature; ln_cold, ln_hot [ohm]: line-neutral loop;
    None where the survey has no value. drop [%], length [m] from the origin; drops: of each phase where they differ, and drop is then the
    worst. earthing: arrangement at this board; own_earth: whether
    that is an electrode of the board's own, whose resistance is then the whole loop. residuals: devices that cover the board.
    above: the devices passed on the way, nearest first. premises: their kind, since some rules are asked in dwellings alone.
    earth_assumed: the loop rests on a value that was only assumed. phases: lines there are. bonded: whether main bonding of the building was
    found adequate by its own check, None where that is not known. electrode: the field that holds the resistance of an electrode.
    board_rcds: those of the board by section, first to third, of a board that is divided; own_rcd: how many of `residuals` are the board's own.
    added: what sources beside the network add to a fault [A], added_missing: the field without which that is not known; alone: the sources
    that keep the board alive without the network; run: of a cable that begins along a run, what of the run lies before it.
    """

    ze_cold: float | None = None
    ze_hot: float | None = None
    ln_cold: float | None = None
    ln_hot: float | None = None
    drop: float | None = 0.0
    drops: tuple[float, ...] = ()
    length: float = 0.0
    earthing: str | None = None
    own_earth: bool = False
    earth_assumed: bool = False
    residuals: tuple[Residual, ...] = ()
    above: tuple[Device, ...] = ()
    conditional: float | None = None
    premises: str = "household"
    phases: int = 3
    bonded: bool | None = None
    electrode: str = "board.ra"
    board_rcds: tuple[Residual | None, ...] = ()
    own_rcd: int = 0
    added: float = 0.0
    added_missing: str = ""
    alone: tuple[Alone, ...] = ()
    run: Ahead | None = None


def in_section(feed: Feed, section: int) -> Feed:
    """Return what arrives at a board as it arrives at a section of it: behind that section's residual current device, or behind none of the board's."""
    ahead = feed.residuals[feed.own_rcd :]
    chosen = feed.board_rcds[section - 1] if section else None
    residuals = ahead if chosen is None else (chosen, *ahead)
    alone = tuple(replace(one, ahead=len(residuals)) if one.own_way else one for one in feed.alone)
    return replace(feed, residuals=residuals, own_rcd=len(residuals) - len(ahead), alone=alone)


@dataclass(frozen=True, slots=True)
class Group:
    """What a circuit finds in a route it runs through: circuits that count for it, how they lie, whether all may overload at once."""

    route: str
    n: int
    laid: str
    simultaneous: bool = False
    note: str = ""
    # The lowest temperature that a cable of the group is rated at [°C].
    rated_at: int = 90


@dataclass(frozen=True, slots=True)
class Around:
    """What a circuit takes from the rest of the job: its routes, the circuits that share its cpc, and, for a sub-main, the demand [A]."""

    groups: tuple[Group, ...] = ()
    sharing: tuple[Circuit, ...] = ()
    demand: float | None = None
    # Demand of each phase, where single-phase loads lie behind a three-phase sub-main.
    phases: tuple[float, ...] = ()
    demand_missing: str = ""
    # Of a sub-main: whether something behind it needs a neutral, is in use, and whether its board has an earth electrode of its own.
    neutral: bool = True
    in_use: bool = False
    own_earth: bool = False
    # Whether a core of it bonds metal at the board it feeds.
    core_bonds: bool = False
    # Of a sub-main: what the sources behind it send back through it beside the network, on one line [A].
    given_back: float = 0.0


@dataclass
class Case:
    """One circuit with everything its rules need; asking for an input nobody entered raises MissingInput with its field."""

    rules: RuleSet
    supply: Supply
    circuit: Circuit
    feed: Feed
    around: Around = Around()
    span_iz: dict[str, float] = field(default_factory=dict)
    # Figures several checks share: value, steps, whether the steps were kept, whether it rests on a value to be checked.
    memo: dict[str, tuple[Any, tuple[Step, ...], bool, bool]] = field(default_factory=dict)
    # Of a stretch of a run whose cable changes: the span that its cable begins with (`rules/stretches`).
    begins: Span | None = None
    # Of such a stretch what lies behind it up to the far end of the run, hot [ohm]: the earth-fault loop, the line-neutral loop.
    behind: tuple[float, float] = (0.0, 0.0)

    # The circuit with its whole run, where `circuit` is one of its paths.
    whole: Circuit = field(init=False)

    def __post_init__(self) -> None:
        """Of a run that branches the longest path is asked, unless who asks goes from path to path.

        A charging point on an electrode of its own is no longer on the supply's earth: loop and time are those of the electrode (722.411.4.1)."""
        self.whole, self.circuit = self.circuit, longest(self.circuit)
        if self.feed.board_rcds:
            self.feed = in_section(self.feed, self.circuit.section)
        own = next((load for load in self.circuit.loads if load.kind == "ev" and load.pen_guard == "electrode"), None)
        if own is not None and self.feed.run is None:
            ra = own.electrode_ra
            field = f"load.{own.id}.electrode_ra"
            self.feed = replace(self.feed, ze_cold=ra, ze_hot=ra, earthing="TT", own_earth=True, earth_assumed=False, electrode=field)

    def worked(self, w: Working, name: str, work: Callable[[Working], T], show: bool) -> T:
        """Return a figure that several checks share, worked out once with its steps.

        show: hand the steps over to w, for the check that owns them; the others take the figure alone. Whoever rests on a value still to be
        checked is marked either way. A refusal is not kept.
        """
        known = self.memo.get(name)
        if known is None or (show and w.keep and not known[2]):
            aside = recorder(self.rules, w.keep)
            try:
                value = work(aside)
            except CoreError:
                # How far it got is shown all the same.
                w.add(tuple(aside.steps) if show else (), aside.doubtful)
                raise
            steps, doubtful = aside.take()
            known = self.memo[name] = value, steps, w.keep, doubtful
        w.add(known[1] if show else (), known[3])
        return cast(T, known[0])

    @property
    def device(self) -> Device:
        """The protective device."""
        return self.circuit.device

    @property
    def cable(self) -> Cable:
        """The fixed cable."""
        return self.circuit.run.cable

    @once
    def device_rules(self) -> DeviceRules:
        """What the rule set says of this kind of device."""
        return self.rules.devices[self.circuit.device.kind]

    @once
    def residuals(self) -> tuple[Residual, ...]:
        """The residual current devices that cover the circuit, its own first, then those on the way to the origin."""
        device = self.circuit.device
        own = () if device.idn is None else (Residual(device.idn, device.delayed, "the RCD", device.rcd_type, device.both_ways),)
        return own + self.feed.residuals

    @once
    def rewirable(self) -> bool:
        """Whether a rewirable fuse protects the circuit against overload."""
        return self.device_rules.rewirable

    @once
    def overload_omitted(self) -> bool:
        """Whether overload protection is left out because the load cannot overload (433.3.1): of the circuit, or of the cable asked about."""
        return self.circuit.overload == "omitted" or (self.begins is not None and self.begins.own_overload == "cannot")

    @property
    def start(self) -> str:
        """Where the cable that is asked about starts, in words."""
        return "at the board" if self.begins is None else "where this cable begins"

    @once
    def assumed(self) -> frozenset[str]:
        """The surveyed values, by field name, that are there and only assumed."""
        s = self.supply
        there = (("ipf", s.ipf, s.ipf_source),)
        found = {name for name, value, source in there if value is not None and source == "assumed"}
        if self.feed.earth_assumed:
            found.add("ra" if self.feed.own_earth else "ze")
        return frozenset(found)

    @once
    def rating(self) -> float:
        """In [A]; of an adjustable breaker its long-time setting where that is given."""
        device = self.circuit.device
        if device.rating is None:
            raise MissingInput("device.rating", "the rated current of the device in A")
        return device.ir if device.kind == "mccb" and device.ir is not None else device.rating

    @once
    def family(self) -> Family:
        """The cable family of the rule set."""
        name = self.circuit.run.cable.family
        if name is None or name not in self.rules.families:
            raise MissingInput("cable.family", "a cable family: " + ", ".join(f.title for f in self.rules.families.values()))
        return self.rules.families[name]

    @once
    def rated_at(self) -> int:
        """The temperature the cable is rated at [°C]: its own, or 70 where the terminals suit no more (512.1.5)."""
        return self.circuit.terminals if self.family.at_70 else 70

    def rated(self, group: Group) -> Family:
        """The family whose capacities hold in a group: of 70 °C where the terminals or a cable beside it are no better."""
        if self.family.at_70 and min(self.rated_at, group.rated_at) <= 70:
            return self.rules.families[self.family.at_70]
        return self.family

    @once
    def csa(self) -> float:
        """Line conductor S [mm2]."""
        if self.circuit.run.cable.csa is None:
            raise MissingInput("cable.csa", "the csa of the line conductor in mm²")
        return self.circuit.run.cable.csa

    @once
    def cpc_kind(self) -> str:
        """What serves as cpc: core, bunched single, separate, armour, armour_and_core, conduit or trunking. Raises InputError."""
        kind = self.cable.cpc
        if kind == "usual":
            return kind_of(self.circuit, self.family.cpc == "armour")
        if (kind.startswith("armour") or kind == "core") and not self.family.armour:
            raise InputError("cable.cpc", kind, "usual, or an armoured cable: of any other the core that goes with it serves already")
        return kind

    @once
    def cores(self) -> int:
        """Cores of an armoured cable: as entered, or two and three for a single phase with and without the armour as cpc, four for three."""
        if self.cable.cores is not None:
            return self.cable.cores
        if self.circuit.phases == 1:
            return 2 if self.cpc_kind == "armour" else 3
        return 4

    @once
    def cpc_csa(self) -> float:
        """Protective conductor csa [mm2], where it is a copper conductor: as entered, or what the family fixes for the line csa."""
        entered = self.circuit.run.cable.cpc_csa
        if entered is not None:
            return entered
        if self.family.cpc in ("core", "armour"):
            return self.csa
        pair = self.family.pairs.get(self.csa)
        if pair is None:
            raise MissingInput("cable.cpc_csa", "the csa of the protective conductor in mm²")
        return pair

    @once
    def parallel(self) -> int:
        """Cables in parallel."""
        return self.cable.parallel

    @once
    def spans(self) -> tuple[Span, ...]:
        """The spans of the run, each with a length."""
        spans = self.circuit.run.spans
        if not spans:
            raise MissingInput("spans", "at least one span with its length")
        for span in spans:
            if begins(span):
                # Who asks stretch by stretch never gets here: a figure of the first cable for all would be wrong.
                raise InputError(f"span.{span.id}.own_csa", span.own_csa, "one cable along the whole run, for this question")
            if span.length is None:
                raise MissingInput(f"span.{span.id}.length", f"the length of the span “{span_name(self.rules, span)}” in m")
        return spans

    @once
    def length(self) -> float:
        """Length of the run [m]."""
        return added(span.length or 0.0 for span in self.spans)

    @once
    def loaded(self) -> int:
        """Loaded conductors: 2 for single phase, 3 for three."""
        return 2 if self.circuit.phases == 1 else 3

    @once
    def by_phase(self) -> bool:
        """Whether the volt drop is worked out phase by phase: a three-phase sub-main with single-phase loads behind it."""
        return self.circuit.phases > 1 and bool(self.around.phases) and not self.circuit.loads

    @once
    def neutral(self) -> bool:
        """Whether something the circuit feeds needs a neutral."""
        return self.around.neutral if self.circuit.feeds else needs_neutral(self.circuit)

    @once
    def own_earth_below(self) -> bool:
        """Whether what the circuit feeds has an earth electrode of its own, and needs no protective conductor from here."""
        return self.around.own_earth or self.feed.electrode != "board.ra"

    @once
    def ring(self) -> bool:
        """Whether the circuit is a ring final."""
        return self.circuit.shape == "ring"

    @once
    def dwelling(self) -> bool:
        """Whether the rules for dwellings are asked."""
        return self.feed.premises in ("household", "shared")

    @once
    def after_diversity(self) -> bool:
        """Whether Ib is taken after diversity: as chosen, else for the cooking of a household on a circuit of its own."""
        if self.circuit.diversified is not None:
            return self.circuit.diversified
        return self.feed.premises == "household" and bool(self.circuit.loads) and all(x.kind == "cooking" for x in self.circuit.loads)

    @once
    def lighting(self) -> bool:
        """Whether any load is lighting; a mixed circuit takes the stricter limits."""
        return any(load.kind == "lighting" for load in self.circuit.loads)

    @once
    def sockets(self) -> bool:
        """Whether the circuit has a socket-outlet, one in a cooker control unit included."""
        return any(load.kind == "sockets" or load.control_socket for load in self.circuit.loads)

    @once
    def outlets(self) -> list[tuple[Load, float]]:
        """The loads with a socket-outlet and its rated current [A]; the one in a cooker control unit is a household outlet of 13 A."""
        found = [(load, load.outlet) for load in self.circuit.loads if load.kind == "sockets"]
        return found + [(load, load.outlet) for load in self.circuit.loads if load.kind != "sockets" and load.control_socket]

    @once
    def earthed_metal(self) -> bool:
        """Whether the cable has an earthed metal covering of its own, which a nail meets first: armour, or steel conduit or trunking as cpc."""
        family = self.rules.families.get(self.cable.family or "")
        return bool(family and family.armour) or self.cable.cpc in ("conduit", "trunking")

    def place(self, span: Span) -> Place:
        """Surroundings of a span; an empty place where none is chosen."""
        return self.rules.places.get(span.place or "", NOWHERE)

    def method(self, span: Span) -> str:
        """Reference method of a span, from its place. Raises MissingInput."""
        place = self.rules.places.get(span.place or "")
        if place is None:
            raise MissingInput(
                f"span.{span.id}.place",
                f"the surroundings of the span “{span_name(self.rules, span)}”" if span.name else "the surroundings of a span",
            )
        return place.method

    def group(self, span: Span) -> Group:
        """Who lies beside the circuit in a span: from its route, else as entered on the span; cables in parallel are a group among themselves."""
        for found in self.around.groups:
            if found.route == span.route:
                return found
        # Nobody says what those counted by hand are rated at: taken as 70 °C.
        n = span.group - 1 + self.parallel
        return Group(
            "",
            n,
            span.laid,
            note=f"{self.parallel} cables in parallel" if n == self.parallel > 1 else "",
            rated_at=90 if span.group == 1 else 70,
        )
