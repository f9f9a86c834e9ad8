"""The rules, clause by clause, by subject. They see one case at a time and know nothing of searches, drawings or storage."""
