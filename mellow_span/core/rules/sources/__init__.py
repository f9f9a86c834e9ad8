"""More than one source: inverters and generators beside the network, or in its place (section 551, 712)."""
