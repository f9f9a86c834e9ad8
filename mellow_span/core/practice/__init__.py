"""Practice: made-up circuits to work out by hand, marked step by step on the same engine the design goes by."""
