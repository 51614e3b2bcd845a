"""How a thing is said: a message, its quantities, and what is wrong with its way out.

It knows no trade, no unit's size and no language.
"""
