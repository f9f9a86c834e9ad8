"""The record of minor work on one circuit: from what was designed and read, with what only the person who did it can say."""

from __future__ import annotations

from mellow_span.core.errors import InputError
from mellow_span.core.site.entries import last
from mellow_span.core.site.words import cable_words, device_words
from mellow_span.papers.chart import serves
from mellow_span.papers.page import Block, Facts, Item, Signature, Table, Words, number, verdict_cell, words
from mellow_span.papers.results import READING, asked_for, readings_of, worst
from mellow_span.papers.schedule import cpc_cell, result_of, supply_facts
from mellow_span.papers.subject import Subject

STATEMENT = (
    "The work described was designed, built, inspected and tested by or under whoever signs, to the rules named here but for the departures "
    "named here. "
    "It does not replace a report on the rest of the installation."
)


def minor_work(s: Subject, circuit_id: str) -> list[Block]:
    """Return the record of minor work on a circuit. Raises InputError for no circuit, or one the job does not have."""
    circuit = next((c for c in s.laid.circuits if c.id == circuit_id), None)
    if circuit is None:
        raise InputError("subject", circuit_id, "a circuit of this job")
    entry = last(s.entries, "minor_work").get(circuit.id)
    said = entry.data if entry else None
    found, tests = result_of(s, circuit), asked_for(s.tests[circuit.id].tests) if circuit.id in s.tests else []
    zs = next((t for t in tests if t.quantity == "zs"), None)
    read = readings_of(s.tests[circuit.id]) if circuit.id in s.tests else []
    return [
        Facts(
            "The work",
            [
                ("For", words(s.job.client, missing="nobody named")),
                ("At", words(s.job.place, missing="no place named")),
                ("What was done", words(said.done if said else "", missing="not described")),
                ("Completed on", words(said.completed if said else "", missing="no date")),
                ("Departures from the rules, with the reason", words(said.departures if said else "", missing="" if said else "not said")),
                ("The existing installation", words(said.existing if said else "", missing="" if said else "nothing said")),
            ],
        ),
        supply_facts(s),
        Facts(
            f"The circuit: {s.named(circuit)}",
            [
                ("Serves", words(serves(s, circuit))),
                ("Board", words(next((b.name for b in s.job.boards if b.id == circuit.board), ""))),
                ("Device", Item(device_words(s.rules, circuit.device, circuit.phases), missing=circuit.device.rating is None)),
                ("Cable", words(cable_words(s.rules, circuit))),
                ("cpc", cpc_cell(s, circuit)),
                ("Length", number(found.length, "m")),
                ("Design current Ib", number(found.ib, "A")),
                ("Capacity Iz", number(found.iz, "A")),
                ("Volt drop", number(found.drop, "%")),
                ("Zs predicted, hot", number(found.zs, "Ω", assumed="Ze" in found.assumed)),
                ("Zs allowed, hot", number(found.zs_max, "Ω")),
                ("By its checks", verdict_cell(found.verdict, found.headline, assumed=bool(found.assumed), doubtful=found.doubtful)),
                ("Why", words(found.reason)),
            ],
        ),
        Facts(
            "What was read",
            [
                ("cpc continuous: R1 + R2, or R2", worst(tests, ("r1r2", "r2_lead", "cross_le"))),
                ("Insulation, live conductors", worst(tests, ("ir_ln", "ir_ll"))),
                ("Insulation to earth", worst(tests, ("ir_le", "ir_ne"))),
                ("Polarity", worst(tests, ("polarity",))),
                ("Zs", worst(tests, ("zs",))),
                ("A reading of Zs may show", number((zs.fine if zs.fine is not None else zs.most) if zs else None, "Ω", needed=False)),
                ("RCD at its current", worst(tests, ("rcd_1",))),
                ("Functional test", worst(tests, ("functional",))),
            ],
        ),
        Table("Every reading of it", READING, read, key=3, fine=True, note="" if read else "Nothing was read yet."),
        Words("What is signed", [STATEMENT]),
        Signature("Designed, built, inspected and tested by"),
        Signature("Taken over by, for the client"),
    ]
