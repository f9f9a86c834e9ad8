"""What is designed, as plain values: its parts, how they are read from plain data, and how they change."""

from mellow_span.core.model.parts import (
    Basis,
    Board,
    Bundle,
    Cable,
    Circuit,
    CpcKind,
    Curve,
    Device,
    DeviceKind,
    Dismissal,
    Earthing,
    Installation,
    Load,
    LoadKind,
    Location,
    Phase,
    Phases,
    Readings,
    Run,
    Shape,
    Source,
    Span,
    Supply,
)

__all__ = [
    "Basis", "Board", "Bundle", "Cable", "Circuit", "CpcKind", "Curve", "Device", "DeviceKind", "Dismissal", "Earthing", "Installation",
    "Load", "LoadKind", "Location", "Phase", "Phases", "Readings", "Run", "Shape", "Source", "Span", "Supply",
]  # fmt: skip
