"""What was typed or read: units, quantities, sums, days.

It knows no material and no vessel.
"""
