"""Whose rows: a crew's jobs, logs, book, day, proofs, photos and stock, asked through stores made for one crew.

It knows no page.
"""
