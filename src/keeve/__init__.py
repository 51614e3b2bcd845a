"""Keeve sizes batches of concrete, mortar, stucco, screed and plaster, and stays beside the mixer."""

__version__ = "0.2.0"
