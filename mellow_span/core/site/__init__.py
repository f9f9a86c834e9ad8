"""From the design to the reading: predictions and comparisons."""
