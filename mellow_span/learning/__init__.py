"""Practice as it is kept: what each person tried, the papers that are set, and who sat them."""
