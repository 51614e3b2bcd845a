"""One load: what goes in, how it is measured, how much water, step by step.

It knows one load at a time, and no order of them.
"""
