"""Scales and meters beside the mixer: one protocol, and stand-ins that ship with the app."""
