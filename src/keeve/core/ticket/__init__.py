"""What is kept of a plan: the ticket, its past, what changed and what a load needs afterwards.

It knows no log.
"""
