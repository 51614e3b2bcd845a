"""Everything that draws, in units of its drawing: shapes, vessels, marks, mixes, the day, curves.

It asks no database and answers nobody.
"""
