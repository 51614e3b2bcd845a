"""What it was: proofs, notes, which loads are in which piece, the look back.

It changes nothing of what happened.
"""
