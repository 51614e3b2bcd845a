"""What must be filled: shapes, measured and added up to a volume, and how sure it is.

It knows no mix.
"""
