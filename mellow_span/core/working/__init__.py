"""How a figure was reached: steps, and the two recorders that keep them or do not."""
