"""What lies in the yard, and how wet it is.

It knows no mix: what goes into a load is asked further up.
"""
