"""A circuit said in a line, read: what was understood word by word, what was assumed, and what could not be read."""
