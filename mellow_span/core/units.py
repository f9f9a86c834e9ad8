"""Conversions between units, each once. Inside, every quantity has one unit: A, V, ohm, m, mm2, s, C, W; these lead to what people read."""

from __future__ import annotations

MM_PER_M = 1000
MA_PER_A = 1000
AMPERE_PER_KA = 1000
WATT_PER_KW = 1000
MS_PER_S = 1000
MOHM_PER_OHM = 1000
PERCENT = 100
