"""One function for each question that a view asks of a job: what goes in is plain values of the core, what comes out is plain data.

Asked by the server for whoever is signed in, and in the page by a device that has no signal: the same functions, so the same answers. Nothing here
knows of a database, of HTTP or of a person; what a question needs beside the job comes with `Given`.
"""
