"""Jobs as they are stored: firm, member, job and its parts, and the history of every edit.

Field names, units and meaning are those of `mellow_span.core.model.parts`; a test keeps the two in step. Device and cable are values of their
circuit and run, so they are kept whole as JSON and validated by the core on every write.
"""

from __future__ import annotations

import uuid
from typing import ClassVar

from django.conf import settings
from django.db import models


class Firm(models.Model):
    """Who owns jobs. Nothing of one firm is ever shown to another."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(max_length=120)

    def __str__(self) -> str:
        return self.name


class CellRead(models.Model):
    """A cell of a table that a firm read in the printed book; value null: it agrees. It holds for all jobs of the firm."""

    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="cells")
    ruleset = models.CharField(max_length=40)
    table = models.CharField(max_length=40)
    row = models.CharField(max_length=80)
    column = models.CharField(max_length=80)
    value = models.FloatField(null=True)
    by = models.CharField(max_length=200)
    on = models.CharField(max_length=40)
    edition = models.CharField(max_length=200)

    class Meta:
        ordering: ClassVar = ["table", "row", "column"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["firm", "ruleset", "table", "row", "column"], name="a_cell_is_read_once")]

    def __str__(self) -> str:
        return f"{self.table}, {self.row}, {self.column}"


class Pack(models.Model):
    """A pack of tables that a firm has. It never changes: what is in it makes its digest, whose first digits, its mark, name it in a job.

    name, version: as it calls itself; over: the book it is laid over; files: name and text of each; away: not offered any more, kept for the
    jobs and issues that use it. confirmed: why a supervisor takes it though it departs far from its book, by: who brought it in.
    """

    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="packs")
    mark = models.CharField(max_length=12)
    digest = models.CharField(max_length=64)
    name = models.CharField(max_length=40)
    title = models.CharField(max_length=200)
    version = models.CharField(max_length=20)
    over = models.CharField(max_length=40)
    source = models.CharField(max_length=200)
    checked = models.CharField(max_length=200, blank=True)
    files = models.JSONField()
    by = models.ForeignKey("Member", on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    away = models.BooleanField(default=False)
    confirmed = models.CharField(max_length=400, blank=True, default="")

    class Meta:
        ordering: ClassVar = ["name", "at"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["firm", "mark"], name="a_pack_is_kept_once")]

    def __str__(self) -> str:
        return f"{self.title}, version {self.version}"


class Recheck(models.Model):
    """All jobs of a firm worked out again after a cell was read or a pack came in anew: which verdicts turn.

    cause: in words; change: the cells or the packs, before and after; total, worked: jobs; turned: a line for each check that stands otherwise;
    moved: one for each whose figure is another though it stands as it did.
    """

    class State(models.TextChoices):
        """How far it is."""

        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"

    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="rechecks")
    cause = models.CharField(max_length=400)
    change = models.JSONField()
    by = models.ForeignKey("Member", on_delete=models.SET_NULL, null=True, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    state = models.CharField(max_length=10, choices=State, default=State.WAITING)
    beat = models.DateTimeField(null=True)
    total = models.PositiveIntegerField(default=0)
    worked = models.PositiveIntegerField(default=0)
    turned = models.JSONField(default=list)
    moved = models.JSONField(default=list)

    class Meta:
        ordering: ClassVar = ["-at", "-id"]

    def __str__(self) -> str:
        return self.cause


class Member(models.Model):
    """A person in a firm: the same person may be in several. One who left stays, so that the history keeps who did what."""

    class Role(models.TextChoices):
        """What somebody may do in a firm: a supervisor all, a designer all but members and signing, an apprentice look and propose."""

        SUPERVISOR = "supervisor"
        DESIGNER = "designer"
        APPRENTICE = "apprentice"

    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="members")
    name = models.CharField(max_length=120)
    role = models.CharField(max_length=12, choices=Role, default=Role.DESIGNER)
    joined = models.DateTimeField(auto_now_add=True)
    left = models.DateTimeField(null=True)
    #: The job opened at the first visit from a browser, with what to try in it; None where there is none to show.
    opens_with = models.ForeignKey("Job", on_delete=models.SET_NULL, null=True, blank=True, related_name="+")

    class Meta:
        ordering: ClassVar = ["name", "id"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["user", "firm"], name="a_person_is_in_a_firm_once")]

    def __str__(self) -> str:
        return self.name


class Job(models.Model):
    """One installation. version grows by one with each saved edit."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="jobs")
    name = models.CharField(max_length=200, blank=True)
    ruleset = models.CharField(max_length=120, default="bs7671")
    premises = models.CharField(max_length=20, default="household")
    note = models.TextField(blank=True, max_length=2000)
    client = models.CharField(max_length=200, blank=True)
    place = models.CharField(max_length=200, blank=True)
    version = models.PositiveIntegerField(default=1)
    # Grows when the firm reads a cell of the tables: the figures are others then, though nothing was edited.
    cells = models.PositiveIntegerField(default=0)
    # How many numbers stay with their circuits; see Number.
    numbered = models.PositiveIntegerField(default=0)
    archived = models.BooleanField(default=False)
    # When it was put into the bin; it is kept there for some days.
    removed = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)
    # How the job stands, counted with each version so that a list figures nothing; trouble: why it cannot be figured. Not counted: a job
    # from before these were kept, or written past its history.
    counted = models.BooleanField(default=False)
    circuits = models.PositiveIntegerField(default=0)
    short = models.PositiveIntegerField(default=0)
    not_known = models.PositiveIntegerField(default=0)
    close = models.PositiveIntegerField(default=0)
    trouble = models.CharField(max_length=400, blank=True)

    class Meta:
        ordering: ClassVar = ["name", "created"]
        indexes: ClassVar = [models.Index(fields=["firm", "archived", "name", "created"], name="jobs_of_a_firm")]

    def __str__(self) -> str:
        return self.name


class Number(models.Model):
    """A number of a circuit, or letter of a board, that stays from now on. part: by its identity alone, for it outlives the circuit."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="numbers")
    part = models.UUIDField()
    number = models.CharField(max_length=8)

    class Meta:
        ordering: ClassVar = ["id"]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["job", "part"], name="a_part_has_one_number"),
            models.UniqueConstraint(fields=["job", "number"], name="a_number_is_of_one_part"),
        ]

    def __str__(self) -> str:
        return self.number


class Part(models.Model):
    """A part of a job. job stands on every part so that one filter loads, and fences, a whole job."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    job = models.ForeignKey(Job, on_delete=models.CASCADE)
    position = models.PositiveIntegerField(default=0)

    class Meta:
        abstract = True
        ordering: ClassVar = ["position", "id"]


class Supply(models.Model):
    """The intake. Each surveyed value carries where it comes from: measured, declared or assumed."""

    class Source(models.TextChoices):
        """Where a value of the survey comes from."""

        MEASURED = "measured"
        DECLARED = "declared"
        ASSUMED = "assumed"

    job = models.OneToOneField(Job, on_delete=models.CASCADE, related_name="supply", primary_key=True)
    earthing = models.CharField(max_length=10, null=True)
    phases = models.PositiveSmallIntegerField(default=1)
    u0 = models.FloatField(default=230.0)
    u = models.FloatField(null=True)
    ze = models.FloatField(null=True)
    ze_source = models.CharField(max_length=10, choices=Source, default=Source.ASSUMED)
    ipf = models.FloatField(null=True)
    ipf_source = models.CharField(max_length=10, choices=Source, default=Source.ASSUMED)
    fuse_kind = models.CharField(max_length=200, null=True)
    fuse_in = models.FloatField(null=True)
    fuse_source = models.CharField(max_length=10, choices=Source, default=Source.ASSUMED)
    tails_csa = models.FloatField(null=True)
    private = models.BooleanField(default=False)
    # PostgreSQL keeps the name cmax for itself.
    cmax = models.FloatField(default=1.0, db_column="voltage_factor")
    ze_declared = models.FloatField(null=True)
    neutral_csa = models.FloatField(null=True)
    tails_length = models.FloatField(null=True)
    tails_fused = models.BooleanField(null=True)
    tails_wrapped = models.FloatField(default=0.0)
    earthing_csa = models.FloatField(null=True)
    earthing_buried = models.CharField(max_length=20, default="no")
    earthing_protected = models.BooleanField(null=True)
    bond = models.CharField(max_length=12, default="conductor")
    bonding_csa = models.FloatField(null=True)
    extraneous = models.BooleanField(null=True)
    surge = models.CharField(max_length=10, null=True)
    surge_reason = models.CharField(max_length=200, blank=True)
    surge_length = models.FloatField(null=True)
    surge_backup = models.FloatField(null=True)
    surge_backup_most = models.FloatField(null=True)


class Board(Part):
    """A distribution board."""

    name = models.CharField(max_length=200, blank=True)
    ways = models.PositiveSmallIntegerField(null=True)
    earthing = models.CharField(max_length=10, default="supply")
    ra = models.FloatField(null=True)
    ra_source = models.CharField(max_length=10, choices=Supply.Source, default=Supply.Source.ASSUMED)
    conditional = models.FloatField(null=True)
    rcd_idn = models.FloatField(null=True)
    rcd_delayed = models.BooleanField(default=False)
    rcd_type = models.CharField(max_length=2, null=True)
    rcd_in = models.FloatField(null=True)
    rcd_both_ways = models.BooleanField(null=True)
    rcd2_idn = models.FloatField(null=True)
    rcd2_delayed = models.BooleanField(default=False)
    rcd2_type = models.CharField(max_length=2, null=True)
    rcd2_in = models.FloatField(null=True)
    rcd2_both_ways = models.BooleanField(null=True)
    rcd3_idn = models.FloatField(null=True)
    rcd3_delayed = models.BooleanField(default=False)
    rcd3_type = models.CharField(max_length=2, null=True)
    rcd3_in = models.FloatField(null=True)
    rcd3_both_ways = models.BooleanField(null=True)
    switch_in = models.FloatField(null=True)
    busbar_in = models.FloatField(null=True)
    class_ii = models.BooleanField(null=True)
    electrode_distance = models.FloatField(null=True)
    outbuilding = models.BooleanField(default=False)
    earthing_reason = models.CharField(max_length=200, blank=True)
    metal = models.BooleanField(null=True)
    non_combustible = models.BooleanField(null=True)
    extraneous = models.BooleanField(null=True)
    bond = models.CharField(max_length=10, default="none")
    bond_csa = models.FloatField(null=True)
    from_stage = models.CharField(max_length=200, null=True)
    until_stage = models.CharField(max_length=200, null=True)


class Route(Part):
    """A stretch of the building that cables share. The spans name it; what is null here is left to them."""

    name = models.CharField(max_length=200, blank=True)
    kind = models.CharField(max_length=10, default="open")
    place = models.CharField(max_length=40, null=True)
    length = models.FloatField(null=True)
    ambient = models.FloatField(null=True)
    wrapped = models.FloatField(null=True)
    ground = models.FloatField(null=True)
    soil = models.FloatField(null=True)
    depth = models.FloatField(null=True)
    guarded = models.BooleanField(null=True)
    metal_partition = models.BooleanField(null=True)
    fire_supports = models.BooleanField(null=True)
    polystyrene = models.BooleanField(null=True)
    fire_barrier = models.BooleanField(null=True)
    location = models.CharField(max_length=20, null=True)
    laid = models.CharField(max_length=20, default="bunched")
    others = models.PositiveSmallIntegerField(default=0)
    simultaneous = models.BooleanField(default=False)
    diameter = models.FloatField(null=True)
    width = models.FloatField(null=True)
    height = models.FloatField(null=True)
    pull = models.FloatField(null=True)
    bends = models.PositiveSmallIntegerField(default=0)


class Stage(Part):
    """A day from which the installation stands otherwise."""

    name = models.CharField(max_length=200)
    date = models.CharField(max_length=40, blank=True)


class Dismissal(Part):
    """A piece of advice put aside, with the reason."""

    key = models.CharField(max_length=200)
    reason = models.CharField(max_length=200, blank=True)


class Circuit(Part):
    """A final circuit or sub-main. device: the core's Device."""

    board = models.ForeignKey(Board, on_delete=models.CASCADE, related_name="circuits")
    # Several may feed one board, each at other stages.
    feeds = models.ForeignKey(Board, on_delete=models.SET_NULL, null=True, related_name="fed_by")
    name = models.CharField(max_length=200, blank=True)
    phases = models.PositiveSmallIntegerField(default=1)
    shape = models.CharField(max_length=10, default="radial")
    device = models.JSONField(default=dict)
    phase = models.CharField(max_length=2, null=True)
    ib_from = models.CharField(max_length=10, default="demand")
    overload = models.CharField(max_length=10, default="device")
    diversified = models.BooleanField(null=True)
    harmonics = models.FloatField(default=0.0)
    drop_method = models.CharField(max_length=10, default="worst")
    common_cpc = models.CharField(max_length=200, blank=True)
    armour_ends = models.CharField(max_length=10, default="both")
    core_ends = models.CharField(max_length=10, null=True)
    terminals = models.PositiveSmallIntegerField(default=70)
    terminals_by = models.CharField(max_length=200, blank=True, default="")
    accessory = models.CharField(max_length=20, null=True)
    accessory_in = models.FloatField(null=True)
    accessory_poles = models.PositiveSmallIntegerField(null=True)
    accessory_csa = models.FloatField(null=True)
    leakage = models.FloatField(null=True)
    high_integrity = models.BooleanField(null=True)
    socket_risk = models.CharField(max_length=200, blank=True, default="")
    supplementary_r = models.FloatField(null=True)
    group_amps = models.FloatField(null=True)
    group_amps_by = models.CharField(max_length=200, blank=True)
    section = models.PositiveSmallIntegerField(default=1)
    spare = models.BooleanField(default=False)
    existing = models.BooleanField(default=False)
    from_stage = models.CharField(max_length=200, null=True)
    until_stage = models.CharField(max_length=200, null=True)


class Load(Part):
    """A load of a circuit."""

    circuit = models.ForeignKey(Circuit, on_delete=models.CASCADE, related_name="loads")
    name = models.CharField(max_length=200, blank=True)
    room = models.CharField(max_length=200, blank=True)
    kind = models.CharField(max_length=30, default="other")
    basis = models.CharField(max_length=4, default="W")
    amount = models.FloatField(null=True)
    pf = models.FloatField(default=1.0)
    quantity = models.PositiveIntegerField(default=1)
    future = models.BooleanField(default=False)
    diversity = models.FloatField(null=True)
    managed = models.FloatField(null=True)
    interlock = models.CharField(max_length=200, blank=True)
    rated_volts = models.FloatField(null=True)
    lampholders = models.BooleanField(null=True)
    diverse_amps = models.FloatField(null=True)
    control_socket = models.BooleanField(default=False)
    at = models.FloatField(null=True)
    span = models.CharField(max_length=200, null=True)
    spur = models.CharField(max_length=10, default="no")
    outlet = models.FloatField(default=13.0)
    outlet_idn = models.FloatField(null=True)
    dc_detection = models.BooleanField(null=True)
    pen_guard = models.CharField(max_length=12, null=True)
    electrode_ra = models.FloatField(null=True)
    bath_distance = models.FloatField(null=True)
    lead_csa = models.FloatField(null=True)
    lead_length = models.FloatField(null=True)
    local_fuse = models.FloatField(null=True)
    elv_volts = models.FloatField(null=True)
    elv_length = models.FloatField(null=True)
    elv_csa = models.FloatField(null=True)
    elv_drop = models.FloatField(null=True)
    joins = models.CharField(max_length=12, null=True)
    battery = models.BooleanField(null=True)
    loss_of_mains = models.BooleanField(null=True)
    parted = models.BooleanField(null=True)
    fault_amps = models.FloatField(null=True)
    maker_rcd = models.CharField(max_length=2, null=True)
    alone = models.CharField(max_length=200, null=True)
    alone_amps = models.FloatField(null=True)
    alone_off = models.FloatField(null=True)
    alone_earth = models.CharField(max_length=12, null=True)
    alone_ra = models.FloatField(null=True)
    from_stage = models.CharField(max_length=200, null=True)
    until_stage = models.CharField(max_length=200, null=True)


class Run(Part):
    """The cable of a circuit. cable: the core's Cable."""

    circuit = models.OneToOneField(Circuit, on_delete=models.CASCADE, related_name="run")
    cable = models.JSONField(default=dict)


class Span(Part):
    """A stretch of a run with one kind of surroundings."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="spans")
    name = models.CharField(max_length=200, blank=True)
    place = models.CharField(max_length=40, null=True)
    length = models.FloatField(null=True)
    ambient = models.FloatField(default=30.0)
    group = models.PositiveSmallIntegerField(default=1)
    laid = models.CharField(max_length=20, default="bunched")
    wrapped = models.FloatField(default=0.0)
    route = models.ForeignKey(Route, on_delete=models.SET_NULL, null=True, related_name="spans")
    ground = models.FloatField(default=20.0)
    soil = models.FloatField(default=2.5)
    depth = models.FloatField(default=0.7)
    guarded = models.BooleanField(null=True)
    metal_partition = models.BooleanField(default=False)
    fire_supports = models.BooleanField(null=True)
    polystyrene = models.BooleanField(default=False)
    fire_barrier = models.BooleanField(default=False)
    location = models.CharField(max_length=20, blank=True)
    after = models.CharField(max_length=200, null=True)
    box = models.CharField(max_length=200, blank=True)
    given_iz = models.FloatField(null=True)
    given_for = models.FloatField(null=True)
    given_by = models.CharField(max_length=200, blank=True)
    own_family = models.CharField(max_length=40, null=True)
    own_csa = models.FloatField(null=True)
    own_cpc_csa = models.FloatField(null=True)
    own_cpc = models.CharField(max_length=20, default="usual")
    own_cores = models.PositiveSmallIntegerField(null=True)
    own_overload = models.CharField(max_length=20, default="device")
    own_short = models.BooleanField(null=True)
    joint = models.CharField(max_length=20, blank=True)
    joint_reached = models.BooleanField(null=True)


class Copy(models.Model):
    """A copy of a job with changes, looked at beside it: kept as the changes alone, so that it follows the job.

    changes: as the API takes them; they become one edit when the copy is kept.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="copies")
    member = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True)
    name = models.CharField(max_length=200)
    changes = models.JSONField()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar = ["at", "id"]

    def __str__(self) -> str:
        return self.name


class Search(models.Model):
    """A search that is too long for the request that asks for it: what a page asks for, how far it is, and its answer for the page.

    key: what is searched for, with all it depends on beside the version of the job. asked: when a page last asked for it; where nobody asks any
    more it is given up. beat: when the process that works on it last said so. share: how far it is. answer: as it goes out; refused: the field
    error in place of one; cut: it ended before all was tried. A view of a large job waits here as well: subject: its address; head: status, type and
    headers of its answer. Who works on it next is the business of the queue.
    """

    class State(models.TextChoices):
        """Where a search stands."""

        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"

    firm = models.ForeignKey(Firm, on_delete=models.CASCADE, related_name="searches")
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="searches")
    kind = models.CharField(max_length=20)
    subject = models.CharField(max_length=600, blank=True)
    stamp = models.CharField(max_length=160, blank=True)
    version = models.PositiveIntegerField()
    cells = models.PositiveIntegerField()
    state = models.CharField(max_length=10, choices=State, default=State.WAITING)
    made = models.DateTimeField(auto_now_add=True)
    asked = models.DateTimeField()
    beat = models.DateTimeField(null=True)
    share = models.FloatField(default=0.0)
    cut = models.BooleanField(default=False)
    answer = models.TextField(blank=True)
    head = models.JSONField(null=True)
    refused = models.JSONField(null=True)

    class Meta:
        ordering: ClassVar = ["made", "id"]
        indexes: ClassVar = [models.Index(fields=["state", "made"], name="searches_in_turn")]
        constraints: ClassVar = [
            models.UniqueConstraint(fields=["job", "kind", "subject", "stamp", "version", "cells"], name="a_search_is_made_once")
        ]

    def __str__(self) -> str:
        return f"{self.kind} {self.subject}"


class Epoch(models.Model):
    """The history that the versions of all jobs belong to: another one from the moment a backup is put in the place of what is stored.

    put_back: the moment of the backup, None where none was ever put back.
    """

    mark = models.UUIDField(primary_key=True, default=uuid.uuid4)
    put_back = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return str(self.mark)


class Edit(models.Model):
    """One saved edit. changes: what it did, as `core.model.changes.as_data` gives it, enough to play it backwards and forwards.

    undoes: the edit this one takes back; an edit that takes back such a one does it again. back_to: the version it went back to.
    playable: false for edits saved before the history held enough to play them.
    """

    id = models.UUIDField(primary_key=True)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="edits")
    member = models.ForeignKey(Member, on_delete=models.SET_NULL, null=True)
    version = models.PositiveIntegerField()
    at = models.DateTimeField(auto_now_add=True)
    changes = models.JSONField()
    undoes = models.ForeignKey("self", on_delete=models.SET_NULL, null=True, related_name="undone_by")
    back_to = models.PositiveIntegerField(null=True)
    playable = models.BooleanField(default=True)

    class Meta:
        ordering: ClassVar = ["-version"]
        constraints: ClassVar = [models.UniqueConstraint(fields=["job", "version"], name="one_edit_a_version")]
