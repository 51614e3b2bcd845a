"""Scales and meters on the run page."""
