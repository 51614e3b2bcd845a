"""All of a yard as one file, out and in, also where both have gone on meanwhile.

It stands on the rows.
"""
