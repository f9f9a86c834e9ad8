"""Volt drop from the origin to the far point."""
