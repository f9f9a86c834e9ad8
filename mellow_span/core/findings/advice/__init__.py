"""Advice: facts of the job that call for a word, each with its reason and clause."""

from mellow_span.core.findings.advice import devices, places, wiring
from mellow_span.core.findings.advice.base import HINTS, Advice, Facts, Hint
from mellow_span.core.findings.advice.told import advise

__all__ = ["HINTS", "Advice", "Facts", "Hint", "advise", "devices", "places", "wiring"]
