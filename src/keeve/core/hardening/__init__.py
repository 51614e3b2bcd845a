"""What time does: life, waiting, strength, maturity.

It knows no load and no day.
"""
