"""Jobs in and out of open formats. Knows the core and no framework."""
