"""Whether conductors survive the fault."""
