"""How a process of the app is set up, whatever it is for: the rights it gives up, how it collects garbage."""
