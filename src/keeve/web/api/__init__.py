"""Doors for other programs."""
