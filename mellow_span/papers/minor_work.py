"""The record of minor work on one circuit: from what was designed and read, with what only the person who did it can say."""

from __future__ import annotations

from mellow_span.core.errors import InputError
from mellow_span.core.site.entries import last
from mellow_span.core.site.words import cable_words, device_words
from mellow_span.papers.page import Block, Facts, Item, Signature, Table, Words, number, verdict_cell, words
from mellow_span.papers.results import READING, asked_for, readings_of, worst
from mellow_span.papers.schedule import cpc_cell, result_of, serves, supply_facts
from mellow_span.papers.subject import Subject

STATEMENT = (
    "Whoever signs designed, built, inspected and tested this work, or supervised it, to the standard named here apart from the departures "
    "listed. It is not a report on the rest of the installation."
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
                ("For", words(s.job.client, missing="not entered")),
                ("At", words(s.job.place, missing="not entered")),
                ("What was done", words(said.done if said else "", missing="not entered")),
                ("Completed on", words(said.completed if said else "", missing="no date")),
                (
                    "Departures from the standard, with the reason",
                    words(said.departures if said else "", missing="" if said else "not entered"),
                ),
                ("Comments on the existing installation", words(said.existing if said else "", missing="" if said else "not entered")),
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
                ("Max Zs, conductors hot", number(found.zs_max, "Ω")),
                ("Design verdict", verdict_cell(found.verdict, found.headline, assumed=bool(found.assumed), doubtful=found.doubtful)),
                ("Why", words(found.reason)),
            ],
        ),
        Facts(
            "Test results",
            [
                ("cpc continuity: R1 + R2 or R2", worst(tests, ("r1r2", "r2_lead", "cross_le"))),
                ("Insulation resistance, live to live", worst(tests, ("ir_ln", "ir_ll"))),
                ("Insulation resistance, live to earth", worst(tests, ("ir_le", "ir_ne"))),
                ("Polarity", worst(tests, ("polarity",))),
                ("Zs", worst(tests, ("zs",))),
                ("Max measured Zs (80 %)", number((zs.fine if zs.fine is not None else zs.most) if zs else None, "Ω", needed=False)),
                ("RCD trip time at 1 × IΔn", worst(tests, ("rcd_1",))),
                ("Functional test", worst(tests, ("functional",))),
            ],
        ),
        Table("All test results", READING, read, key=3, fine=True, note="" if read else "No test results yet."),
        Words("Declaration", [STATEMENT]),
        Signature("Designed, built, inspected and tested by"),
        Signature("Received for the client by"),
    ]
