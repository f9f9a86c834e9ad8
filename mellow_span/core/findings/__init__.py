"""What was found, in types and in words: results, attention, advice."""
