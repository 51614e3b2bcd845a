"""The air, the heat, and what can hurt.

It knows no order of loads.
"""
