"""Figures as they are drawn: the span profile."""
