"""The rules of circuit design: pure Python, no interface, no clock, no I/O beyond its own tables."""
