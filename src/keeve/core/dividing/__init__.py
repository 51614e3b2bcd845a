"""An order in loads: how it may be divided, begun and compared.

It knows no weather and keeps nothing.
"""
