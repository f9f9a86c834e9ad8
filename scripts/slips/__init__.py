"""Slips by class, made from the source one at a time, to see whether the tests of their room notice: ./run slips [ROOM] [--sample N]."""
