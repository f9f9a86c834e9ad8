"""Protective devices as functions: when they open and what they let through."""
