"""Layout, fields and drawings that the stations share."""
