"""When: the loads of several jobs on one line.

It knows a load as spells of time, and no mix.
"""
